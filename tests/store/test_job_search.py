"""Jobs found by name, way, wood and state, what is due first; against looking at every job."""

import datetime as dt

import pytest

from bright_willow.store.records import Page
from bright_willow.store.repositories.job_search import ORDERS, STATES, JobQuery
from bright_willow.store.store import Store
from bright_willow.store.tables import JobRow
from tests.sample import fill
from tools.yardstick import Measured

TODAY = dt.date(2026, 11, 23)


@pytest.fixture
def store(tmp_path):
    made = Store(tmp_path)
    with made.connected():
        fill(made)
        yield made


def found(store, **asked):
    sought = JobQuery(**asked)
    count = store.job_search.count(sought)
    listed = store.job_search.page(sought, Page(1, count), TODAY)
    assert len(listed) == count
    return listed


def test_by_name_way_wood_and_both(store):
    every = store.jobs.find()
    for way in store.job_search.in_use()[0]:
        assert {s.id for s in found(store, way=way)} == {s.id for s in every if s.job.way == way}
    for wood in store.job_search.in_use()[1]:
        assert {s.id for s in found(store, wood=wood)} == {s.id for s in every if s.job.stock.species == wood}
    assert {s.job.name for s in found(store, name="gate arch")} == {
        "Orchard gate arch",
        "Old gate arch, measured in place",
    }
    assert [s.job.name for s in found(store, name="arch GATE", way="cold_lamination", wood="oak_white")] == [
        s.job.name for s in every if "gate arch" in s.job.name and s.job.stock.species == "oak_white"
    ]
    assert found(store, name="%") == [] == found(store, way="no such way")


def test_by_state_and_every_job_has_one(store):
    names = {state: {s.id for s in found(store, state=state)} for state in STATES if state != "stopped"}
    assert sorted(i for ids in names.values() for i in ids) == sorted(s.id for s in store.jobs.find())
    for state in store.jobs.find():
        pieces = store.pieces.counts_by_job({state.id}).get(state.id, (0, 0))
        wanted = "measured" if pieces[1] else "built" if pieces[0] else "planned" if state.settled else "started"
        assert state.id in names[wanted]


@pytest.mark.parametrize("today", [TODAY, dt.date(2000, 1, 1)])
def test_what_is_due_stands_first_then_what_was_changed_last(store, today):
    every = store.jobs.find()
    due = store.job_search.again_due({s.id for s in every}, today)
    made = store.pieces.counts_by_job({s.id for s in every})
    assert {i: n for s in every for i, n in store.job_search.again_due({s.id}, today).items()} == due
    assert all(set(store.job_search.again_due({s.id}, today)) <= {s.id} for s in every)
    lost = [s.id for s in every if made.get(s.id, (0, 0))[1] >= s.job.part.count][-1]
    bare = [s.id for s in every if not made.get(s.id, (0, 0))[0]][-1]
    with store.writing():  # a job whose form is there and whose own figures are not; and one nothing is settled of
        JobRow.update(current=10**6).where(JobRow.id == lost).execute()
        JobRow.update(settled="", changed=dt.datetime(2020, 1, 1)).where(JobRow.id == bare).execute()
        JobRow.update(changed=dt.datetime(2026, 5, 1)).where(JobRow.id < bare).execute()  # at one time

    def place(s):
        forms, pieces = made.get(s.id, (0, 0))
        if s.id == lost or not forms:
            rank = 2 if JobRow.get_by_id(s.id).settled else 3
        else:
            rank = 0 if pieces < s.job.part.count else 1 if s.id in due else 4
        return rank, -JobRow.get_by_id(s.id).changed.timestamp(), -s.id

    wanted = sorted(every, key=place)
    assert {place(s)[0] for s in every} == {0, 1 if due else 4, 2, 3} and len({place(s)[1] for s in every}) > 1
    pages = [
        store.job_search.page(JobQuery(), Page(at, len(wanted), size=5), today) for at in range(1, len(wanted) // 5 + 2)
    ]
    assert [s.id for page in pages for s in page] == [s.id for s in wanted]


def test_a_piece_is_due_a_week_after_it_was_measured_once(store):
    form = next(f for f in store.forms.find() if f.pieces)
    job = form.job_id
    for piece in form.pieces:
        for measured in piece.measurements:
            store.logbook.remove_measurement(measured.id)
    day = dt.date(2026, 11, 10)
    one = store.logbook.add_piece(
        form.id,
        label="due",
        day=day,
        chord_mm=1000,
        rise_mm=200,
        face="inner",
        error_mm=0.5,
        mishap="",
        left_out=False,
        note="",
    )
    before = store.job_search.again_due({job}, day + dt.timedelta(days=6)).get(job, 0)
    assert store.job_search.again_due({job}, day + dt.timedelta(days=7))[job] == before + 1
    store.logbook.measure_again(
        one, day=day + dt.timedelta(days=7), chord_mm=1001, rise_mm=200, face="inner", error_mm=0.5
    )
    assert store.job_search.again_due({job}, day + dt.timedelta(days=30)).get(job, 0) == before


def test_in_the_order_asked_for(store):
    every = store.jobs.find()
    due = {s.id: s.job.days.due_day for s in every}
    assert len({d for d in due.values() if d}) > 0
    by = {order: [s.id for s in found(store, order=order)] for order in ORDERS}
    jobs = {s.id: s.job for s in every}
    assert all(sorted(ids) == sorted(jobs) for ids in by.values())
    assert by["new"] == sorted(jobs, reverse=True)
    assert [jobs[i].name.lower() for i in by["name"]] == sorted(j.name.lower() for j in jobs.values())
    assert [jobs[i].stock.species for i in by["wood"]] == sorted(j.stock.species for j in jobs.values())
    days = [due[i] or "9999" for i in by["due"]]
    assert days == sorted(days)
    for tag in store.job_search.tags():
        assert {s.id for s in found(store, tag=tag, order="name")} == {i for i, j in jobs.items() if tag in j.tags}


def test_five_hundred_jobs_are_found_at_once(tmp_path):
    store = Store(tmp_path)
    with store.connected():
        fill(store)
        jobs = [s.job for s in store.jobs.find()]
        for n in range(500):
            store.jobs.add(jobs[n % len(jobs)].model_copy(update={"name": f"Bow {n}"}))
        took = []
        for asked in ({}, {"name": "bow 4"}, {"way": "steam_strap"}, {"state": "planned"}):
            with Measured() as search:
                sought = JobQuery(**asked)
                store.job_search.page(sought, Page(2, store.job_search.count(sought)), TODAY)
            took.append(search.seconds)
        assert max(took) < 0.25
