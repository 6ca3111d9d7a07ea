"""What the logbook shows: shown with its band and what it rests on, each kind switched to the allowance and back."""

from __future__ import annotations

import datetime as dt
import re

import pytest

from bright_willow.core.learning.durations import ObservedTime
from bright_willow.core.learning.steam_times import SteamedSample
from bright_willow.core.plan.plan import plan
from bright_willow.core.shop.times import time_table
from bright_willow.core.wood.species import OwnWood
from bright_willow.store.store import Store
from tests.web.test_runs import Shop

GLUED = 2  # a bend of the demo with pieces


@pytest.fixture
def shop(store):
    made = Shop(store)
    yield made
    made.app.state.reader.stop()


def planned(shop):
    with shop.store.connected():
        return plan(shop.store.jobs.get(GLUED).job, shop.store.shop_settings.get(), shop.store.training.learned())


def test_each_kind_is_switched_to_the_allowance_and_back(shop):
    page = shop.client.get("/book/learnt").text
    assert len(re.findall(r">Use the rule of thumb<", page)) == 5
    before = planned(shop)
    assert before.bend.opens.tip_mm.grade == "learned" == before.bend.opens.settling_tip_mm.grade
    assert before.quantities.expected_yield.grade == "learned"
    for kind, of in (
        ("springback", lambda p: p.bend.opens.tip_mm.grade),
        ("settling", lambda p: p.bend.opens.settling_tip_mm.grade),
        ("yields", lambda p: p.quantities.expected_yield.grade),
    ):
        page = shop.client.post(f"/book/learnt/{kind}?on=false").text
        assert "Plans use the rule of thumb." in page and of(planned(shop)) != "learned"
        assert sum(g(planned(shop)) == "learned" for g in (lambda p: p.bend.opens.tip_mm.grade, lambda p: p.bend.opens.settling_tip_mm.grade, lambda p: p.quantities.expected_yield.grade)) == 2  # fmt: skip
        shop.client.post(f"/book/learnt/{kind}?on=true")
    assert planned(shop).bend.opens == before.bend.opens  # nothing was forgotten
    assert shop.client.post("/book/learnt/nonsense?on=true").status_code == 404


def test_a_piece_measured_again_teaches_how_it_settles(shop):
    with shop.store.connected():
        form = shop.store.forms.find(GLUED)[-1]
        before = shop.store.training.learned().settles("rigid", 0.003)
        piece = form.pieces[0]
        first = piece.measurements[0]
        for days, more in ((30, 6.0), (60, 8.0)):
            shop.store.logbook.measure_again(piece.id, day=first.day + dt.timedelta(days), chord_mm=first.chord_mm + more, rise_mm=first.rise_mm - more * 0.4, face=first.face, error_mm=0.5)  # fmt: skip
        after = shop.store.training.learned().settles("rigid", 0.003)
        assert after.likely > before.likely + 0.003 and after.grade == "learned"
        shop.store.logbook.leave_out(piece.id, True)
        assert (
            shop.store.training.learned().settles("rigid", 0.003).likely < after.likely
        )  # left out it teaches nothing
        shop.store.logbook.leave_out(piece.id, False)
        assert shop.store.training.learned().settles("rigid", 0.003) == after
    page = shop.client.get("/book/learnt").text
    assert "measured again" in page and "settling-chart" in page


def test_an_older_shop_s_pieces_teach_it_too(shop):
    """What a database of before the change knows of later measurements is worked out when it is opened."""
    with shop.store.connected():
        learnt = shop.store.training.learned().settling
        assert learnt
        shop.store.db.execute_sql("delete from taught where piece_id in (select piece_id from measurement group by piece_id having count(*) > 1)")  # fmt: skip
        shop.store.db.execute_sql("delete from meta where key = 'taught'")
    shop.store.close()
    opened = Store(shop.store.path.parent)
    with opened.connected():
        assert opened.training.learned().settling == learnt
    opened.close()


def test_with_nothing_measured_each_room_says_what_would_teach_it(client):
    page = client.get("/book/learnt").text
    assert page.count('class="empty-line"') == 6 and "learning" not in page


def test_times_and_steam_times_are_switched_too(shop):
    key, own = next(iter(time_table().items()))
    with shop.store.connected():
        shop.store.observed.save_times(1, [ObservedTime(2 * own.seconds, own.seconds, ((key, 1.0, own.seconds),))] * 5)
        group, thick = plan(shop.store.jobs.get(14).job).way.group, shop.store.jobs.get(14).job.part.thickness_mm
        shop.store.observed.save_steamed(
            1, [SteamedSample(group, thick, minutes, True) for minutes in (31.0, 32.0, 33.0, 34.0)]
        )

    def learnt() -> tuple[int, bool]:
        with shop.store.connected():
            return len(shop.store.shop_settings.get().learnt_times), "4 such pieces" in shop.client.get(
                "/jobs/14/steam"
            ).text

    page = shop.client.get("/book/learnt").text
    assert "seen 5 times at the bench" in page and "4 of 4 pieces whole" in page
    before = learnt()
    assert before == (1, True)
    shop.client.post("/book/learnt/times?on=false")
    assert learnt() == (0, before[1]) and "seen 5 times" in shop.client.get("/book/learnt").text  # not forgotten
    shop.client.post("/book/learnt/steam_times?on=false")
    assert learnt() == (0, False)
    for kind in ("times", "steam_times"):
        shop.client.post(f"/book/learnt/{kind}?on=true")
    assert learnt() == before


def test_a_limit_of_one_s_own_is_left_for_the_published_one(shop):
    with shop.store.connected():
        own = shop.store.shop_settings.get()
        woods = (*(w for w in own.woods if w.key != "ash_white"), OwnWood(key="ash_white", rt_free=7.5, note="mine"))
        shop.store.shop_settings.save(own.model_copy(update={"woods": woods}))
    page = shop.client.get("/book/learnt").text
    assert "radius ÷ thickness 7.5 free" in page and "Use the handbook limit" in page
    page = shop.client.post("/book/learnt/limits/ash_white").text
    assert "R/T 7.5" not in page and "published limit<" not in page
    with shop.store.connected():
        kept = next(w for w in shop.store.shop_settings.get().woods if w.key == "ash_white")
    assert (kept.rt_free, kept.note) == (None, "mine")  # the rest of it stays
    assert shop.client.post("/book/learnt/limits/no_such_wood").status_code == 200
