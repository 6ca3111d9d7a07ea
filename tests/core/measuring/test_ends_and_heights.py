"""Measured otherwise than by chord and rise: what a bent piece shows, read back, gives the bend it came from."""

from __future__ import annotations

import math

import numpy as np
import pytest

from bright_willow.core.common.errors import PlanError
from bright_willow.core.common.units import parse_length_mm
from bright_willow.core.measuring.built_form import BuiltForm
from bright_willow.core.measuring.ends_and_heights import (
    Angle,
    GapReadings,
    Heights,
    measured,
    read_rows,
    straightened,
)
from bright_willow.core.plan.plan import sketch
from bright_willow.core.shape.arc import face_offset_mm
from bright_willow.core.shape.curve import Curve
from tests.core.methods.jobs import job_for

BUILT = {w: BuiltForm.of(sketch(job_for(w))) for w in ("cold_lamination", "steam_free", "steam_strap")}
ARC = BuiltForm.of(sketch(job_for("cold_lamination", shape={"kind": "arc_by_chord", "face": "inner", "chord_mm": 900, "rise_mm": 160})))  # fmt: skip


def shown(built: BuiltForm, k: float, face="inner", count=7) -> Heights:
    along, high = straightened(built.bent_by(k).parallel(face_offset_mm(face, built.thickness_mm)))
    at = np.linspace(along[-1] * 0.1, along[-1] * 0.9, count)
    return Heights(tuple(at.tolist()), tuple(np.interp(at, along, high).tolist()), face)


@pytest.mark.parametrize("k", [0.3, 1.0, 1.7])
@pytest.mark.parametrize("built", [ARC, BUILT["cold_lamination"], BUILT["steam_free"]], ids=["arc", "glued", "steamed"])
def test_what_a_piece_shows_gives_the_bend_it_came_from(built, k):
    bent = built.bent_by(k)
    turn = math.degrees(float(bent.lengths_mm @ bent.curvature))
    for readings in (shown(built, k), Angle(turn)):
        made = measured(built, readings, face="inner", error=0.5)
        assert made.ratio.ratio == pytest.approx(k, abs=2e-3) and made.misfit < 0.05
        chord, rise, _ = built.on_face(bent, "inner")
        assert (made.chord_mm, made.rise_mm) == (pytest.approx(chord, abs=0.05), pytest.approx(rise, abs=0.05))
        again = built.fitted_ratio(chord_mm=made.chord_mm, rise_mm=made.rise_mm, face="inner", error_mm=made.error_mm)
        assert again.ratio == pytest.approx(k, abs=2e-3)  # the book learns the same from them
        assert again.error == pytest.approx(made.ratio.error, rel=0.02) or made.error_mm == 0.05


def test_gaps_to_the_form_by_hand():
    """An arc that opens a little: its end leaves the form by Δκ (1 − cos κL/2)/κ², square to the face."""
    length, k_form = float(sum(ARC.lengths_mm)), ARC.form_curvature[0]
    k = 1.2
    change = k * (k_form - ARC.predicted_curvature[0])
    gap = change * (1 - math.cos(k_form * length / 2)) / k_form**2
    made = measured(ARC, GapReadings(gap, None), face="inner", error=0.5)
    assert made.ratio.ratio == pytest.approx(k, rel=0.03)
    both = measured(ARC, GapReadings(gap, gap), face="inner", error=0.5)
    assert both.ratio.ratio == pytest.approx(made.ratio.ratio, rel=1e-3)
    assert both.ratio.error == pytest.approx(made.ratio.error / math.sqrt(2), rel=0.02)  # two readings say more
    assert measured(ARC, GapReadings(0.0, 0.0), face="inner", error=0.5).ratio.ratio == pytest.approx(0.0, abs=1e-6)


def test_the_error_of_a_reading_is_that_of_the_bend():
    dice, k = np.random.default_rng(4), 1.1
    plain = shown(ARC, k)
    seen = []
    for _ in range(200):
        rough = Heights(plain.at_mm, tuple(h + dice.normal(0, 0.5) for h in plain.high_mm), "inner")
        seen.append(measured(ARC, rough, face="inner", error=0.5))
    spread = float(np.std([m.ratio.ratio for m in seen]))
    assert np.median([m.ratio.error for m in seen]) == pytest.approx(spread, rel=0.2)
    assert not any(m.is_odd for m in seen)


def test_a_slip_among_the_heights_is_seen():
    plain = shown(ARC, 1.0)
    slip = Heights(plain.at_mm, (*plain.high_mm[:3], plain.high_mm[3] + 40, *plain.high_mm[4:]), "inner")
    assert measured(ARC, slip, face="inner", error=0.5).is_odd


@pytest.mark.parametrize(
    "readings",
    [
        Heights((), (), "inner"),
        Heights((1.0,), (), "inner"),
        Heights((99_999.0,), (3.0,), "inner"),
        Heights((float("nan"),), (3.0,), "inner"),
        GapReadings(None, None),
        GapReadings(float("inf"), None),
        Angle(float("nan")),
        Angle(-700.0),
    ],
)
def test_readings_that_cannot_be(readings):
    with pytest.raises(PlanError):
        measured(ARC, readings, face="inner", error=0.5)
    with pytest.raises(PlanError):
        measured(ARC, GapReadings(3.0, None), face="inner", error=0.0)


def test_a_curve_that_turns_back_has_no_straightedge():
    with pytest.raises(PlanError):
        straightened(Curve(np.array([1000.0]), np.array([2 * math.pi / 1000 * 0.8])))


def test_rows_are_read_as_lengths():
    rows = read_rows("100, 20\n 4 in , 1/2 in\n\n300\t30.5", lambda t, f: parse_length_mm(t, "mm", f))
    assert rows == ((100.0, 20.0), (pytest.approx(101.6), pytest.approx(12.7)), (300.0, 30.5))
    for bad in ("100", "1,2,3", "a, b", "\n".join(["1, 1"] * 61)):
        with pytest.raises(PlanError):
            read_rows(bad, lambda t, f: parse_length_mm(t, "mm", f))
