"""Trials: test bends before the real ones. What pieces bent whole and pieces that did not say of a setting."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache
from typing import Literal

import numpy as np

from ..common.arrays import Array
from ..common.errors import ENDLESS, PlanError, check_range
from ..common.estimate import Estimate

GRADES: tuple[str, ...] = (
    "whole",
    "wrinkled or raised fiber",
    "small crack",
    "open break",
    "broken through",
    "splintered",
    "broken short and brittle: over-steamed",
)
SPLINTERED, BRITTLE = 5, 6  # of those: too short in the steam, and too long
WHOLE_UP_TO = 1  # of those grades: the piece can be used
MIDDLE_SD = 0.35  # of the logarithm of the setting at which half come out whole, about the published. Grade: allowance.
WIDTH, WIDTH_SD = 0.15, 0.6  # how wide the step from none to all is, of the same logarithm. Grade: allowance.
SURE = 0.9  # of pieces that are to come out whole
STEP_MIN = 0.5  # in which loading times are looked for
REACH, WIDTH_REACH, FAR_WIDTH_REACH = 4.0, 2.5, 4.0  # standard deviations the grid reaches; farther where pieces are
MIDDLES, WIDTHS = 121, 41
MOST_MIDDLES = 601
GOLDEN = (math.sqrt(5) - 1) / 2  # whose multiples are spread evenly
WORTH = 0.08  # by which one more piece must narrow the band to be worth it. Grade: allowance.
Sense = Literal[1, -1]  # more is safer, or less is


@dataclass(frozen=True, slots=True)
class TrialOutcome:
    """One piece: at which setting, and whether it came out whole."""

    setting: float
    is_whole: bool


@dataclass(frozen=True)
class ThresholdEstimate:
    """What a trial says. settings, chance, low, high: the curve with its band, eight in ten; at_90: the setting where
    nine in ten come out whole; one_more: the setting at which one more piece would tell most, and by what share it
    would narrow the band of at_90. Grade: learned, on an allowance."""

    settings: tuple[float, ...]
    chance: tuple[float, ...]
    low: tuple[float, ...]
    high: tuple[float, ...]
    at_90: Estimate
    one_more: float
    narrows: float
    pieces: int

    @property
    def is_one_more_worth_it(self) -> bool:
        """Whether another piece would tell enough."""
        return self.narrows >= WORTH


@lru_cache(maxsize=8)
def _grid(reach: float) -> tuple[Array, Array, Array]:
    """(m, w) middles and widths of the step, in logarithms of the setting over the published one, and the prior. reach:
    of the middles, standard deviations to either side. Each
    width has its middles a little aside of the next one's: at u = m every width says 50 %, and as many equal values
    would put a step into the bands."""
    count = min(MOST_MIDDLES, round((MIDDLES - 1) * reach / REACH) + 1)
    middle = np.linspace(-reach * MIDDLE_SD, reach * MIDDLE_SD, count)
    widths = FAR_WIDTH_REACH if reach > REACH else WIDTH_REACH  # what lies far off may be a wide step too
    many = round((WIDTHS - 1) * widths / WIDTH_REACH) + 1
    aside = widths * WIDTH_SD
    width = np.exp(np.linspace(math.log(WIDTH) - aside, math.log(WIDTH) + aside, many))
    m, w = np.meshgrid(middle, width, indexing="ij")
    m = m + (middle[1] - middle[0]) * (np.arange(many) * GOLDEN % 1.0 - 0.5)
    log_prior = -0.5 * (m / MIDDLE_SD) ** 2 - 0.5 * ((np.log(w) - math.log(WIDTH)) / WIDTH_SD) ** 2
    return m, w, log_prior


def _log_chance(u: Array, m: Array, w: Array, sense: Sense, is_whole: bool) -> Array:
    """Logarithm of the chance of a whole piece, or of one that is not, at ln settings u."""
    z = sense * (u - m) / w
    return np.asarray(-np.logaddexp(0.0, -z if is_whole else z))


def answer(
    tried: Sequence[TrialOutcome], *, published: float, sense: Sense, over: tuple[float, float]
) -> ThresholdEstimate:
    """The chance of a whole piece against a setting: logistic in ln(setting ÷ published), with a prior from the
    published figure (its middle sd 0.35, the step's width ln-normal about 0.15, sd 0.6), on a grid.

    sense: 1 where more is safer (minutes in the steam, radius), −1 where less is (thickness). over: settings between
    which the curve is wanted. Valid: all above 0. Raises: PlanError. Source: docs/model.md#trials. Grade: learned.

    >>> seen = [TrialOutcome(setting, setting > 15) for setting in (10.0, 14.0, 20.0, 24.0)]
    >>> made = answer(seen, published=18.0, sense=1, over=(8.0, 40.0))
    >>> round(made.at_90.likely, 1), made.pieces
    (22.6, 4)
    """
    for value in over:
        check_range("trial.setting", value, 0, ENDLESS, above=True)
    m, w, weight = _believed(tried, published, sense)
    settings = np.geomspace(*over, 61)
    u = np.log(settings / published)
    # what all together has less than a ten-thousandth of the weight says nothing of the curve, and takes time to sort
    tells = weight > 1e-4 / weight.size
    chances = np.exp(_log_chance(u[:, None], m[tells][None], w[tells][None], sense, True))
    low, chance, high = _bands(chances, weight[tells] / weight[tells].sum())
    sure = m + sense * w * math.log(SURE / (1 - SURE))
    at_90 = _at_90(sure, weight, published)
    more, narrows = _one_more(m, w, weight, sure, u, sense)
    return ThresholdEstimate(
        tuple(settings.tolist()),
        tuple(chance.tolist()),
        tuple(low.tolist()),
        tuple(high.tolist()),
        at_90,
        float(published * math.exp(more)),
        narrows,
        len(tried),
    )


def setting_at_90(tried: Sequence[TrialOutcome], *, published: float, sense: Sense) -> Estimate:
    """The setting at which nine in ten come out whole, alone, as `answer` has it. Raises: PlanError.

    >>> round(setting_at_90([TrialOutcome(20.0, True)], published=18.0, sense=1).likely, 1)
    21.4
    """
    m, w, weight = _believed(tried, published, sense)
    return _at_90(m + sense * w * math.log(SURE / (1 - SURE)), weight, published)


def _believed(tried: Sequence[TrialOutcome], published: float, sense: Sense) -> tuple[Array, Array, Array]:
    """Middles, widths, and the weight of each after what was seen."""
    check_range("trial.published", published, 0, ENDLESS, above=True)
    check_range("trial.sense", sense, -1, 1)
    for t in tried:
        check_range("trial.setting", t.setting, 0, ENDLESS, above=True)
    far = max((abs(math.log(t.setting / published)) for t in tried), default=0.0)
    m, w, log_prior = _grid(max(REACH, round(far / MIDDLE_SD + 2.0, 1)))
    log_post = log_prior.copy()
    for t in tried:
        log_post += _log_chance(np.array(math.log(t.setting / published)), m, w, sense, t.is_whole)
    return m, w, _normal(log_post)


def _at_90(sure: Array, weight: Array, published: float) -> Estimate:
    low, likely, high = (published * math.exp(v) for v in _quantiles(sure, weight, (0.1, 0.5, 0.9)))
    return Estimate(low, likely, high, "learned")


def _normal(log_weight: Array) -> Array:
    weight = np.exp(log_weight - log_weight.max())
    return np.asarray(weight / weight.sum())


def _quantiles(values: Array, weight: Array, at: Sequence[float]) -> list[float]:
    order = np.argsort(values, axis=None)
    flat, along = values.ravel()[order], np.cumsum(weight.ravel()[order])
    return [float(v) for v in np.interp(at, along, flat)]


def _bands(values: Array, weight: Array) -> tuple[Array, Array, Array]:
    """(n,) tenth, fiftieth and ninetieth in a hundred of each row: so the middle crosses 90 % where `at_90` says."""
    order = np.argsort(values, axis=1)
    flat, along = np.take_along_axis(values, order, 1), np.cumsum(weight[order], axis=1)
    rows = np.array([np.interp((0.1, 0.5, 0.9), a, f) for a, f in zip(along, flat, strict=True)])
    return rows[:, 0], rows[:, 1], rows[:, 2]


def _one_more(m: Array, w: Array, weight: Array, sure: Array, u: Array, sense: Sense) -> tuple[float, float]:
    """ln setting at which one more piece tells most of where nine in ten are whole, and the share by which it narrows
    that, as a standard deviation, on the average of both outcomes."""
    mean = float((weight * sure).sum())
    now = float((weight * (sure - mean) ** 2).sum())
    best, least = float(u[0]), now
    for at in u[::4]:
        whole = np.exp(_log_chance(np.array(at), m, w, sense, True))
        p, left = float((weight * whole).sum()), 0.0
        for share, chance in ((p, whole), (1 - p, 1 - whole)):
            if share > 1e-9:
                then = weight * chance / share
                own = float((then * sure).sum())
                left += share * float((then * (sure - own) ** 2).sum())
        if left < least:
            best, least = float(at), left
    return best, 1 - math.sqrt(least / now) if now > 0 else 0.0


# -- designs -----------------------------------------------------------------------------------------------------------
@dataclass(frozen=True, slots=True)
class DesignPiece:
    """One test piece of a design: its number from 1, its setting, and when it is loaded and taken out, minutes from the
    first; both 0 where nothing is loaded."""

    number: int
    setting: float
    in_min: float = 0.0
    out_min: float = 0.0


def grid(settings: Sequence[float], repeats: int, *, seed: int) -> tuple[float, ...]:
    """Every setting so many times, in an order by chance: what drifts over the day is no setting's fault.

    Valid: settings above 0, 1 repeat or more. Raises: PlanError.

    >>> sorted(grid((10.0, 20.0), 2, seed=3))
    [10.0, 10.0, 20.0, 20.0]
    """
    check_range("trial.repeats", repeats, 1, 100)
    for value in settings:
        check_range("trial.setting", value, 0, ENDLESS, above=True)
    dice = np.random.default_rng(seed)
    return tuple(float(v) for v in dice.permutation(np.repeat(np.asarray(settings, dtype=float), repeats)))


def next_up_and_down(tried: Sequence[TrialOutcome], *, start: float, step: float, sense: Sense) -> float:
    """The setting of the next piece where pieces are few: one step easier after one that did not come out whole, one
    harder after one that did. step: a ratio above 1. Valid: above 0, step from 1.01 to 3. Raises: PlanError.

    >>> seen = [TrialOutcome(20.0, True), TrialOutcome(16.0, False)]
    >>> next_up_and_down(seen, start=20.0, step=1.25, sense=1)
    20.0
    """
    check_range("trial.setting", start, 0, ENDLESS, above=True)
    check_range("trial.step", step, 1.01, 3.0)
    check_range("trial.sense", sense, -1, 1)
    if not tried:
        return start
    last = tried[-1]
    check_range("trial.setting", last.setting, 0, ENDLESS, above=True)
    harder = last.is_whole
    times = 1 / step if harder == (sense == 1) else step
    return last.setting * times


def staggered(minutes: Sequence[float], *, apart_min: float, load_min: float = 1.0) -> tuple[DesignPiece, ...]:
    """When each piece goes in so that each comes out at its own time with one pair of hands: taken out so far apart,
    and put in when hands are free for it. In the order they come out; the first goes in at 0. Valid: minutes above 0,
    the others 0 or more. Raises: PlanError.

    >>> [(p.number, p.in_min, p.out_min) for p in staggered((30.0, 10.0, 20.0), apart_min=5.0)]
    [(2, 0.0, 10.0), (3, 1.0, 21.0), (1, 2.0, 32.0)]
    """
    check_range("trial.apart", apart_min, 0, ENDLESS, "min")
    check_range("trial.apart", load_min, 0, ENDLESS, "min")
    for value in minutes:
        check_range("trial.setting", value, 0, ENDLESS, "min", above=True)
    outs, busy, last = dict[int, float](), list[tuple[float, float]](), -math.inf
    for i in sorted(range(len(minutes)), key=lambda n: (minutes[n], n)):
        out = max(last + apart_min, minutes[i])
        while any(a - load_min < out - minutes[i] < b for a, b in busy):
            out += STEP_MIN
        outs[i], last = out, out
        busy += [(out - minutes[i], out - minutes[i] + load_min), (out, out + apart_min)]
    first = min((outs[i] - minutes[i] for i in outs), default=0.0)
    return tuple(DesignPiece(i + 1, minutes[i], out - minutes[i] - first, out - first) for i, out in outs.items())


# -- a figure against a setting ------------------------------------------------------------------------------------
@dataclass(frozen=True, slots=True)
class FigureTrend:
    """A figure against a setting: its slope with its band, and the band of the figure at each setting asked for."""

    slope: Estimate
    at: tuple[Estimate, ...]
    pieces: int

    @property
    def tells(self) -> bool:
        """Whether the slope's band keeps clear of none."""
        return self.slope.low > 0 or self.slope.high < 0


def line(settings: Sequence[float], figures: Sequence[float], *, at: Sequence[float]) -> FigureTrend:
    """Least squares of a measured figure (springback at the tip, its growth after) on a setting, with bands that hold
    eight in ten by Student's t.

    Valid: three pieces or more at two settings or more, finite. Raises: PlanError. Source: docs/model.md#trials.

    >>> made = line((10.0, 20.0, 30.0, 40.0), (9.0, 7.2, 4.8, 3.1), at=(25.0,))
    >>> round(made.slope.likely, 3), round(made.at[0].likely, 2), made.tells
    (-0.201, 6.03, True)
    """
    from scipy.special import stdtrit

    x, y = np.asarray(settings, dtype=float), np.asarray(figures, dtype=float)
    for value in (*x, *y, *at):
        check_range("trial.setting", float(value), -1e12, 1e12)
    if x.size < 3 or x.size != y.size or np.unique(x).size < 2:
        raise PlanError("trial.settings", "Three measured pieces at two settings at least, please.")
    mean_x, mean_y = float(x.mean()), float(y.mean())
    spread = float(((x - mean_x) ** 2).sum())
    slope = float(((x - mean_x) * (y - mean_y)).sum()) / spread
    left = y - mean_y - slope * (x - mean_x)
    free = x.size - 2
    sd = math.sqrt(float((left**2).sum()) / free)
    t = float(stdtrit(free, 0.9))
    half = t * sd / math.sqrt(spread)

    def band(v: float) -> Estimate:
        own = mean_y + slope * (v - mean_x)
        off = t * sd * math.sqrt(1 / x.size + (v - mean_x) ** 2 / spread)
        return Estimate(own - off, own, own + off, "learned")

    return FigureTrend(Estimate(slope - half, slope, slope + half, "learned"), tuple(band(v) for v in at), int(x.size))
