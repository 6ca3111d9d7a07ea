"""What becomes of a piece: the option that fits comes first, each with what it rests on; a piece bent again."""

from __future__ import annotations

import numpy as np
import pytest

from bright_willow.core.common.errors import PlanError
from bright_willow.core.measuring.built_form import BuiltForm, compare
from bright_willow.core.measuring.mates import Mates
from bright_willow.core.measuring.verdict import bent_again, draw_in_n, has_share, options
from bright_willow.core.plan.plan import plan, sketch
from tests.core.methods.jobs import job_for

JOBS = {w: job_for(w) for w in ("cold_lamination", "steam_free", "straighten", "steam_laminae")}
BUILT = {w: BuiltForm.of(sketch(j)) for w, j in JOBS.items()}


def seen(built: BuiltForm, k: float):
    chord, rise, _ = built.on_face(built.bent_by(k), "mid")
    return compare(built, chord_mm=chord, rise_mm=rise, face="mid", error_mm=0.5)


def keys(made) -> list[str]:
    return [o.key for o in made]


def test_a_piece_that_fits_is_kept_and_one_that_broke_is_not():
    built = BUILT["cold_lamination"]
    made = options(built, seen(built, 1.0), tolerance_mm=50.0)
    assert keys(made) == ["keep", "reject"] and made[0].choice == "keep"
    assert keys(options(built, seen(built, 1.0), tolerance_mm=50.0, failed=True)) == ["reject"]


def test_pull_at_the_tips_by_hand():
    """A cantilever of half the piece: F = 3 E b t³/12 δ / l³."""
    built = BUILT["cold_lamination"]
    from bright_willow.core.wood.species import species

    stiff = species(built.species).moe_gpa * 1000 * built.width_mm * built.thickness_mm**3 / 12
    assert draw_in_n(built, 5.0) == pytest.approx(3 * stiff * 5.0 / (sum(built.lengths_mm) / 2) ** 3)
    assert draw_in_n(built, 0.0) == 0
    with pytest.raises(PlanError):
        draw_in_n(built, float("nan"))


def test_what_is_off_is_paired_drawn_in_or_planed_before_it_is_put_up_with():
    built = BUILT["cold_lamination"]
    off = seen(built, 1.6)
    mates = (Mates("1", "4", 0.8, True), Mates("2", "3", 9.0, False))
    made = options(built, off, tolerance_mm=off.tip_off_mm / 2, mates=mates, label="4")
    assert made[0].key == "mate" and made[0].name == "Pair it with left 1"
    assert keys(options(built, off, tolerance_mm=off.tip_off_mm / 2, mates=mates, label="3"))[0] != "mate"
    assert "again" not in keys(made)  # what is glued is not heated again
    assert made[-1].key == "reject" and "keep" in keys(made)
    for o in made:
        o.message.format(**{name: f"{mm} mm" for name, mm in o.lengths_mm})


@pytest.mark.parametrize("way", ["steam_free", "straighten"])
def test_a_piece_bent_hot_is_bent_again_as_a_job(way):
    job, built = JOBS[way], BUILT[way]
    off = seen(built, 1.5 if way == "steam_free" else 0.7)
    made = options(built, off, tolerance_mm=0.1)
    again = next(o for o in made if o.key == "again")
    assert again.makes_job and again.choice == "correct"
    other = bent_again(job, built, off, "piece 3")
    assert (other.part.count, other.part.spares, other.way) == (1, 0, way) and other.name.endswith("piece 3 again")
    if way == "steam_free":
        wanted, came = np.array(built.wanted_curvature), off.mid_line.curvature
        tight = int(np.abs(wanted).argmax())
        assert other.heat.start_share == pytest.approx(came[tight] / wanted[tight], abs=1e-3)
    else:
        assert other.shape.rise_mm == pytest.approx(off.mid_line.chord_and_rise_mm()[1], abs=0.06)
    assert plan(other).quantities  # it can be planned


def test_what_is_not_bent_again():
    built = BUILT["cold_lamination"]
    with pytest.raises(PlanError, match="cannot be re-bent"):
        bent_again(JOBS["cold_lamination"], built, seen(built, 1.6), "piece 1")
    glued_after = BUILT["steam_laminae"]
    assert "again" not in keys(options(glued_after, seen(glued_after, 1.5), tolerance_mm=0.1))
    hot = BUILT["steam_free"]
    assert has_share(hot, seen(hot, 40.0)) is None or has_share(hot, seen(hot, 40.0)) >= 0
    with pytest.raises(PlanError):
        options(hot, seen(hot, 1.0), tolerance_mm=0.0)
