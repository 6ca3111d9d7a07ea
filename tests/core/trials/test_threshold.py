"""Trials: the logistic answer against an independent fit and over simulated shops; designs by law; a line by scipy."""

from __future__ import annotations

import math

import numpy as np
import pytest
from scipy import integrate, stats

from bright_willow.core.common.errors import PlanError
from bright_willow.core.trials import threshold
from bright_willow.core.trials.threshold import (
    MIDDLE_SD,
    SURE,
    WIDTH,
    WIDTH_SD,
    TrialOutcome,
    answer,
    grid,
    line,
    next_up_and_down,
    setting_at_90,
    staggered,
)
from tools.yardstick import Measured

SEEN = [
    TrialOutcome(s, w)
    for s, w in ((10, False), (13, False), (16, True), (18, False), (22, True), (26, True), (30, True))
]


def test_against_quadrature():
    """The chance at a setting, and of 90 %, by scipy's double integral over the same posterior."""

    def weight(m: float, v: float) -> float:
        w = math.exp(v)
        log = -0.5 * (m / MIDDLE_SD) ** 2 - 0.5 * ((v - math.log(WIDTH)) / WIDTH_SD) ** 2
        for t in SEEN:
            z = (math.log(t.setting / 18.0) - m) / w
            log += -np.logaddexp(0, -z if t.is_whole else z)
        return math.exp(log)

    def over(value, top=1.4) -> float:
        box = (math.log(WIDTH) - 1.5, math.log(WIDTH) + 1.5)
        return integrate.dblquad(lambda m, v: value(m, v) * weight(m, v), *box, -1.4, top, epsabs=1e-6)[0]

    whole = over(lambda m, v: 1.0)
    made = answer(SEEN, published=18.0, sense=1, over=(8.0, 40.0))
    for at in (12.0, 18.0, 27.0):
        u = math.log(at / 18.0)
        for shown, share in ((made.low, 0.9), (made.chance, 0.5), (made.high, 0.1)):  # so much of it lies above
            c = np.interp(at, made.settings, shown)
            above = over(lambda m, v: 1.0, top=lambda v, u=u, c=c: u - math.exp(v) * math.log(c / (1 - c))) / whole
            assert above == pytest.approx(share, abs=0.02)
    mean = over(lambda m, v: m + math.exp(v) * math.log(SURE / (1 - SURE))) / whole
    assert math.log(made.at_90.likely / 18.0) == pytest.approx(
        mean, abs=0.07
    )  # median against mean of a skew posterior


def test_more_is_safer_or_less_is():
    up = answer(SEEN, published=18.0, sense=1, over=(8.0, 40.0))
    assert np.interp(up.at_90.likely, up.settings, up.chance) == pytest.approx(
        SURE, abs=0.01
    )  # the curve crosses there
    assert list(up.chance) == sorted(up.chance) and up.low[0] < up.chance[0] < up.high[0]
    mirrored = [TrialOutcome(18.0 * 18.0 / t.setting, t.is_whole) for t in SEEN]
    down = answer(mirrored, published=18.0, sense=-1, over=(8.1, 40.5))
    assert list(down.chance) == sorted(down.chance, reverse=True)
    assert down.at_90.likely == pytest.approx(18.0**2 / up.at_90.likely, rel=2e-3)  # the same in a mirror


def test_the_grid_is_fine_enough_and_leaves_no_step_in_the_curve(monkeypatch):
    def curves() -> np.ndarray:
        threshold._grid.cache_clear()
        seen = [TrialOutcome(s, s < 20) for s in (14, 18, 22, 26) * 2]
        made = [answer(seen, published=p, sense=-1, over=(9.0, 40.0)) for p in (18.0, 19.0, 20.0)]
        return np.array([(m.low, m.chance, m.high) for m in made])

    own = curves()
    monkeypatch.setattr(threshold, "MIDDLES", 801)
    monkeypatch.setattr(threshold, "WIDTHS", 121)
    finer = curves()
    threshold._grid.cache_clear()
    assert np.abs(own - finer).max() < 0.01


@pytest.mark.parametrize("setting", [10.0, 6.7, 5.0, 3.3, 2.5, 1.0])
def test_pieces_far_from_the_plan_are_believed(setting):
    """Thirty whole at a setting: nine in ten are whole no later than there; the more so the nearer to none it is. In a
    mirror thirty that failed. Against the posterior on a grid of its own, as wide and as fine as can be."""
    found = threshold.setting_at_90([TrialOutcome(setting, True)] * 30, published=20.0, sense=1)
    assert found.low < found.likely < setting
    m, ln_w = np.meshgrid(np.linspace(-6, 6, 2401), np.linspace(math.log(WIDTH) - 2.4, math.log(WIDTH) + 2.4, 241))
    w = np.exp(ln_w)
    log = -0.5 * (m / threshold.MIDDLE_SD) ** 2 - 0.5 * ((ln_w - math.log(WIDTH)) / threshold.WIDTH_SD) ** 2
    log += 30 * -np.logaddexp(0.0, -(math.log(setting / 20.0) - m) / w)
    weight = np.exp(log - log.max())
    sure = 20.0 * np.exp(m + w * math.log(9))
    order = np.argsort(sure, axis=None)
    along = np.cumsum(weight.ravel()[order]) / weight.sum()
    assert found.likely == pytest.approx(np.interp(0.5, along, sure.ravel()[order]), rel=0.02)
    failed = threshold.setting_at_90([TrialOutcome(400.0 / setting, False)] * 30, published=20.0, sense=1)
    assert failed.likely > 400.0 / setting


def test_nothing_tried_is_the_published_figure_and_its_band():
    made = answer([], published=20.0, sense=1, over=(10.0, 40.0))
    assert np.interp(20.0, made.settings, made.chance) == pytest.approx(0.5, abs=0.01)
    assert made.at_90.likely == pytest.approx(20.0 * math.exp(WIDTH * math.log(9)), rel=0.1)
    assert made.is_one_more_worth_it and 0.05 < made.narrows < 0.6


def test_pieces_narrow_it_until_one_more_is_not_worth_it():
    dice, seen, widths, worth = np.random.default_rng(5), [], [], []
    for n in range(60):
        made = answer(seen, published=20.0, sense=1, over=(8.0, 50.0))
        widths.append(math.log(made.at_90.high / made.at_90.low))
        worth.append(made.narrows)
        chance = 1 / (1 + math.exp(-(math.log(made.one_more / 24.0)) / 0.12))
        seen.append(TrialOutcome(made.one_more, bool(dice.random() < chance)))
        assert len(seen) == n + 1
    assert widths[-1] < 0.45 * widths[0] and worth[-1] < 0.04 < worth[0]


def test_over_500_simulated_shops_the_band_holds():
    """Shops drawn from the prior, nine pieces each: the setting at which nine in ten are whole lies in the band in 8 of
    10 of them."""
    dice, inside, off = np.random.default_rng(7), 0, []
    for _ in range(500):
        m, w = dice.normal(0, MIDDLE_SD), math.exp(dice.normal(math.log(WIDTH), WIDTH_SD))
        settings = 20.0 * np.exp(np.linspace(-0.6, 0.6, 9))
        chance = 1 / (1 + np.exp(-(np.log(settings / 20.0) - m) / w))
        seen = [TrialOutcome(float(s), bool(dice.random() < c)) for s, c in zip(settings, chance)]
        true = 20.0 * math.exp(m + w * math.log(9))
        made = setting_at_90(seen, published=20.0, sense=1)
        inside += made.low <= true <= made.high
        off.append(math.log(made.likely / true))
    assert 0.75 <= inside / 500 <= 0.85
    assert abs(float(np.median(off))) < 0.03


def test_it_is_quick():
    many = [TrialOutcome(10.0 + n, n % 3 > 0) for n in range(60)]
    answer(many, published=20.0, sense=1, over=(8.0, 50.0))
    with Measured() as took:
        for _ in range(5):
            answer(many, published=20.0, sense=1, over=(8.0, 50.0))
    assert took.seconds / 5 < 0.15  # the aim is 50 ms


def test_a_grid_has_all_of_it_in_an_order_by_chance():
    made = grid((10.0, 20.0, 30.0), 3, seed=1)
    assert sorted(made) == [10.0] * 3 + [20.0] * 3 + [30.0] * 3 and made != tuple(sorted(made))
    assert made == grid((10.0, 20.0, 30.0), 3, seed=1) != grid((10.0, 20.0, 30.0), 3, seed=2)


def test_up_and_down_goes_to_where_half_come_out_whole():
    dice, seen = np.random.default_rng(2), []
    for _ in range(60):
        at = next_up_and_down(seen, start=40.0, step=1.2, sense=1)
        seen.append(TrialOutcome(at, bool(dice.random() < 1 / (1 + math.exp(-math.log(at / 20.0) / 0.1)))))
    assert np.median([t.setting for t in seen[20:]]) == pytest.approx(20.0, rel=0.15)
    assert next_up_and_down([TrialOutcome(10.0, True)], start=10.0, step=1.25, sense=-1) == 12.5  # thicker is harder
    assert next_up_and_down([TrialOutcome(10.0, False)], start=10.0, step=1.25, sense=-1) == 8.0


def test_one_pair_of_hands_loads_and_takes_out():
    minutes = (20.0, 20.0, 20.0, 35.0, 10.0, 50.0, 35.0)
    made = staggered(minutes, apart_min=4.0, load_min=1.0)
    assert sorted(p.number for p in made) == [1, 2, 3, 4, 5, 6, 7]
    busy = sorted([(p.in_min, p.in_min + 1) for p in made] + [(p.out_min, p.out_min + 4) for p in made])
    assert all(b[0] >= a[1] - 1e-9 for a, b in zip(busy, busy[1:])), busy
    assert all(p.out_min - p.in_min == pytest.approx(minutes[p.number - 1]) for p in made)  # each its own time
    assert min(p.in_min for p in made) == 0.0 and staggered((), apart_min=1.0) == ()


def test_a_line_against_scipy():
    x, y = np.array([10.0, 10, 20, 30, 40, 40]), np.array([9.1, 8.7, 7.2, 4.8, 3.1, 3.6])
    made, fit = line(x, y, at=(10.0, 25.0)), stats.linregress(x, y)
    assert made.slope.likely == pytest.approx(fit.slope)
    t = stats.t.ppf(0.9, 4)
    assert made.slope.high - made.slope.likely == pytest.approx(t * fit.stderr)
    assert made.at[1].likely == pytest.approx(fit.intercept + 25 * fit.slope)
    assert made.at[0].high - made.at[0].low > made.at[1].high - made.at[1].low  # least sure at the edge
    assert made.tells and not line((1.0, 2.0, 3.0), (1.0, 1.2, 0.9), at=()).tells


@pytest.mark.parametrize(
    "bad",
    [
        lambda: answer([TrialOutcome(0.0, True)], published=20, sense=1, over=(8, 50)),
        lambda: answer([], published=float("nan"), sense=1, over=(8, 50)),
        lambda: answer([], published=20, sense=1, over=(0, 50)),
        lambda: grid((10.0,), 0, seed=1),
        lambda: grid((-1.0,), 1, seed=1),
        lambda: next_up_and_down([], start=-1.0, step=1.2, sense=1),
        lambda: next_up_and_down([], start=1.0, step=1.0, sense=1),
        lambda: staggered((5.0,), apart_min=-1.0),
        lambda: line((1.0, 1.0, 1.0), (1.0, 2.0, 3.0), at=()),
        lambda: line((1.0, 2.0), (1.0, 2.0), at=()),
        lambda: line((1.0, 2.0, float("nan")), (1.0, 2.0, 3.0), at=()),
    ],
)
def test_ranges_are_kept(bad):
    with pytest.raises(PlanError):
        bad()
