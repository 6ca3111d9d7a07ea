"""Would another form help?: more of what is waited for, and what it takes to make that."""

from __future__ import annotations

import pytest

from bright_willow.core.learning.belief import NOTHING_LEARNT
from bright_willow.core.plan.plan import plan
from bright_willow.core.plan.what_if import choices, what_would_pay
from bright_willow.core.scheduling.job_tasks import ResourceUse, ShopCapacity
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
    shop = Shop(times=(OwnTime(key="build_strap", seconds=3600), OwnTime(key="fair_metre", seconds=2000)))
    job = job_for("steam_strap", part={"count": 5, "spares": 0})
    made, work = _work(job, shop)
    found = {c.key: c for c in what_would_pay(made, NOTHING_LEARNT, [work], _floor(shop), 0)}
    assert found["now"].sooner_s == 0 and not found["now"].pays
    each = made.form_work.attended_s + 3600
    assert made.form_work.attended_s > 2000 * made.face_figures.length_mm / 1000  # the shop's own time to fair a meter
    assert found["forms2"].sets == {"heat.forms": 2} and found["forms2"].build_s == each  # a form and a strap
    assert found["forms4"].build_s == pytest.approx(3 * each)
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
        for choice in what_would_pay(made, NOTHING_LEARNT, [work], _floor(shop), 0):
            if any(name.startswith("shop.") for name in choice.sets) or not choice.done_s:
                continue
            data = job.model_dump()
            for name, value in choice.sets.items():
                room, field = name.split(".")
                data[room][field] = value
            _, taken = _work(read_job(data), shop)
            assert timetable([taken], _floor(shop), tries=3).done_s == pytest.approx(choice.done_s), (way, choice.key)


def test_fewer_forms_and_two_changes_at_once():
    """Three forms and two pieces left on them: one fewer is tried; a form and drying jigs together gain no less."""
    shop = Shop()
    made, work = _work(job_for("steam_strap", part={"count": 5, "spares": 0}, heat={"forms": 2}), shop)
    found = {c.key: c for c in what_would_pay(made, NOTHING_LEARNT, [work], _floor(shop), 0)}
    assert found["forms1"].sets == {"heat.forms": 1} and found["forms1"].build_s == 0 and found["forms1"].costs
    both, form, frames = found["forms_frames"], found["forms3"], found["frames"]
    assert both.sets == {**form.sets, **frames.sets} and both.build_s == pytest.approx(form.build_s + frames.build_s)
    assert both.done_s <= min(form.done_s, frames.done_s) + 1


def test_as_much_as_a_schedule_uses_at_once_is_enough_for_it():
    """The same schedule with no more of each thing than it ever uses at once is done no later."""
    from bright_willow.core.scheduling.peak_use import peak_use
    from bright_willow.core.scheduling.timetable import timetable

    shop = Shop()
    _, work = _work(job_for("steam_strap", part={"count": 5, "spares": 0}), shop)
    floor = ShopCapacity(week(200), 2, {"chamber": 4, "frame": 10, "clamps": 60})
    table = timetable([work], floor, tries=1)
    peaks = peak_use(table.held)
    two, one = (ResourceUse("frame", 0, n, 1, n, 10.0 * n, 10.0 * n + 15) for n in (2, 1))  # 20 to 35, 10 to 25
    later = ResourceUse("frame", 0, 2, 1, 9, 40.0, 50.0)  # all were given back before
    assert peak_use([two, one, later]) == {"frame": 3} and peak_use([two, one, later], from_s=26.0) == {"frame": 2}
    assert 0 < peaks["frame"] < 10 and peaks["chamber"] <= 4
    few = ShopCapacity(week(200), 2, {what: min(n, peaks.get(what, 0)) for what, n in floor.owned.items()})
    assert timetable([work], few, rule=table.rule).done_s <= table.done_s + 1


def test_choices_are_of_what_the_way_takes():
    shop = Shop()
    keys = {}
    for way in ("cold_lamination", "steam_free", "dry_heat", "straighten"):
        job = job_for(way, part={"count": 3, "spares": 0})
        made, work = _work(job, shop)
        keys[way] = [c.key for c in choices(made, work.operations)]
    assert keys["cold_lamination"] == ["now", "forms2", "forms3", "wide", "people"]
    assert {"forms3", "places", "frames"} <= set(keys["steam_free"])
    assert "places" not in keys["dry_heat"] and not any(k.startswith("forms") for k in keys["straighten"])
    one = job_for("cold_lamination", part={"count": 1, "spares": 0})
    made, work = _work(one, shop)
    assert [c.key for c in choices(plan(one, shop), work.operations)] == ["now", "people"]
