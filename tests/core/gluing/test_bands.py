"""Several bands over a width, and clamps where a band does not press: the sum, the steps, the time, what is held."""

import numpy as np
import pytest

from bright_willow.core.common.errors import PlanError
from bright_willow.core.gluing.pressing import clamps_on, clamps_wanted
from bright_willow.core.plan.plan import plan
from tests.core.methods.jobs import job_for


def glued(shape=None, **build_up):
    choice = {"laminae": 8, "press": "band", "band_pull": "both_ends", **build_up}
    shape = shape or {
        "kind": "hook",
        "face": "inner",
        "start_mm": 260,
        "radius_mm": 150,
        "angle_deg": 170,
        "end_mm": 120,
    }
    return plan(job_for("cold_lamination", shape=shape, part={"thickness_mm": 12, "width_mm": 60}, build_up=choice))


def test_clamps_by_hand():
    assert clamps_wanted(400, pressure_mpa=0.5, width_mm=50, force_kn=4) == 3  # 10 kN over 4 kN
    assert clamps_wanted(0, pressure_mpa=0.5, width_mm=50, force_kn=4) == 1
    given = {"pressure_mpa": 0.5, "width_mm": 50, "force_kn": 4.0}
    assert clamps_on((100, 400), clamps=3, **given) == (0, 3), "the longest first"
    assert clamps_on((100, 400), clamps=2, **given) == (1, 0), "what cannot be pressed whole gets none"
    assert clamps_on((), clamps=5, **given) == ()
    with pytest.raises(PlanError):
        clamps_on((100,), clamps=-1, **given)


def test_bands_side_by_side_press_with_their_sum():
    one, three = glued(), glued(bands=3)
    assert three.laid_up.press.pressure_mpa.value == pytest.approx(3 * one.laid_up.press.pressure_mpa.value)
    assert three.laid_up.press.left_kn.value == pytest.approx(3 * one.laid_up.press.left_kn.value)
    close = next(o for o in three.operations if o.key == "close")
    assert "the 3 bands next to one another" in " ".join(close.steps)
    assert [(h.count, h.kind) for h in close.takes if h.what == "clamps"] == [(3, "band")]
    arc = {"kind": "arc_by_radius", "face": "inner", "radius_mm": 300, "angle_deg": 120}
    ends = [glued(arc, bands=n).laid_up.press.open_end_mm.value for n in (1, 3)]
    assert ends[1] < ends[0], "so less stays off at the ends"


def test_clamps_press_the_straights_a_band_does_not():
    bare = glued()
    found = next(f for f in bare.findings if f.code == "press.band_straight")
    wanted = found.fix.sets["build_up.band_clamps"]
    assert wanted == bare.laid_up.press.clamps_wanted >= 2 and len(bare.laid_up.press.flat) == 2
    some, all_of_them = glued(band_clamps=wanted - 1), glued(band_clamps=wanted)
    assert len(some.laid_up.press.flat) == 1 and some.laid_up.press.clamps == wanted - 1
    assert all_of_them.laid_up.press.flat == () and all_of_them.laid_up.press.clamps == wanted
    assert "press.band_straight" not in {f.code for f in all_of_them.findings}
    close = next(o for o in all_of_them.operations if o.key == "close")
    assert f"{wanted} clamps with cauls" in close.steps[-1]
    assert [(h.count, h.kind) for h in close.takes if h.what == "clamps"] == [(1, "band"), (wanted, "")]
    moves = {m.message: m.to_s - m.from_s for m in close.moves}
    clamped = next(s for name, s in moves.items() if name.startswith("Clamp the straights"))
    own = all_of_them.glued_up
    assert sum(moves.values()) == pytest.approx(own.moves.set_s + own.moves.close_s / own.hands)
    assert clamped == pytest.approx(own.moves.beside_s / own.hands) and own.moves.close_s > bare.glued_up.moves.close_s
    assert np.isclose(bare.glued_up.moves.beside_s, 0)
