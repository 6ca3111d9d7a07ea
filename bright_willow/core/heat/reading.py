"""What a plan says about heat. All lengths mm, times in the unit of the name, forces N, temperatures °C."""

from __future__ import annotations

from dataclasses import dataclass

from ..ground.estimate import Estimate
from .chamber import Chamber
from .steam_time import SteamTime
from .strap import Strap


@dataclass(frozen=True, slots=True)
class Limits:
    """Whether the stock can take the curve: R/T as it is and as it must be, at the tightest place.

    ratio: least inside radius over thickness, on the form. table: of the species; without data, from 2 % stretch or
    25 % compression. needed: the table's over the factors of grain and moisture. thinner_mm and gentler_mm (inside
    radius) each clear it.
    """

    ratio: float
    table: float
    has_data: bool
    needed: float
    grain_factor: float
    moisture_factor: float
    at_mm: float
    thinner_mm: float
    gentler_mm: float
    unbroken_pct: float | None


@dataclass(frozen=True, slots=True)
class LegOpening:
    """Springback of one end the way it is checked: out by so much, and out of square by so many degrees."""

    side: str
    tip_mm: Estimate
    angle_deg: Estimate


@dataclass(frozen=True, slots=True)
class Load:
    """One piece of a load, in minutes from the first going in: in, earliest, planned, latest out."""

    piece: int
    in_min: float
    earliest_min: float
    planned_min: float
    latest_min: float | None


@dataclass(frozen=True, slots=True)
class Chart:
    """Core temperature against time: minutes and °C, and the goal."""

    minutes: tuple[float, ...]
    core_c: tuple[float, ...]
    goal_c: float
    chamber_c: float


@dataclass(frozen=True, slots=True)
class Steam:
    """The steam plan: boiling point here, times, chart, soaking, properties used."""

    boiling_c: float
    chamber_c: float
    time: SteamTime
    chart: Chart
    moisture_pct: float
    diffusivity_m2_s: float
    soak_says: str
    loads: tuple[Load, ...]
    window_s: float
    handling_s: float


@dataclass(frozen=True, slots=True)
class DryBend:
    """One bend of a thin strip over heat: in which order, between which marks on the flat strip, and how far.

    start, end: mm from the start of the finished piece. wanted_deg, bent_deg: turn wanted and turn to bend it to.
    side: towards which face the strip is bent.
    """

    order: int
    start_mm: float
    end_mm: float
    radius_mm: float
    wanted_deg: float
    bent_deg: float
    side: str


@dataclass(frozen=True, slots=True)
class BlanketStep:
    """A step of a blanket's schedule."""

    says: str
    temperature_c: float
    minutes: float


@dataclass(frozen=True, slots=True)
class Straighten:
    """Bending a bowed piece back: the bow as curvature, the block under the middle of the clamp span, passes."""

    bow_mm: float
    base_mm: float
    block_mm: Estimate
    span_mm: float
    passes: int
    towards: str


@dataclass(frozen=True, slots=True)
class After:
    """What follows the bend: hours on the form, days in the frame, days all pieces take on the forms there are.

    frame_width_mm, frame_height_mm: inside size of a frame that holds the released shape.
    """

    cool_h: float
    on_form_h: float
    dry_days: Estimate
    form_days: float
    straps: int
    frame_width_mm: float
    frame_height_mm: float
    early_tip_mm: float


@dataclass(frozen=True, slots=True)
class HeatReading:
    """Everything about heat in one plan; what a way does not need is none."""

    limits: Limits | None
    set_strain: Estimate
    legs: tuple[LegOpening, ...]
    opening_on_form_mm: float
    opening_released_mm: Estimate
    gentle: tuple[tuple[float, float], ...]
    steam: Steam | None
    chamber: Chamber | None
    strap: Strap | None
    dry: tuple[DryBend, ...]
    blanket: tuple[BlanketStep, ...]
    straighten: Straighten | None
    after: After
    end_spare_mm: float
