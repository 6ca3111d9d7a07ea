"""Blanks arched into a strap, shims by their measured length, and a piece pulled to size off the form."""

import numpy as np
import pytest
from scipy.optimize import brentq

from bright_willow.core.common.errors import PlanError
from bright_willow.core.heat.drying import pulled_curvature
from bright_willow.core.heat.strap_fit import arch_mm, fits
from bright_willow.core.measuring.built_form import BuiltForm
from bright_willow.core.plan.plan import plan
from tests.core.methods.jobs import job_for


@pytest.mark.parametrize(("stops", "longer"), [(600.0, 0.5), (1000.0, 1.5), (2400.0, 12.0)])
def test_the_arch_is_that_of_an_arc_whose_chord_is_the_strap(stops, longer):
    half = brentq(lambda a: np.sin(a) / a - stops / (stops + longer), 1e-4, 1.0)
    rise = (stops + longer) / (2 * half) * (1 - np.cos(half))
    assert arch_mm(stops, longer) == pytest.approx(rise, rel=0.01)
    assert arch_mm(stops, 0.0) == 0
    with pytest.raises(PlanError):
        arch_mm(stops, 0.021 * stops)


def test_every_blank_fills_its_strap_with_its_shim():
    blanks = (997.0, 1000.0, 1002.1, 1004.0, 960.0)
    found = fits(blanks, stops_mm=1000.0, preload_mm=2.0, at_once=2)
    assert [f.blank_mm + f.shim_mm for f in found] == pytest.approx([1002.0] * 5)
    assert [f.load for f in found] == [1, 1, 2, 2, 3]
    words = [f.message("mm") for f in found]
    assert words == ["shim 5 mm thick", "shim 2 mm thick", "no shim", "too long, saw off 2 mm", "block 42 mm thick"]
    with pytest.raises(PlanError):
        fits((0.0,), stops_mm=1000.0, preload_mm=0.0, at_once=1)


def test_a_preload_shortens_the_strap_and_not_the_blank():
    plain, arched = (plan(job_for("steam_strap", heat={"preload_mm": p})) for p in (0.0, 3.0))
    cut = plain.quantities.stock.strip_length_mm
    assert arched.quantities.stock.strip_length_mm == cut
    assert arched.hot.heat.strap.length_mm == pytest.approx(plain.hot.heat.strap.length_mm - 3)
    own = plan(job_for("steam_strap", heat={"preload_mm": 3.0, "strap_length_mm": 1400, "blanks_mm": [cut, cut - 2]}))
    strap = own.hot.heat.strap
    assert strap.blocks_mm == pytest.approx(1400 - (plain.hot.heat.strap.length_mm - 3)), "a long strap is filled up"
    assert [f.shim_mm for f in strap.fits] == pytest.approx([0.0, 2.0], abs=0.5)
    steps = " ".join(next(o for o in own.operations if o.key == "set_up").steps)
    assert "Arch the blank in" in steps and "Blank 2: shim" in steps and "blocks" in steps


def test_what_is_pulled_past_size_dries_to_size():
    wanted, released = np.array([0.002, 0.0, -0.001]), np.array([0.0016, 0.0, -0.0009])
    for keeps in (0.0, 0.36, 0.8):
        held = pulled_curvature(wanted, released, keeps=keeps)
        assert held - keeps * (held - released) == pytest.approx(wanted)
    for keeps in (-0.1, 0.81, float("nan")):
        with pytest.raises(PlanError):
            pulled_curvature(wanted, released, keeps=keeps)


@pytest.mark.parametrize("way", ["steam_strap", "steam_free"])
@pytest.mark.parametrize("held_by", ["frame", "none"])
def test_a_piece_pulled_to_size_has_a_form_of_its_size_and_a_strip(way, held_by):
    drawn = plan(job_for(way, form={"school": "pulled"}, heat={"held_by": held_by, "on_form_h": 6}))
    bend, then = drawn.bend, drawn.hot.drying
    assert np.array_equal(bend.on_form.curvature, bend.target.curvature)
    assert then.held.by == "strip" and then.pulled_past_mm > 1
    assert bend.dried[1].curvature == pytest.approx(bend.target.curvature, abs=1e-12)
    tight = int(np.argmax(bend.target.curvature))
    low, high = sorted(c.curvature[tight] for c in (bend.dried[0], bend.dried[2]))
    assert low < bend.target.curvature[tight] < high, "the range stays, about the size"
    assert not {"form.misses", "heat.misses", "heat.early"} & {f.code for f in drawn.findings}
    jig = next(o for o in drawn.operations if o.key == "to_frame").steps
    assert any("past size" in s for s in jig) and "Tack a strip" in jig[0]
    ends = np.array([drawn.held_to.parallel(-drawn.job.part.thickness_mm / 2).points_mm[i] for i in (0, -1)])
    assert np.hypot(*(ends[1] - ends[0])) == pytest.approx(then.held.opening_mm)


def test_steamed_strips_dry_on_their_form_whatever_the_rule():
    pulled, plain = (plan(job_for("steam_laminae", form={"school": s})) for s in ("pulled", "to_size"))
    assert pulled.hot.drying.held.by == plain.hot.drying.held.by and pulled.hot.drying.pulled_past_mm == 0
    assert [f.code for f in pulled.findings] == [f.code for f in plain.findings]


def test_where_nothing_dries_off_the_form_it_cannot_be_pulled():
    with pytest.raises(PlanError) as found:
        plan(job_for("steam_free", form={"school": "pulled"}, heat={"on_form_h": 2000}))
    assert found.value.field == "form.school"
    glued = plan(job_for("cold_lamination", form={"school": "pulled"}))
    assert "form.misses" in {f.code for f in glued.findings}, "glued strips spring back all the same"


@pytest.mark.parametrize("ratio", [0.7, 1.0, 1.4])
def test_a_measured_piece_that_was_pulled_teaches_its_own_springback(ratio):
    drawn = plan(job_for("steam_free", form={"school": "pulled"}, heat={"on_form_h": 6}))
    built = BuiltForm.model_validate_json(BuiltForm.of(drawn).model_dump_json())
    assert built.jig_curvature is not None
    assert BuiltForm.of(plan(job_for("steam_free"))).jig_curvature is None
    assert built.expected == pytest.approx(tuple(drawn.bend.dried[1].curvature.tolist()))
    as_likely = built.bent_by(drawn.bend.loss_ratio.likely).curvature
    assert as_likely == pytest.approx(np.array(built.wanted_curvature), abs=1e-9)
    halves = built.bent_by_halves(ratio, ratio).merged()
    assert halves.sweep_rad == pytest.approx(built.bent_by(ratio).sweep_rad, rel=1e-6)
    chord, rise, _ = built.on_face(built.bent_by(ratio), "inner")
    told = built.record(chord_mm=chord, rise_mm=rise, face="inner", error_mm=0.2)
    assert told.ratio == pytest.approx(ratio, abs=0.03)
