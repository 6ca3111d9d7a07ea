"""How a piece was read, kept beside chord and rise: each half, the whole length, written and read again."""

from __future__ import annotations

import numpy as np
import pytest

from bright_willow.core.measuring.built_form import BuiltForm
from bright_willow.core.measuring.ends_and_heights import (
    Angle,
    EndReadings,
    GapReadings,
    Heights,
    ends_measured,
    measured,
    reader,
    straightened,
)
from bright_willow.core.measuring.profile_readings import (
    EdgePoints,
    KeptReading,
    beside,
    ends_by,
    read,
    written,
)
from bright_willow.core.measuring.traced import traced
from bright_willow.core.plan.plan import sketch
from bright_willow.core.shape.arc import face_offset_mm
from tests.core.methods.jobs import job_for

BUILT = BuiltForm.of(sketch(job_for("cold_lamination", shape={"kind": "arc_by_chord", "face": "inner", "chord_mm": 900, "rise_mm": 160})))  # fmt: skip
LEFT, RIGHT = 1.6, 0.9


def whole(kept: KeptReading) -> float:
    """The loss ratio of the whole piece."""
    if isinstance(kept.by, EdgePoints):
        return traced(BUILT, kept.by.traced).measured.ratio.ratio
    return measured(BUILT, kept.by, face="inner", error=kept.error).ratio.ratio


CAME = BUILT.bent_by_halves(LEFT, RIGHT)


def heights(curve) -> Heights:
    along, high = straightened(curve.parallel(face_offset_mm("inner", BUILT.thickness_mm)))
    at = np.linspace(along[-1] * 0.08, along[-1] * 0.92, 9)
    return Heights(tuple(at.tolist()), tuple(np.interp(at, along, high).tolist()), "inner")


def gaps(curve) -> GapReadings:
    return GapReadings(*map(float, reader(BUILT, GapReadings(0.0, 0.0))[1](curve)))


def ends(curve) -> EndReadings:
    """By hand: the chord, and how far each end lies below the tangent at the crown."""
    face = curve.parallel(face_offset_mm("inner", BUILT.thickness_mm))
    a, b = face.points_mm[0], face.points_mm[-1]
    crown = face.at(np.array([face.anchored_at_mm]))[0][0, 1]
    return EndReadings(float(np.hypot(*(b - a))), float(crown - a[1]), float(crown - b[1]), "inner")


def edge(curve) -> EdgePoints:
    face = curve.parallel(face_offset_mm("inner", BUILT.thickness_mm))
    points = face.at(np.linspace(0, face.length_mm, 15))[0] @ np.array([[0.8, 0.6], [-0.6, 0.8]]) + 70
    return EdgePoints(tuple(map(tuple, points.tolist())), (0.2,) * 15, "inner")


@pytest.mark.parametrize("by", [heights, gaps, ends, edge])
def test_each_half_is_found_by_each_way_of_reading(by):
    kept = KeptReading(by(CAME), 0.3)
    left, right = ends_by(BUILT, kept)
    assert (left.ratio, right.ratio) == (pytest.approx(LEFT, abs=0.02), pytest.approx(RIGHT, abs=0.02))
    made = beside(BUILT, whole(kept), kept)
    assert made.tips[0] > made.tips[1] + 0.5 and abs(made.off_wanted[30]) < 1e-9
    assert made.tips[0] == pytest.approx(np.hypot(*(CAME.points_mm[0] - BUILT.mid_line(BUILT.wanted_curvature).points_mm[0])), abs=0.5)  # fmt: skip
    same = beside(BUILT, 1.2, KeptReading(by(BUILT.bent_by(1.2)), 0.3))
    assert not same.ends_differ and same.tips[0] == pytest.approx(same.tips[1], abs=0.05)


def test_what_does_not_tell_halves_apart_says_neither():
    assert ends_measured(BUILT, Angle(40.0), error=0.5) == (None, None)
    assert ends_measured(BUILT, GapReadings(3.0, None), error=0.5) == (None, None)
    made = beside(BUILT, 1.2, KeptReading(Angle(40.0), 0.5))
    assert made.ends == (None, None) and not made.ends_differ and made.seen.size == 0
    assert beside(BUILT, 1.2, None).tips == pytest.approx(made.tips)


def test_a_half_by_hand():
    """Of an arc whose left half alone opened, the right tip stays where it was, middle laid on middle."""
    half = BUILT.bent_by_halves(2.0, 0.0)
    whole, form = BUILT.bent_by(2.0), BUILT.mid_line(BUILT.form_curvature)
    assert half.length_mm == pytest.approx(form.length_mm)
    for end, other in ((0, whole), (-1, form)):
        assert half.points_mm[end] == pytest.approx(other.points_mm[end], abs=1e-6)


def test_opened_is_above_nothing_and_closed_below():
    opened, closed = (beside(BUILT, k, None) for k in (3.0, -1.0))
    assert opened.off_wanted[0] > 0 < opened.off_wanted[-1] and closed.off_wanted[0] < 0 > closed.tips[1]


@pytest.mark.parametrize("by", [heights, gaps, ends, edge])
def test_it_is_written_and_read_again(by):
    kept = KeptReading(by(CAME), 0.3)
    assert read(written(kept)) == kept
    for bad in ("", "{}", "[1]", '{"by": {"between_deg": NaN}, "error": 1}', "x" * 50_000):
        assert read(bad) is None
