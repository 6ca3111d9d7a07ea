"""What lists show is kept, is old when job, shop or book change, and is renewed; rows that cannot be read are said."""

import datetime as dt

import pytest

from bright_willow.core.measuring.built_form import BuiltForm
from bright_willow.core.plan.plan import plan
from bright_willow.core.wood.lot import Lot
from bright_willow.services.summaries import JobLine, refresh_for_page, refresh_summaries
from bright_willow.store.records import NotKept, Page, Unreadable

DAY = dt.date(2026, 5, 1)


def old(store):
    return store.summaries.outdated(100)


def test_a_line_is_old_when_what_it_rests_on_changes(store, rib):
    with store.connected():
        first, second = store.jobs.add(rib), store.jobs.add(rib)
        assert old(store) == [second, first]
        refresh_for_page(store)
        assert old(store) == []
        assert JobLine.read(store.summaries.of_jobs({first})[first].body).wood == "White ash"
        store.jobs.save(first, rib.model_copy(update={"notes": "x"}), "changed")
        assert old(store) == [first] and store.summaries.of_jobs({first, second})[first].is_old
        refresh_for_page(store)
        store.shop_settings.save(store.shop_settings.get().model_copy(update={"units": "in", "name": "Another"}))
        assert old(store) == []  # what is only shown otherwise
        store.shop_settings.save(store.shop_settings.get().model_copy(update={"kerf_mm": 4.0}))
        assert old(store) == [first, second]
        assert all(line.is_old for line in store.summaries.of_jobs({first, second}).values())
        assert refresh_summaries(store, old(store), 0.0) == 1 and old(store) == [second]  # out of patience after one
        refresh_for_page(store)
        form = store.logbook.save_form(first, BuiltForm.of(plan(rib)))
        store.logbook.add_piece(form, label="1", day=DAY, chord_mm=1805, rise_mm=494, face="inner", error_mm=0.5)
        assert old(store) == [first, second]  # the book says something new
        refresh_for_page(store)
        store.jobs.archive(second)
        store.jobs.undo(first)
        assert old(store) == [first]


def test_boards_of_a_lot_are_summed_over_all_its_jobs(store, rib):
    with store.connected():
        lot = Lot(name="Ash", species="ash_white", thickness_mm=50, width_mm=180, length_mm=2600, count=9)
        stock = rib.stock.model_copy(update={"lot": lot})
        ids = [store.jobs.add(rib.model_copy(update={"stock": stock, "name": f"Rib {n}"})) for n in range(3)]
        store.jobs.add(rib)
        refresh_for_page(store)
        each = plan(rib.model_copy(update={"stock": stock})).quantities.boards.boards
        assert store.summaries.boards_by_lot() == {"Ash": (3, 3 * each)} and each > 0
        assert store.summaries.jobs_of_lot("Ash", 2) == [(ids[2], "Rib 2", each), (ids[1], "Rib 1", each)]
        store.jobs.archive(ids[0])
        assert store.summaries.boards_by_lot() == {"Ash": (2, 2 * each)}


def test_pages_of_a_long_list(store, rib):
    with store.connected():
        ids = [store.jobs.add(rib.model_copy(update={"name": f"Job {n}"})) for n in range(7)]
        shown = [[s.id for s in store.jobs.page(Page(n, store.jobs.count(), size=3))] for n in (1, 2, 3, 99)]
        assert shown == [ids[6:3:-1], ids[3:0:-1], ids[:1], ids[:1]]


def test_rows_that_cannot_be_read_are_named_and_can_be_taken_away(demo_client, demo_store):
    with demo_store.connected():
        bad = '{"format": "of the future"}'
        run = demo_store.db.execute_sql
        run("update revision set body = ? where job_id in (2, 3)", (bad,))
        run("update lot set body = ? where id = 1", ("{",))
        run("update built_form set body = ? where id = 1", (bad,))
        run("update shop set body = ?", ('{"kerf_mm": NaN}',))
        run("update taught set body = '{' where piece_id = 1")
        demo_store.jobs.archive(3)
    page = demo_client.get("/").text
    assert page.count("This job cannot be read") == 2 and "/raw/job/2" in page and "settings cannot be read" in page
    assert "Job 2" in page or "cannot be read" in page
    for path in ("/rack", "/book", "/shop", "/jobs/1/shape", "/jobs/1/measure", "/jobs/5/stock", "/jobs/5/form/mine"):
        assert demo_client.get(path).status_code == 200, path
    assert "This lot cannot be read" in demo_client.get("/rack").text
    refused = demo_client.get("/jobs/2/shape", headers={"accept": "text/html"})
    assert refused.status_code == 404 and "/raw/job/2" in refused.text
    assert demo_client.get("/raw/job/2").text == bad and demo_client.get("/raw/lot/1").text == "{"
    assert demo_client.get("/raw/piece/1").status_code == demo_client.get("/raw/job/999").status_code == 404
    with demo_store.connected():
        with pytest.raises(Unreadable):
            demo_store.jobs.get(2)
        demo_store.shop_settings.save(
            demo_store.shop_settings.get()
        )  # kept anew: what could not be read is put aside, not lost
        assert demo_store.fact("shop put aside") == '{"kerf_mm": NaN}' and demo_store.shop_settings.damaged() is None
        assert demo_store.training.learned().used > 3


def test_what_can_no_longer_be_compared_no_longer_teaches(store, rib):
    with store.connected():
        form = store.logbook.save_form(store.jobs.add(rib), BuiltForm.of(plan(rib)))
        piece = store.logbook.add_piece(
            form, label="1", day=DAY, chord_mm=1805, rise_mm=494, face="inner", error_mm=0.5
        )
        assert len(store.training.bends()) == 1
        store.db.execute_sql("update built_form set body = '{' where id = ?", (form,))
        store.logbook.leave_out(piece, False)
        assert store.training.bends() == [] and store.training.learned().used == 0


def test_no_number_that_is_none_is_written(store, rib):
    with store.connected():
        form = store.logbook.save_form(store.jobs.add(rib), BuiltForm.of(plan(rib)))
        for chord in (float("nan"), float("inf")):
            with pytest.raises(NotKept):
                store.logbook.add_piece(
                    form, label="1", day=DAY, chord_mm=chord, rise_mm=494, face="inner", error_mm=0.5
                )
        piece = store.logbook.add_piece(
            form, label="1", day=DAY, chord_mm=1805, rise_mm=494, face="inner", error_mm=0.5
        )
        with pytest.raises(NotKept):
            store.logbook.measure_again(piece, day=DAY, chord_mm=1805, rise_mm=float("nan"), face="inner", error_mm=0.5)
        assert len(store.forms.get(form).pieces) == 1 and len(store.forms.get(form).pieces[0].measurements) == 1
