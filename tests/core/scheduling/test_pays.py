"""Would another form help?: more of what is waited for, and what it takes to make that."""

from __future__ import annotations

import pytest

from bright_willow.core.learning.belief import NOTHING_LEARNT
from bright_willow.core.plan.plan import plan
from bright_willow.core.plan.what_if import choices, what_would_pay
from bright_willow.core.scheduling.job_tasks import ShopCapacity
from bright_willow.core.shop.shop import OwnTime, Shop

from ..methods.jobs import job_for
from .rules import DAY, week


def _floor(shop: Shop, people: int = 2) -> ShopCapacity:
    owned = {"chamber": shop.week.places, "frame": shop.week.frames, "saw": 1, "clamps": 60}
    return ShopCapacity(week(200), people, owned)


def _work(job, shop):
    from bright_willow.core.scheduling.job_tasks import JobTasks

    made = plan(job, shop)
    forms = made.way.batches.forms
    return made, JobTasks(1, job.name, made.operations, made.way.batches, {"form": forms, "strap": forms})


def test_forms_pay_where_pieces_wait_for_them():
    shop = Shop(times=(OwnTime(key="build_form", seconds=7200), OwnTime(key="build_strap", seconds=3600)))
    job = job_for("steam_strap", part={"count": 5, "spares": 0})
    made, work = _work(job, shop)
    found = {c.key: c for c in what_would_pay(job, shop, NOTHING_LEARNT, made.way, [work], _floor(shop), 0)}
    assert found["now"].sooner_s == 0 and not found["now"].pays
    assert found["forms2"].sets == {"heat.forms": 2} and found["forms2"].build_s == 10_800  # a form and a strap
    assert found["forms4"].build_s == 3 * 10_800
    assert found["forms2"].pays and found["forms2"].done_s <= found["now"].done_s - 2 * DAY + 7200
    assert found["forms2"].sooner_s == found["now"].done_s - found["forms2"].done_s
    assert not found["frames"].pays and found["frames"].sets == {"shop.week.frames": 12}
    assert found["wide"].sets == {"heat.at_once": 2} and found["wide"].done_s < found["now"].done_s


def test_a_choice_taken_is_what_was_promised():
    """The job with the choice in it, laid out by itself the same way, is done when the choice said."""
    from bright_willow.core.plan.read_job import read_job
    from bright_willow.core.scheduling.timetable import timetable

    shop = Shop()
    for way in ("cold_lamination", "steam_strap", "dry_heat"):
        job = job_for(way, part={"count": 4, "spares": 0})
        made, work = _work(job, shop)
        for choice in what_would_pay(job, shop, NOTHING_LEARNT, made.way, [work], _floor(shop), 0):
            if any(name.startswith("shop.") for name in choice.sets) or not choice.done_s:
                continue
            data = job.model_dump()
            for name, value in choice.sets.items():
                room, field = name.split(".")
                data[room][field] = value
            _, taken = _work(read_job(data), shop)
            assert timetable([taken], _floor(shop), tries=3).done_s == pytest.approx(choice.done_s), (way, choice.key)


def test_choices_are_of_what_the_way_takes():
    shop = Shop()
    keys = {}
    for way in ("cold_lamination", "steam_free", "dry_heat", "straighten"):
        job = job_for(way, part={"count": 3, "spares": 0})
        made, work = _work(job, shop)
        keys[way] = [c.key for c in choices(job, shop, made.way, work.operations)]
    assert keys["cold_lamination"] == ["now", "forms2", "forms3", "wide", "people"]
    assert {"forms3", "places", "frames"} <= set(keys["steam_free"])
    assert "places" not in keys["dry_heat"] and not any(k.startswith("forms") for k in keys["straighten"])
    one = job_for("cold_lamination", part={"count": 1, "spares": 0})
    made, work = _work(one, shop)
    assert [c.key for c in choices(one, shop, made.way, work.operations)] == ["now", "people"]
