"""What is made for a bend: a lay-up, a blank bent hot, a piece straightened, laminae steamed first. One union.

All lengths mm, forces N, moments N·mm, pressures MPa; docs/job-format.md#plan.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

import numpy as np

from ..common.arrays import Array
from ..common.estimate import Estimate, Figure, Grade
from ..common.findings import Level
from ..gluing.adhesive import Adhesive
from ..heat.drying import Drying
from ..heat.elastica import Bowstring
from ..heat.iron_and_blanket import DryHeat
from ..heat.limits import BREAKS_USE, EASY_USE, NEAR_USE, TIGHT_USE, LimitFigures
from ..heat.springback_measures import LegOpening
from ..heat.steam_plan import SteamHeat
from ..heat.straightening_block import Straightening
from ..shape.curve import Curve
from ..springback.closed_ring import RingLayer
from ..stock.sheet_cutting import SheetCut
from ..stock.veneer_plan import VeneerPlan

Feel = Literal["easy", "firm", "risky", "try one dry", "some break", "expect breaks"]
# Use of strain up to which a lamina bends so. Grade: allowance. Source: docs/model.md#cold-lamination.
STRAIN_FEEL: tuple[tuple[float, Feel], ...] = (
    (0.5, "easy"),
    (0.7, "firm"),
    (0.9, "risky"),
    (1.3, "try one dry"),
)
# Use of the strain stood by stock bent hot. Grade: allowance. Source: docs/model.md#heat-limits.
LIMIT_FEEL: tuple[tuple[float, Feel], ...] = (
    (EASY_USE, "easy"),
    (TIGHT_USE, "firm"),
    (NEAR_USE, "risky"),
    (BREAKS_USE, "some break"),
)

GOOD_USE = 0.7  # of strain, that a good rung of the ladder stays under. Grade: allowance.
GOOD_LOSS = 0.05  # a rung is good when it loses no more than this share of its curvature


def severity_of(use: float, bands: tuple[tuple[float, Feel], ...] = STRAIN_FEEL) -> Feel:
    """How wood takes a bend at this use of what it stands. Valid: 0 or more. Grade: allowance.

    >>> severity_of(0.77), severity_of(0.77, LIMIT_FEEL)
    ('risky', 'firm')
    """
    return next((word for limit, word in bands if use < limit), "expect breaks")


@dataclass(frozen=True, slots=True)
class LimitUse:
    """How much of what it stands the wood is bent to: of its strain, or of its limit of R/T; and how it feels.

    worst: the largest anywhere; along: of the worst lamina, one for each run of the curve on the form, feels with it.
    """

    of: Literal["strain", "limit"]
    worst: Figure
    along: tuple[float, ...]
    feels: tuple[Feel, ...]
    feel: Feel

    @classmethod
    def over(cls, on_form: Curve, use: Array, *, of: Literal["strain", "limit"], grade: Grade) -> LimitUse:
        """use: (laminae, n) along the cells of the curve on the form."""
        starts = on_form.merged().stations_mm[:-1]
        cells = np.searchsorted(on_form.stations_mm[:-1], starts + 1e-9, side="right") - 1
        along = tuple(float(u) for u in use.max(axis=0)[cells])
        bands, worst = STRAIN_FEEL if of == "strain" else LIMIT_FEEL, float(use.max())
        return cls(
            of, Figure(worst, grade), along, tuple(severity_of(u, bands) for u in along), severity_of(worst, bands)
        )


@dataclass(frozen=True, slots=True)
class Lamina:
    """One layer, counted from the inner face outwards. cut_length holds the trims; pull_n, at each end, holds this
    layer alone bent: E b t³/12 Δκ over half the blank. Grade: that of its stiffness."""

    number: int
    material: str
    thickness_mm: float
    modulus_mpa: float
    strain: float
    use_of_strain: float
    cut_length_mm: float
    pull_n: float


@dataclass(frozen=True, slots=True)
class LayupOption:
    """One lay-up on the ladder. use_of_strain is strain over breaking strain; stock_times is wood bought over kept.

    last_mm: the outermost lamina; lamina_mm: what build_up.lamina_mm must be for this rung, none for equal laminae.
    """

    laminae: int
    thickness_mm: float
    last_mm: float
    lamina_mm: float | None
    use_of_strain: float
    feel: Feel
    level: Level
    loss_share: float
    tip_mm: float
    board_width_per_piece_mm: float
    stock_m3: float
    stock_times: float
    kerf_share: float
    glue_g: float
    chosen: bool
    good: bool


@dataclass(frozen=True, slots=True)
class Forces:
    """What it takes to hold the piece bent to the form: the moment, and the pull at the end of a lever."""

    holding_moment_nmm: Figure
    lever_mm: float
    lever_pull_n: Figure


@dataclass(frozen=True, slots=True)
class Press:
    """What presses the lay-up on, how hard at the worst place, and what it leaves at each end. Clamps are not reckoned.

    flat, lifts: stretches of the blank a band does not press, for they are straight, or lifts off, for they bend the
    other way; what clamps press besides is not among them. bands: how many; clamps: how many press beside them, of
    clamps_wanted. left_kn: of a band's tension where it has turned furthest; turns_deg: how far. over_air_kpa: by how
    much a gauge reads more than the air gives, 0 where it does not.
    """

    kind: Literal["clamps", "vacuum", "band"]
    pressure_mpa: Figure | None = None
    open_end_mm: Figure | None = None
    open_end_gap_mm: Figure | None = None
    flat: tuple[tuple[float, float], ...] = ()
    lifts: tuple[tuple[float, float], ...] = ()
    left_kn: Figure | None = None
    turns_deg: float = 0.0
    over_air_kpa: float = 0.0
    bands: int = 1
    clamps: int = 0
    clamps_wanted: int = 0


@dataclass(frozen=True, eq=False)
class GluedLayup:
    """Layers glued to one another on a form. ring: of a closed ring, layer by layer. glue_g: for all pieces.

    press_h: under pressure once its middle is warm; warm_h: until then, in a tent. off_alone_mm: of two nested
    lay-ups, how far the ends of each stand off when it lies by itself. veneers: plies joined of leaves.
    """

    glue: Adhesive
    laminae: tuple[Lamina, ...]
    ring: tuple[RingLayer, ...]
    use: LimitUse
    breaking_strain: Figure
    forces: Forces
    press: Press
    glue_g: Figure
    sheet_m2: float
    sheets: tuple[SheetCut, ...]
    thinnest_sawn_mm: float
    press_h: float
    warm_h: float
    off_alone_mm: tuple[float, ...] = ()
    veneers: VeneerPlan | None = None
    kind: Literal["laid_up"] = "laid_up"

    @property
    def planed_h(self) -> float:
        """Hours from pressure until it may be scraped and planed: half-way from coming off to fully cured, for what
        the glue has wetted must dry out or the joints sink later. Grade: allowance."""
        return (self.press_h + max(self.press_h, self.glue.full_cure_h)) / 2

    @property
    def worst(self) -> Lamina:
        """The lamina that is bent hardest for what it stands."""
        return max(self.laminae, key=lambda lamina: lamina.use_of_strain)


@dataclass(frozen=True, eq=False)
class HotBlank:
    """A blank bent hot: what it takes, what it keeps, the heat it is given, and what follows.

    thickness_mm: of what is bent, a lamina where laminae are steamed first. opening: between the ends, inside.
    ends_need_mm: extra length that the left and the right end need, to bend by.
    """

    thickness_mm: float
    limits: LimitFigures
    use: LimitUse
    breaking_strain: Figure
    set_strain: Estimate
    legs: tuple[LegOpening, ...]
    opening_on_form_mm: float
    opening_released_mm: Estimate
    overlap_mm: float
    bow: Bowstring | None
    gentle: tuple[tuple[float, float], ...]
    heat: SteamHeat | DryHeat
    drying: Drying
    end_spare_mm: float
    ends_need_mm: tuple[float, float]
    forces: Forces
    kind: Literal["hot_blank"] = "hot_blank"


@dataclass(frozen=True, eq=False)
class StraightenedPiece:
    """A bowed piece bent back past straight over a block."""

    thickness_mm: float
    use: LimitUse
    breaking_strain: Figure
    set_strain: Estimate
    block: Straightening
    heat: SteamHeat
    drying: Drying
    forces: Forces
    kind: Literal["straightened"] = "straightened"


@dataclass(frozen=True, eq=False)
class SteamedLaminae:
    """Laminae bent hot on the form one by one and dried there, then glued up on it."""

    softened: HotBlank
    laid_up: GluedLayup
    kind: Literal["steamed_laminae"] = "steamed_laminae"

    @property
    def use(self) -> LimitUse:
        """Of the glue-up, as the laminae come to it."""
        return self.laid_up.use

    @property
    def forces(self) -> Forces:
        return self.laid_up.forces

    @property
    def breaking_strain(self) -> Figure:
        return self.laid_up.breaking_strain


Make = GluedLayup | HotBlank | StraightenedPiece | SteamedLaminae


def laid_up_of(make: Make) -> GluedLayup | None:
    """The lay-up in what is made, if anything is glued."""
    return make if isinstance(make, GluedLayup) else make.laid_up if isinstance(make, SteamedLaminae) else None


def hot_of(make: Make) -> HotBlank | StraightenedPiece | None:
    """What is bent hot in what is made, if anything is."""
    if isinstance(make, SteamedLaminae):
        return make.softened
    return make if isinstance(make, HotBlank | StraightenedPiece) else None
