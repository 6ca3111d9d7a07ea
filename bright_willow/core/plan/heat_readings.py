"""What heat has to say in a plan: limits, legs, steam, chamber, strap, bends of a strip, straightening, and after."""

from __future__ import annotations

import math

import numpy as np

from ..ground.arrays import Array
from ..ground.errors import OutOfRange
from ..ground.estimate import Estimate
from ..heat.boiling import boiling_point_c
from ..heat.chamber import WALLS, Chamber, chamber, proposed_size
from ..heat.conduction import Bar, thermal, working_window_s
from ..heat.reading import (
    After,
    BlanketStep,
    Chart,
    DryBend,
    HeatReading,
    LegOpening,
    Limits,
    Load,
    Steam,
    Straighten,
)
from ..heat.steam_time import DRYNESS_FACTOR, Asked, SteamTime, steam_time
from ..heat.strap import Strap, strap
from ..job.job import Job
from ..laws.hot_set import SET_STRAIN, block_height_mm
from ..shape.curve import Curve, end_offsets_mm, tip_distance_mm
from ..shop.shop import Shop
from ..ways.heat_bend import USUAL_MOISTURE, HeatBend
from .result import CurveReading

DRY_DAYS: dict[str, Estimate] = {  # for 25 mm. Grade: allowance. Source: docs/model.md#after.
    "warm": Estimate(0.7, 1.0, 1.5, "allowance"),
    "ordinary": Estimate(1.0, 2.0, 3.0, "allowance"),
    "damp": Estimate(3.0, 5.0, 7.0, "allowance"),
}
CHART_POINTS = 121
MOST_LOADS = 12
COMFORT = 0.84  # share of the limit that is taken without worry. Grade: allowance.


def heat_reading(
    job: Job,
    shop: Shop,
    way: HeatBend,
    target: Curve,
    blank: Curve,
    k_form: Array,
    released: Array,
    ratio: Estimate,
    use: Array,
) -> HeatReading:
    steams = way.way.source == "steam"
    steam = _steam(job, shop, way) if steams else None
    d = SET_STRAIN[way.way.set_key]
    known = Estimate(d.likely * ratio.low, d.likely * ratio.likely, d.likely * ratio.high, ratio.grade)
    straightens = job.way == "straighten"
    openings = [_opening(job, target.with_curvature(k)) for k in released]
    return HeatReading(
        limits=None if straightens else _limits(way, target, k_form, use),
        set_strain=known,
        legs=() if straightens else _legs(target, k_form, released, ratio),
        opening_on_form_mm=_opening(job, target.with_curvature(k_form)),
        opening_released_mm=Estimate.around(openings, ratio.grade),
        gentle=() if straightens else _gentle(way, target, ratio.likely),
        steam=steam,
        chamber=_chamber(job, shop, way, steam, blank) if steam else None,
        strap=_strap(job, way, blank) if steams and way.way.has_strap else None,
        dry=_dry_bends(target, k_form) if not steams else (),
        blanket=_blanket(job) if way.way.source == "blanket" else (),
        straighten=_straighten(job, way, known) if straightens else None,
        after=_after(job, way, target, k_form, ratio, steams),
        end_spare_mm=max(150.0, 3 * job.part.thickness_mm) if steams else 30.0,
    )


def _limits(way: HeatBend, target: Curve, k_form: Array, use: Array) -> Limits:
    T, cell = way.job.part.thickness_mm, int(use.argmax())
    change = float(np.abs(k_form - way.law.start)[cell])
    inside = max(1e-6, 1 / max(change, 1e-12) - T / 2)
    table, has = way.table_ratio
    needed = way.needed_ratio
    return Limits(
        ratio=inside / T,
        table=table,
        has_data=has,
        needed=needed,
        grain_factor=way.grain,
        moisture_factor=way.moisture,
        at_mm=float(target.stations_mm[cell] + target.lengths_mm[cell] / 2),
        thinner_mm=_thinner(way, abs(float(target.curvature[cell])), needed),
        gentler_mm=needed / COMFORT * T,
        unbroken_pct=way.wood.steam_unbroken_pct,
    )


def _thinner(way: HeatBend, wanted: float, needed: float) -> float:
    """The thickness at which the same inside radius is taken with comfort, its own springback allowed for."""
    T = way.job.part.thickness_mm
    inside, d = 1 / max(wanted, 1e-12) - T / 2, way.law.set_strain
    for _ in range(40):
        on_form = 1 / (1 / (inside + T / 2) + d / T) - T / 2
        T = 0.5 * T + 0.5 * max(0.5, COMFORT * on_form / needed)
    return math.floor(T * 10) / 10


def _legs(target: Curve, k_form: Array, released: Array, ratio: Estimate) -> tuple[LegOpening, ...]:
    """What each end opens from form to release: its tip, and the turn of its half."""
    ends = end_offsets_mm(target.lengths_mm, k_form)
    after = end_offsets_mm(target.lengths_mm, released)
    apart = np.hypot(*np.moveaxis(after - ends, -1, 0))  # (3, 2)
    left = np.clip((target.length_mm / 2 - target.stations_mm[:-1]) / target.lengths_mm, 0, 1)
    made = []
    for i, (side, share) in enumerate((("left", left), ("right", 1 - left))):
        turned = np.abs(((k_form - released) * target.lengths_mm * share).sum(-1))
        tip, angle = (Estimate.around(v, ratio.grade) for v in (apart[:, i], np.degrees(turned)))
        made.append(LegOpening(side, tip, angle))
    return tuple(made)


def _opening(job: Job, mid: Curve) -> float:
    """Distance between the ends along the inner face of a piece bent so."""
    return mid.parallel(-job.part.thickness_mm / 2).chord_and_rise_mm()[0]


def _loads(job: Job, time: SteamTime, handling_s: float) -> tuple[Load, ...]:
    """The pieces of one load, going in as far apart as it takes to bend one: each comes out at its own right moment."""
    apart = max(3.0, math.ceil(handling_s / 60) + 2)
    goes = min(MOST_LOADS, math.ceil((job.part.count + job.part.spares) / job.heat.at_once), job.heat.forms)
    latest = time.latest_min
    return tuple(
        Load(
            i + 1,
            i * apart,
            i * apart + time.earliest_min,
            i * apart + time.planned_min,
            None if latest is None else i * apart + latest,
        )
        for i in range(goes)
    )


def _gentle(way: HeatBend, target: Curve, ratio: float) -> tuple[tuple[float, float], ...]:
    """Runs of the target bent by no more than what is lost on release, straights apart."""
    bent = np.abs(target.curvature - way.law.start)
    soft = (bent > 1e-6) & (bent <= way.law.lost * ratio)
    found, start, at = [], None, target.stations_mm
    for i, is_soft in enumerate(soft):
        if is_soft and start is None:
            start = i
        if start is not None and (not is_soft or i == soft.size - 1):
            found.append((float(at[start]), float(at[i + 1 if is_soft else i])))
            start = None
    return tuple(found)


def _steam(job: Job, shop: Shop, way: HeatBend) -> Steam:
    heat, stock = job.heat, job.stock
    boiling = boiling_point_c(shop.altitude_m)
    chamber_c = min(heat.chamber_c, boiling)
    moisture = stock.moisture_pct if stock.moisture_pct is not None else USUAL_MOISTURE[stock.dryness]
    warm = thermal(
        specific_gravity=way.wood.sg12, moisture_pct=moisture, temperature_c=(chamber_c + shop.temperature_c) / 2
    )
    bar = Bar(
        job.part.thickness_mm, job.part.width_mm + shop.clean_up_mm, warm.diffusivity, shop.temperature_c, chamber_c
    )
    through = bar.heat_through_s() / 60
    factor = DRYNESS_FACTOR[stock.dryness, heat.soaked]
    asked = Asked(job.part.thickness_mm, through, heat.soak_min, heat.own_min, factor)
    time = steam_time(asked, heat.school)
    until = 1.25 * max(time.planned_min, time.earliest_min, *(m for _, _, m in time.by_school))
    minutes = np.linspace(0, until, CHART_POINTS)
    core = bar.core_c(minutes * 60)
    hot = thermal(specific_gravity=way.wood.sg12, moisture_pct=moisture, temperature_c=chamber_c - 5)
    window = working_window_s(
        thickness_mm=job.part.thickness_mm,
        conductivity=hot.conductivity,
        capacity=hot.capacity,
        density=hot.density,
        hot_c=chamber_c,
        air_c=shop.temperature_c,
    )
    handling = heat.carry_s + heat.moves * heat.clamp_s / heat.hands
    return Steam(
        boiling_c=boiling,
        chamber_c=chamber_c,
        time=time,
        chart=Chart(tuple(minutes.tolist()), tuple(core.tolist()), bar.goal_c, chamber_c),
        moisture_pct=moisture,
        diffusivity_m2_s=warm.diffusivity,
        soak_says=_soaking(job),
        loads=_loads(job, time, handling),
        window_s=window,
        handling_s=handling,
    )


def _soaking(job: Job) -> str:
    thick = job.part.thickness_mm
    if job.stock.dryness == "kiln_dried":
        days = max(2, math.ceil(thick / 8))
        return f"Soak it {days} days in plain water; it dries longer after and may check."
    if job.stock.dryness == "green":
        return "No soaking: it is wet enough."
    return "No soaking: air-dried stock is best as it is."


def _chamber(job: Job, shop: Shop, way: HeatBend, steam: Steam, blank: Curve) -> Chamber:
    heat, part = job.heat, job.part
    pieces = min(part.count + part.spares, max(1, heat.at_once * 4))
    proposed = proposed_size(
        thickness_mm=part.thickness_mm,
        width_mm=part.width_mm + shop.clean_up_mm,
        length_mm=blank.length_mm,
        pieces=pieces,
    )
    own = (heat.own_inside_high_mm, heat.own_inside_wide_mm, heat.own_inside_long_mm)
    inside = (own[0], own[1], own[2]) if own[0] and own[1] and own[2] else None
    mass = (
        way.wood.sg12 * (1 + steam.moisture_pct / 100) * 1e-6
        * part.thickness_mm * (part.width_mm + shop.clean_up_mm) * blank.length_mm * pieces
    )  # fmt: skip
    capacity = thermal(specific_gravity=way.wood.sg12, moisture_pct=steam.moisture_pct, temperature_c=60).capacity
    if heat.wall not in WALLS:
        raise OutOfRange("heat.wall", "Choose what the chamber is made of.")
    return chamber(
        wall=heat.wall,
        inside_mm=inside,
        proposed=proposed,
        power_kw=heat.power_kw,
        reservoir_l=heat.reservoir_l,
        air_c=shop.temperature_c,
        boiling_c=steam.boiling_c,
        stock_kg=mass,
        stock_j_kgk=capacity,
        hours=steam.time.planned_min / 60 + 0.75,
    )


def _strap(job: Job, way: HeatBend, blank: Curve) -> Strap:
    heat, part = job.heat, job.part
    return strap(
        crush_mpa=way.wood.crush_mpa,
        width_mm=part.width_mm,
        thickness_mm=part.thickness_mm,
        blank_mm=blank.length_mm,
        pieces=heat.at_once,
        strap_width_mm=heat.strap_width_mm or part.width_mm * heat.at_once,
        strap_mm=heat.strap_mm,
        stop=heat.stop,
        clamp=heat.stop_clamp,
        clamps=heat.stop_clamps,
        lever_mm=heat.lever_mm,
        ratio=heat.ratio,
        own_length_mm=heat.strap_length_mm,
        iron=heat.strap_of == "mild_steel",
        tannin="iron stain" in way.wood.note,
    )


def _dry_bends(target: Curve, k_form: Array) -> tuple[DryBend, ...]:
    """The bends of a strip, tightest first, then outward; marks on the flat strip from its start."""
    at, bent, runs, start = target.stations_mm, np.abs(target.curvature) > 1e-6, [], None
    sign = np.sign(target.curvature)
    for i in range(bent.size + 1):
        ends = i == bent.size or not bent[i] or (start is not None and sign[i] != sign[start])
        if start is not None and ends:
            runs.append((start, i))
            start = None
        if i < bent.size and bent[i] and start is None:
            start = i

    def tight(run: tuple[int, int]) -> float:
        return float(np.abs(target.curvature[run[0] : run[1]]).max())

    made = []
    for order, (a, b) in enumerate(sorted(runs, key=tight, reverse=True), 1):
        lengths = target.lengths_mm[a:b]
        made.append(
            DryBend(
                order,
                float(at[a]),
                float(at[b]),
                1 / tight((a, b)),
                float(np.degrees(abs((lengths * target.curvature[a:b]).sum()))),
                float(np.degrees(abs((lengths * k_form[a:b]).sum()))),
                "towards the inner face" if sign[a] > 0 else "towards the outer face",
            )
        )
    return tuple(made)


def _blanket(job: Job) -> tuple[BlanketStep, ...]:
    """Start to bend near 80 % of the set temperature, finish at it, hold lower, cool in the mould. Grade: allowance."""
    goal = min(job.heat.iron_c, 180.0)
    heat_up = 2.0 + 1.5 * job.part.thickness_mm
    return (
        BlanketStep("Moisten, lay slat, strip, slat and blanket; heat up.", 0.8 * goal, heat_up),
        BlanketStep("Draw it over the mould from the middle, steadily.", goal, 3.0),
        BlanketStep("Hold it on the mould.", goal - 15, 12.0),
        BlanketStep("Off; cool fully in the mould before anything is opened.", 30.0, 45.0),
    )


def _straighten(job: Job, way: HeatBend, d: Estimate) -> Straighten:
    """Over-bend past straight by d/T: block height under the middle of the span."""
    curve = job.shape.face_curve()
    base, bow = curve.chord_and_rise_mm()
    T, span = job.part.thickness_mm, job.heat.span_mm
    low, likely, high = (block_height_mm(curvature=v / T, span_mm=span) for v in (d.low, d.likely, d.high))
    left = (d.high - d.low) / 2 / T * base**2 / 8  # bow that may be left over the whole base
    return Straighten(
        bow_mm=bow,
        base_mm=base,
        block_mm=Estimate(low, likely, high, d.grade),
        span_mm=span,
        passes=1 if left < 1.0 else 2,
        towards="hollow side down: the block stands under the bulge, turned over",
    )


def _after(job: Job, way: HeatBend, target: Curve, k_form: Array, ratio: Estimate, steams: bool) -> After:
    heat, T = job.heat, job.part.thickness_mm
    share = T / 25 if steams else 0.1
    days = DRY_DAYS[heat.climate]
    loads = math.ceil((job.part.count + job.part.spares) / (heat.forms * heat.at_once))
    on_form = heat.on_form_h if steams else 1.0
    now = way.release(k_form, loss_ratio=ratio.likely)
    times = 1.0 if heat.early else 1.5
    sooner = way.release(k_form, loss_ratio=ratio.likely * times)
    base = way.release(k_form, loss_ratio=ratio.likely / 1.5) if heat.early else now
    reading = CurveReading.of(target.parallel(T / 2))
    points = target.parallel(T / 2).cut_finer(64).points_mm
    across, up = np.ptp(points, axis=0)
    return After(
        cool_h=max(0.5, T / 25) if steams else 0.5,
        on_form_h=on_form,
        dry_days=Estimate(days.low * share, days.likely * share, days.high * share, "allowance"),
        form_days=loads * on_form / 24,
        straps=heat.forms if way.way.has_strap else 0,
        frame_width_mm=float(max(across, reading.chord_mm)),
        frame_height_mm=float(up),
        early_tip_mm=float(tip_distance_mm(target.lengths_mm, sooner, base)),
    )
