"""The answers at the top of stages: overbend, finished radius, strip options, methods that suit, what a new job holds."""

import doctest
import math
from dataclasses import replace

import pytest

from bright_willow.core.job import new_job
from bright_willow.core.methods.method_registry import WAYS
from bright_willow.core.plan.compare import SHOWN_FIRST, compare_ways, suited
from bright_willow.core.plan.plan import plan
from bright_willow.core.workpiece.strip_options import FIRST_ROWS, MOST_ROWS, strip_options
from bright_willow.web import addresses
from bright_willow.web.pages import jobs
from tests.core.methods.jobs import job_for

EVERY = list(WAYS)


def test_overbend_by_hand(rib):
    """Half the rib laid out from its middle, once on the form and once finished: how far apart its ends are."""
    made = plan(rib)
    finished, form, half = 1080.0, 1080.0 * (1 - made.bend.opens.loss_share.likely), made.bend.target.length_mm / 2

    def end(r):
        return r * math.sin(half / r), r * (1 - math.cos(half / r))

    assert made.overbend_mm.likely == pytest.approx(math.dist(end(finished), end(form)), rel=0.01)
    assert made.overbend_mm.low <= made.overbend_mm.likely <= made.overbend_mm.high
    assert made.finished_radius_mm == pytest.approx(1060)
    outside = rib.model_copy(update={"form": rib.form.model_copy(update={"side": "outer"})})
    assert plan(outside).finished_radius_mm == pytest.approx(1100)
    as_wanted = rib.model_copy(update={"form": rib.form.model_copy(update={"school": "to_size"})})
    assert plan(as_wanted).overbend_mm.likely == pytest.approx(0, abs=1e-6)
    assert plan(as_wanted).face_figures.least_radius_mm == pytest.approx(plan(as_wanted).finished_radius_mm, rel=1e-6)


@pytest.mark.parametrize("way", EVERY)
def test_a_form_is_tighter_than_the_piece(way):
    made = plan(job_for(way))
    if made.overbend_mm.likely > 0.1:
        assert made.face_figures.least_radius_mm < made.finished_radius_mm


@pytest.mark.parametrize("thickness", [12.0, 24.0, 40.0])
def test_strip_options_are_a_dozen_that_read_differently_with_the_fewest_good_strips_recommended(thickness):
    job = job_for("cold_lamination", part={"thickness_mm": thickness, "width_mm": 40})
    every = plan(job).ladder
    options = strip_options(every)
    assert 1 < len(options.rows) <= MOST_ROWS + 1 and sum(r.chosen for r in options.rows) == 1
    assert len({(r.laminae, round(r.thickness_mm, 1), round(r.last_mm, 1)) for r in options.rows}) == len(options.rows)
    for r in options.rows:
        if r.lamina_mm is None:
            assert r.laminae * r.thickness_mm == pytest.approx(thickness)
    best = options.recommended
    assert 1 < len(options.first) <= FIRST_ROWS and best in options.first and any(r.chosen for r in options.first)
    places = [options.rows.index(r) for r in options.first]
    assert places == sorted(places)
    assert best in options.rows and best.good and options.reason
    assert best.laminae == min(r.laminae for r in every if r.good)
    alike = [replace(r, lamina_mm=r.thickness_mm + 0.02, chosen=False) for r in every]
    assert strip_options((*every, *alike)).rows == options.rows  # two that read alike are one
    assert strip_options(()).recommended is None and "another method" in strip_options(()).reason


@pytest.mark.parametrize("way", EVERY)
def test_the_methods_that_suit_stand_first_and_none_is_lost(way):
    rows = compare_ways(job_for(way))
    first, rest = suited(rows)
    keys = [s.row.key for s in first]
    able = {r.key for r in rows if r.made and r.level != "stop"} | {way}
    assert way in keys and len(first) == min(SHOWN_FIRST, len(able))
    assert {r.key for r in rows} == {k for k, m in WAYS.items() if m.bends_a_straight_piece} | {way}
    assert sorted(keys + [r.key for r in rest]) == sorted(r.key for r in rows)
    levels = [s.row.level for s in first if not s.row.chosen]
    assert "stop" not in levels and levels == sorted(levels, key=("fit", "watch", "stop").index)
    for s in first:
        assert (s.dry_tip_mm is not None) <= (s.row.key == "steam_laminae")


def test_a_new_job_is_round_in_its_unit_and_glued_with_yellow_glue():
    for made in (new_job.starting_job("in"), new_job.first_bend("in")):
        sizes = (made.shape.chord_mm, made.shape.rise_mm, made.part.thickness_mm, made.part.width_mm, made.part.trim_mm)
        assert all((8 * mm / 25.4) == pytest.approx(round(8 * mm / 25.4)) for mm in sizes), sizes
        assert made.form.sheet_mm == pytest.approx(19.05) and made.heat.lever_mm == pytest.approx(1219.2)
    for made in (new_job.starting_job("mm"), new_job.first_bend("mm")):
        assert made.shape.chord_mm % 10 == 0 and made.build_up.adhesive == "pva"
        assert not [f for f in plan(made).findings if f.level == "stop"]
    assert new_job.starting_shop("in").kerf_mm == 3.175 and new_job.starting_shop("mm").units == "mm"


def test_the_examples_hold():
    for module in (addresses, jobs):
        tried = doctest.testmod(module)
        assert tried.attempted and not tried.failed
