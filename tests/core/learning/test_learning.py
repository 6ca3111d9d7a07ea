"""What bends teach."""

import math
import random

import numpy as np
import pytest
from pydantic import ValidationError

from bright_willow.core.common.errors import PlanError
from bright_willow.core.learning.belief import (
    GROUP_SD,
    SCATTER_SD,
    SHOP_SD,
    Belief,
    BendRecord,
    FittedBend,
    learn,
    loss_ratio,
)
from bright_willow.core.measuring.built_form import BuiltForm, check_measured, compare
from bright_willow.core.plan.plan import plan
from bright_willow.core.plan.read_job import read_job
from bright_willow.core.shape.arc import Arc, face_offset_mm
from tests.conftest import RIB


def bend(ratio, *, group="ash_white|rigid", kf=1 / 1000, lost=2e-5, thickness=40.0, face="inner", error=0.5, **more):
    """A bend of known loss ratio, its chord and rise worked out on a 1.9 m piece."""
    k = kf - ratio * lost
    arc = Arc(1 / k + face_offset_mm(face, thickness), 1900 * k)
    return BendRecord(
        group=group,
        form_curvature=kf,
        predicted_curvature=kf - lost,
        thickness_mm=thickness,
        chord_mm=arc.chord_mm,
        rise_mm=arc.rise_mm,
        face=face,
        error_mm=error,
        **more,
    )


@pytest.mark.parametrize("face", ["inner", "mid", "outer"])
def test_loss_ratio_of_a_known_bend(face):
    seen = loss_ratio(bend(1.3, face=face))
    assert seen.ratio == pytest.approx(1.3, rel=1e-9)


def test_measuring_error_reaches_the_ratio():
    """Moving the rise by its error moves the ratio by no more than the stated error."""
    record = bend(1.3)
    moved = record.model_copy(update={"rise_mm": record.rise_mm + 0.5})
    shift = abs(loss_ratio(moved).ratio - loss_ratio(record).ratio)
    assert 0.2 * loss_ratio(record).error < shift <= loss_ratio(record).error


def test_nothing_measured_gives_the_prior():
    band = learn([]).about(way="cold_lamination", group="x|rigid").next_bend()
    spread = math.sqrt(SHOP_SD**2 + GROUP_SD**2 + SCATTER_SD**2)
    assert band.likely == 1.0
    assert band.high == pytest.approx(math.exp(1.5332 * spread), rel=1e-4)  # Student's t with four degrees
    assert band.low == pytest.approx(1 / band.high)
    assert band.grade == "allowance"


def test_agrees_with_the_joint_normal_solved_as_a_matrix():
    """Independent: build the covariance of all unknowns and data about the mean that was found, and condition on it."""
    ratios = {"a|rigid": [1.2, 1.5, 1.1], "b|rigid": [0.8], "c|slight": [1.9, -0.1]}
    errors = [0.05, 0.3, 0.1, 0.2, 0.6, 1.1]
    rows = [(g, r) for g, rs in ratios.items() for r in rs]
    learnt = learn([FittedBend(group=g, ratio=r, error=e) for (g, r), e in zip(rows, errors, strict=True)])
    beliefs = {g: learnt.about(way="cold_lamination", group=g) for g in [*ratios, "new|rigid"]}
    scatter = beliefs["a|rigid"].scatter
    mid = np.array([math.exp(beliefs[g].mean + scatter**2 / 2) for g, _ in rows])
    y = np.array([beliefs[g].mean for g, _ in rows]) + (np.array([r for _, r in rows]) - mid) / mid
    noise = scatter**2 + (np.array(errors) / mid) ** 2
    of = [g for g, _ in rows]
    data = SHOP_SD**2 + np.array([[GROUP_SD**2 * (p == q) for q in of] for p in of]) + np.diag(noise)
    for group, belief in beliefs.items():
        cross = SHOP_SD**2 + np.array([GROUP_SD**2 * (group == q) for q in of])
        assert belief.mean == pytest.approx(cross @ np.linalg.solve(data, y), abs=2e-4)
        variance = SHOP_SD**2 + GROUP_SD**2 - cross @ np.linalg.solve(data, cross)
        assert belief.variance == pytest.approx(variance, rel=2e-3)


def simulated(bends, error, scatter, *, shops, seed=1):
    """Shops drawn from the prior: the median error of the likely ratio, and how often the band holds the next piece."""
    rng, off, held, width = np.random.default_rng(seed), [], 0, []
    for _ in range(shops):
        kind = rng.normal(rng.normal(0, SHOP_SD), GROUP_SD)
        seen = np.exp(rng.normal(kind, scatter, bends)) + rng.normal(0, error, bends)
        records = [
            FittedBend.model_construct(way="w", group="g", ratio=float(k), error=error, left_out=False) for k in seen
        ]
        band = learn(records).about(way="w", group="g").next_bend()
        off.append(math.log(band.likely) - kind)
        held += math.log(band.low) <= rng.normal(kind, scatter) <= math.log(band.high)
        width.append(math.log(band.high / band.low))
    return math.exp(float(np.median(off))) - 1, held / shops, float(np.mean(width))


@pytest.mark.parametrize("scatter", [0.1, 0.25, 0.45])
@pytest.mark.parametrize("error", [0.05, 0.3, 0.8, 1.5])
def test_learning_is_not_biased_and_its_band_holds(error, scatter):
    widths = []
    for bends in (1, 5, 20):
        off, held, width = simulated(bends, error, scatter, shops=320)
        assert abs(off) < 0.10
        assert held > (0.57 if scatter > 0.4 else 0.75) and (bends < 20 or held <= 0.99)
        widths.append(width)
    if scatter < 0.4:  # a shop that scatters twice as much as is usual learns that its band was too narrow
        assert widths[0] > widths[1] > widths[2]


def test_scatter_is_learnt():
    def scatter(spread, n=40, error=0.02):
        rng = random.Random(3)
        rows = [FittedBend(group="g", ratio=math.exp(rng.gauss(0, spread)), error=error) for _ in range(n)]
        return learn(rows).about(way="cold_lamination", group="g")

    assert scatter(0.08).scatter == pytest.approx(0.08, rel=0.5) and scatter(0.45).scatter == pytest.approx(
        0.45, rel=0.25
    )
    assert scatter(0.08).known_by == pytest.approx(43, abs=2)
    assert scatter(0.3, error=3.0).known_by < 6  # bends that measuring drowns say nothing of scatter


def test_no_bend_is_dropped_for_its_result():
    rows = [FittedBend(group="g", ratio=r, error=0.8) for r in (-0.4, 0.3, 1.9, 2.2)]
    learnt = learn(rows)
    assert (learnt.used, learnt.unusable) == (4, 0)
    assert learnt.about(way="cold_lamination", group="g").next_bend().likely == pytest.approx(1.0, abs=0.06)


def test_more_bends_narrow_the_band_and_left_out_ones_do_not():
    def width(records):
        band = learn(records).about(way="cold_lamination", group="ash_white|rigid").next_bend()
        return band.high / band.low

    assert width([bend(1.2)] * 6) < width([bend(1.2)]) < width([])
    assert learn([bend(3.0, left_out=True)]).used == 0


def test_a_bend_that_cannot_be_compared_is_counted():
    none = bend(1.0).model_copy(update={"predicted_curvature": 1 / 1000})
    learnt = learn([bend(0.02), bend(-0.5), bend(1.2), none])
    assert (learnt.used, learnt.unusable) == (3, 1)


def test_records_are_checked():
    with pytest.raises(ValidationError):
        BendRecord(group="g", form_curvature=-1, predicted_curvature=0, thickness_mm=1, chord_mm=1, rise_mm=1)
    with pytest.raises(PlanError, match="springback is zero"):
        loss_ratio(bend(1.0).model_copy(update={"predicted_curvature": 1 / 1000}))


def test_a_built_form_expects_what_its_plan_said(rib):
    made = plan(rib)
    built = BuiltForm.of(made)
    chord, rise = built.expected_on("inner")
    assert (chord.likely, rise.likely) == (pytest.approx(1800, abs=1e-6), pytest.approx(500, abs=1e-6))
    assert chord.low < 1800 < chord.high
    assert built.matches(rib)
    assert not built.matches(rib.model_copy(update={"build_up": rib.build_up.model_copy(update={"laminae": 9})}))


def test_comparing_a_piece_that_opened_more(rib):
    built = BuiltForm.of(plan(rib))
    bent = built.mid_line((built.expected[0] * 0.985,))
    chord, rise, _ = built.on_face(bent, "inner")
    seen = compare(built, chord_mm=chord, rise_mm=rise, face="inner", error_mm=0.5)
    assert seen.opens
    assert seen.chord_off_mm == pytest.approx(chord - 1800, abs=1e-6)
    assert seen.rise_off_mm == pytest.approx(rise - 500, abs=1e-6)
    lost = built.form_curvature[0] - built.predicted_curvature[0]
    assert seen.ratio == pytest.approx((built.form_curvature[0] - bent.curvature[0]) / lost)
    # the tips of the inner face, crown laid on crown, move about as those of the mid-line
    assert seen.tip_off_mm == pytest.approx(math.hypot(seen.chord_off_mm / 2, seen.rise_off_mm), rel=0.05)


@pytest.mark.parametrize(
    "shape",
    [
        {"kind": "hook", "face": "inner", "start_mm": 300, "radius_mm": 250, "angle_deg": 100, "end_mm": 80},
        {
            "kind": "s",
            "face": "mid",
            "first_radius_mm": 400,
            "first_angle_deg": 70,
            "second_radius_mm": 300,
            "second_angle_deg": 50,
            "straight_mm": 60,
        },
        {"kind": "arc_by_chord", "face": "inner", "chord_mm": 900, "rise_mm": 200},
    ],
)
def test_the_ratio_is_found_again_for_any_curve(shape):
    job = read_job({**RIB, "shape": shape, "part": {"thickness_mm": 24, "width_mm": 30}, "build_up": {"laminae": 5}})
    built = BuiltForm.of(plan(job))
    for ratio in (0.7, 1.0, 1.8):
        chord, rise, _ = built.on_face(built.bent_by(ratio), "outer")
        fitted = built.fitted_ratio(chord_mm=chord, rise_mm=rise, face="outer", error_mm=0.5)
        assert fitted.ratio == pytest.approx(ratio, abs=1e-6)
        direct = loss_ratio(built.record(chord_mm=chord, rise_mm=rise, face="outer", error_mm=0.5))
        assert direct.ratio == pytest.approx(ratio, abs=1e-6)
    moved = built.fitted_ratio(chord_mm=chord + 0.5, rise_mm=rise, face="outer", error_mm=0.5)
    assert abs(moved.ratio - ratio) <= fitted.error * 1.01


def test_measurements_that_cannot_be_of_this_piece_are_refused(rib):
    built = BuiltForm.of(plan(rib))
    with pytest.raises(PlanError, match="long") as caught:
        check_measured(built, chord_mm=900, rise_mm=250, face="inner")
    assert "mm" in caught.value.message("mm")
    with pytest.raises(PlanError):
        check_measured(built, chord_mm=1800, rise_mm=0, face="inner")
    check_measured(built, chord_mm=1806, rise_mm=492, face="inner")


def test_a_bend_of_another_shop_weighs_its_share():
    own = Belief(0.0, 0.1)
    assert [own.weighs(0.3, s) for s in (0.0, 0.25, 1.0)] == pytest.approx([0.0, own.weighs(0.3) / 4, own.weighs(0.3)])
    assert 1 == own.weighs(0.0) > own.weighs(0.2) > own.weighs(0.4) > 0
    for bad in ({"error": -0.1}, {"error": 0.1, "share": 1.1}, {"error": 0.1, "share": float("nan")}):
        with pytest.raises(PlanError):
            own.weighs(**bad)
