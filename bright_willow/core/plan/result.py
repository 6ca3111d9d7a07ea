"""The parts a Plan is made of. All lengths in mm, curvature in 1/mm, angles in degrees; docs/job-format.md#plan."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Literal

import numpy as np

from ..form.construction import FormBuild
from ..ground.estimate import Estimate, Figure
from ..ground.findings import Finding, Level
from ..heat.reading import HeatReading
from ..laws.ring import RingLayer
from ..shape.curve import Curve
from ..shop.boards import BoardUse
from ..shop.stock_use import StockUse
from ..wood.sheet_cutting import SheetCut


@dataclass(frozen=True, slots=True)
class CurveReading:
    """A curve as runs of length and curvature, with what a maker would check on it.

    Drawn with the station anchor_mm at (0, anchor_y_mm) and level there.
    """

    lengths_mm: tuple[float, ...]
    curvature_per_mm: tuple[float, ...]
    length_mm: float
    sweep_deg: float
    chord_mm: float
    rise_mm: float
    least_radius_mm: float | None
    anchor_mm: float
    anchor_y_mm: float

    @classmethod
    def of(cls, curve: Curve) -> CurveReading:
        if curve.lengths_mm.size == 1:
            length, k = curve.length_mm, float(curve.curvature[0])
            chord, rise = curve.chord_and_rise_mm()
            sweep, radius = math.degrees(length * k), 1 / abs(k) if k else None
            return cls((length,), (k,), length, sweep, chord, rise, radius, curve.anchored_at_mm, curve.anchor_y_mm)
        merged = curve.merged()
        chord, rise = merged.chord_and_rise_mm()
        tightest = merged.tightest_curvature
        return cls(
            tuple(merged.lengths_mm.tolist()),
            tuple(merged.curvature.tolist()),
            merged.length_mm,
            float(np.degrees(merged.sweep_rad)),
            chord,
            rise,
            1 / tightest if tightest > 1e-9 else None,
            merged.anchored_at_mm,
            merged.anchor_y_mm,
        )

    @property
    def curve(self) -> Curve:
        return Curve(np.array(self.lengths_mm), np.array(self.curvature_per_mm), self.anchor_mm, self.anchor_y_mm)


@dataclass(frozen=True, slots=True)
class Geometry:
    """The finished piece on its three faces, and what a maker would check: its size over all, as drawn (level in the
    middle of its length), and the angle between its ends (0 for legs that stand parallel, 180 for a straight)."""

    inner: CurveReading
    mid: CurveReading
    outer: CurveReading
    thickness_mm: float
    width_mm: float
    overall_across_mm: float
    overall_up_mm: float
    legs_angle_deg: float


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
class Rung:
    """One lay-up on the ladder. use_of_strain is strain over breaking strain; stock_times is wood bought over kept.

    last_mm: the outermost lamina; lamina_mm: what build_up.lamina_mm must be for this rung, none for equal laminae.
    """

    laminae: int
    thickness_mm: float
    last_mm: float
    lamina_mm: float | None
    use_of_strain: float
    feel: Literal["easy", "firm", "risky", "expect breaks"]
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
class Springback:
    """What the piece does when it leaves the form. tip_mm: how far each end opens from form to release.

    missed_tip_mm: how far the released tips lie from where they are wanted; none when the form is computed.
    """

    tip_mm: Estimate
    loss_share: Estimate
    loss_ratio: Estimate
    bends: int
    basis: str
    settling_tip_mm: Figure
    to_size_tip_mm: Figure
    missed_tip_mm: Figure


@dataclass(frozen=True, slots=True)
class Curves:
    """The mid-line wanted, on the form, released (likely, and at the ends of the 80 % band), and settled."""

    target: CurveReading
    on_form: CurveReading
    released: CurveReading
    released_most_open: CurveReading
    released_most_closed: CurveReading
    settled: CurveReading


@dataclass(frozen=True, slots=True)
class Forces:
    """What it takes to hold the unglued laminae on the form."""

    holding_moment_nmm: Figure
    lever_mm: float
    lever_pull_n: Figure


@dataclass(frozen=True, slots=True)
class Press:
    """What presses the lay-up on, how hard, and what it leaves at each end. Clamps are not reckoned: no pressure."""

    kind: Literal["clamps", "vacuum", "band"]
    pressure_mpa: Figure | None
    open_end_mm: Figure | None
    open_end_gap_mm: Figure | None


@dataclass(frozen=True, slots=True)
class Offset:
    """One station along the base line from the middle, and the height of the face above the base line there."""

    station_mm: float
    height_mm: float


@dataclass(frozen=True, slots=True)
class FormReading:
    """The form face over the whole blank, trims included; marks are lengths along the face from its start."""

    side: Literal["inner", "outer"]
    face: CurveReading
    part_start_mm: float
    middle_mm: float
    part_end_mm: float
    liner_mm: float
    depth_mm: float
    has_straight_base: bool
    stack_height_mm: float
    is_one_arc: bool
    offsets: tuple[Offset, ...]
    grade: Literal["allowance", "learned"]


@dataclass(frozen=True, slots=True)
class StickMark:
    """One mark of the story stick: its distance from the centre along three lines of the blank on the form."""

    name: str
    kind: Literal["blank_end", "part_end", "centre", "bend_start", "bend_end", "tightest", "joint"]
    inner_mm: float
    mid_mm: float
    outer_mm: float


@dataclass(frozen=True, slots=True)
class Quantities:
    """What to cut and to have at hand, for all pieces and spares."""

    pieces: int
    spares: int
    trim_mm: float
    stock: StockUse
    sheet_m2: float
    glue_g: Figure
    expected_yield: Estimate
    spares_advised: int
    boards: BoardUse | None
    sheets: tuple[SheetCut, ...]
    press_days: float


@dataclass(frozen=True, slots=True)
class Plan:
    """The whole answer for one job. Nothing downstream computes anything again."""

    format: Literal["bright-willow-plan"]
    version: Literal[1]
    job_name: str
    way: str
    group: str
    species_name: str
    species_grade: str
    species_source: str
    breaking_strain: Figure
    geometry: Geometry
    curves: Curves
    use_of_strain: Figure
    use_along: tuple[float, ...]
    laminae: tuple[Lamina, ...]
    ring: tuple[RingLayer, ...]
    ladder: tuple[Rung, ...]
    springback: Springback
    forces: Forces
    press: Press
    form: FormReading
    build: FormBuild
    heat: HeatReading | None
    stick: tuple[StickMark, ...]
    quantities: Quantities
    findings: tuple[Finding, ...]
    cautions: tuple[str, ...]
    assumptions: tuple[str, ...]
