"""What the quick answer proposes: the strips, the method and the time, each against the answers it is drawn from."""

import pytest

from bright_willow.core.common.findings import LEVELS
from bright_willow.core.job.new_job import starting_job
from bright_willow.core.plan.compare import compare_ways
from bright_willow.core.plan.plan import plan
from bright_willow.core.plan.quick import quick_answer
from bright_willow.core.plan.read_job import read_job
from bright_willow.core.shop.shop import Shop
from bright_willow.core.workpiece.strip_options import strip_options

SHOP = Shop()


def job_of(thickness_mm, shape=None):
    data = starting_job("mm").model_dump()
    data["part"] |= {"thickness_mm": thickness_mm}
    return read_job(data | ({"shape": shape} if shape else {}))


@pytest.mark.parametrize("thickness_mm", [12, 24, 45])
def test_it_takes_the_recommended_strips_and_offers_the_next_good_ones(thickness_mm):
    job = job_of(thickness_mm)
    options = strip_options(plan(job, SHOP).ladder, thinnest_mm=SHOP.thinnest_mm)
    answer = quick_answer(job, "glued", SHOP)
    best = options.recommended
    assert (answer.plan.job.build_up.laminae, answer.plan.job.build_up.lamina_mm) == (best.laminae, best.lamina_mm)
    more = [r.laminae for r in options.rows if r.good and r.laminae > best.laminae]
    assert answer.other.laminae == min(more)


@pytest.mark.parametrize("thickness_mm", [3, 6, 10])
def test_a_thin_part_is_not_made_of_strips_the_shop_cannot_cut(thickness_mm):
    answer = quick_answer(job_of(thickness_mm), "glued", SHOP)
    strips = answer.plan.job.build_up.laminae
    assert thickness_mm / strips >= SHOP.thinnest_mm or strips == 2  # two at least make a layup
    assert answer.other is None  # the next are too thin


def test_thicker_wood_takes_more_strips():
    counts = [quick_answer(job_of(t), "glued", SHOP).plan.job.build_up.laminae for t in (12, 24, 45)]
    assert counts == sorted(counts) and counts[0] < counts[-1]


@pytest.mark.parametrize("radius_mm", [120, 250, 400, 3000])
def test_steamed_wood_goes_into_a_strap_only_where_it_would_break_without(radius_mm):
    job = job_of(24, {"kind": "arc_by_radius", "face": "inner", "radius_mm": radius_mm, "angle_deg": 90})
    levels = {r.key: LEVELS.index(r.level) for r in compare_ways(job, SHOP)}
    free, strap = levels["steam_free"], levels["steam_strap"]
    way = quick_answer(job, "steamed", SHOP).plan.job.way
    assert way == ("steam_strap" if strap < free else "steam_free")


def test_a_tight_bend_needs_the_strap_and_a_wide_one_does_not():
    def way(radius_mm):
        shape = {"kind": "arc_by_radius", "face": "inner", "radius_mm": radius_mm, "angle_deg": 90}
        return quick_answer(job_of(24, shape), "steamed", SHOP).plan.job.way

    assert (way(250), way(3000)) == ("steam_strap", "steam_free")


def test_with_no_method_chosen_the_one_that_suits_best_is_answered_beside_the_next():
    job = job_of(24)
    able = [r for r in compare_ways(job, SHOP) if r.made and r.level != "stop"]
    able.sort(key=lambda r: (LEVELS.index(r.level), r.made.days))
    answer = quick_answer(job, "unsure", SHOP)
    assert [m.row.key for m in answer.methods] == [r.key for r in able[:2]]
    assert answer.plan.job.way == able[0].key


def test_the_first_piece_is_off_after_the_hours_under_pressure_and_the_work_before():
    job = job_of(24)
    answer = quick_answer(job, "glued", SHOP)
    operations = answer.plan.operations
    keys = [o.key for o in operations]
    before = operations[: keys.index("release") + 1]  # from the first look at the boards to the open clamps
    pressed = operations[keys.index("cure")].unattended_s.likely
    assert answer.off_form_s == pytest.approx(pressed + sum(o.attended_s.likely for o in before), abs=1)
