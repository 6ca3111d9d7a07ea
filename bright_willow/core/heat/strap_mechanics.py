"""The strap: what thrust it takes, whether its stops hold, and how hard it is to pull."""

from __future__ import annotations

import math
from dataclasses import dataclass, replace

from ..common.errors import ENDLESS, PlanError, check_range
from ..job.job import Job
from ..shape.curve import Curve
from ..shop.clamps import clamp_table
from ..wood.species import Species
from .strap_fit import BlankFit, arch_mm, fits

HOT_SHARE = 0.16  # crushing strength of hot wet wood over dry. Grade: allowance.
STEEL_MPA = 165.0  # working stress of a strap of mild steel, beyond which it is watched
YIELDS_MPA = {"mild_steel": 250.0, "taped": 250.0, "stainless": 200.0}  # from. Grade: allowance.
HAND_MM_S = 800.0  # of a hand on a winch's handle. Grade: allowance.
FRICTION = 0.3  # of a clamped stop, one face


@dataclass(frozen=True, slots=True)
class Strap:
    """A strap for so many pieces bent at once. N, mm, MPa.

    length_mm: between the stops = the convex face at the start. thrust_n: on the stops, all pieces. grip_n: what
    clamped stops hold; none where they are welded or bolted. pull_n: at the lever's end; hand_n: at the winch's handle.
    arch_mm: of a blank longer than the strap, as it goes in; fits: of blanks that were measured, the shims.
    rope_mm: that is drawn in until it is bent; close_s: how long a winch takes for that, 0 by hand.
    """

    length_mm: float
    thrust_n: float
    stress_mpa: float
    stop: str
    grip_n: float | None
    moment_nmm: float
    lever_mm: float
    pull_n: float
    ratio: float
    hand_n: float
    blocks_mm: float
    own_length_mm: float | None
    stains: bool
    rope_mm: float
    close_s: float
    arch_mm: float = 0.0
    fits: tuple[BlankFit, ...] = ()

    @property
    def slides(self) -> bool:
        """Whether clamped stops give way before the wood is crushed enough."""
        return self.grip_n is not None and self.grip_n < self.thrust_n


def strap(
    *,
    crush_mpa: float,
    width_mm: float,
    thickness_mm: float,
    blank_mm: float,
    pieces: int,
    strap_width_mm: float,
    strap_mm: float,
    stop: str,
    clamp: str,
    clamps: int,
    lever_mm: float,
    ratio: float,
    own_length_mm: float | None,
    iron: bool,
    tannin: bool,
    rope_mm: float,
) -> Strap:
    """F = 0.16 σ_crush b T per piece; stress F/(b_s t_s); grip n F_clamp · 0.3; M ≈ F (T + t_s)/2; pull M/arm.

    A strap longer than the blank is filled up with blocks. A winch draws in its rope in rope × ratio / hand speed.
    Valid: all above 0. Raises: PlanError for a strap shorter than the blank. Grade: allowance on published strength.

    >>> made = strap(crush_mpa=50, width_mm=50, thickness_mm=20, blank_mm=1000, pieces=1, strap_width_mm=50,
    ...     strap_mm=2, stop="welded", clamp="g_clamp", clamps=2, lever_mm=500, ratio=1, own_length_mm=None, iron=True,
    ...     tannin=False, rope_mm=600)
    >>> made.thrust_n, made.stress_mpa, made.moment_nmm, made.pull_n
    (8000.0, 80.0, 88000.0, 176.0)
    """
    message = "A strap has a thickness, a width and a lever above zero."
    for value in (crush_mpa, width_mm, thickness_mm, strap_width_mm, strap_mm, lever_mm, ratio, blank_mm):
        check_range("heat.strap_mm", value, 0, ENDLESS, above=True, message=message)
    check_range("heat.at_once", pieces, 1, ENDLESS)
    check_range("heat.ratio", rope_mm, 0, ENDLESS, "mm")
    check_range("heat.stop_clamps", clamps, 0, ENDLESS)
    if own_length_mm is not None and own_length_mm < blank_mm - 0.5:
        raise PlanError(
            "heat.strap_length_mm",
            "Your strap is {own} between its stops, the piece is {blank}.",
            hint="A strap cannot be shorter than the piece.",
            lengths_mm={"own": own_length_mm, "blank": blank_mm},
        )
    thrust = HOT_SHARE * crush_mpa * width_mm * thickness_mm * pieces
    grip = FRICTION * clamps * clamp_table()[clamp].force_kn * 1000 if stop == "clamps" else None
    moment = thrust * (thickness_mm + strap_mm) / 2
    pull = moment / lever_mm
    return Strap(
        length_mm=blank_mm,
        thrust_n=thrust,
        stress_mpa=thrust / (strap_width_mm * strap_mm),
        stop=stop,
        grip_n=grip,
        moment_nmm=moment,
        lever_mm=lever_mm,
        pull_n=pull,
        ratio=ratio,
        hand_n=pull / ratio,
        blocks_mm=max(0.0, (own_length_mm or blank_mm) - blank_mm),
        own_length_mm=own_length_mm,
        stains=iron and tannin,
        rope_mm=rope_mm,
        close_s=rope_mm * ratio / HAND_MM_S if ratio > 1 else 0.0,
    )


def clamps_that_hold(thrust_n: float, clamp: str) -> int:
    """Clamps of a kind whose grip exceeds a thrust. Valid: 0 N or more. Raises: PlanError. Grade: allowance.

    >>> clamps_that_hold(9000, "g_clamp")
    4
    """
    check_range("heat.stop_clamps", thrust_n, 0, ENDLESS, "N")
    return math.floor(thrust_n / (FRICTION * clamp_table()[clamp].force_kn * 1000)) + 1


def rope_mm(blank: Curve) -> float:
    """Return the rope that is drawn in until a blank is bent: how far its ends come nearer to each other, mm.

    Source: geometry. Grade: physics.

    >>> round(rope_mm(Curve.of([1000 * math.pi / 2], [1 / 1000.0])))
    157
    """
    chord = float(math.hypot(*(blank.points_mm[-1] - blank.points_mm[0])))
    return max(0.0, blank.length_mm - chord)


def strap_for(job: Job, wood: Species, blank_mm: float, centerline: Curve) -> Strap:
    """Return the strap of a job. blank_mm: the length that is cut; centerline: of the blank on the form.

    Where the blank is to be arched in, the strap is shorter than it by the preload. Raises: PlanError.
    Source: docs/model.md#strap.
    """
    heat, part = job.heat, job.part
    stops = blank_mm - heat.preload_mm
    made = strap(
        crush_mpa=wood.crush_mpa,
        width_mm=part.width_mm,
        thickness_mm=part.thickness_mm,
        blank_mm=stops,
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
        tannin="iron stain" in wood.note,
        rope_mm=rope_mm(centerline),
    )
    own = fits(heat.blanks_mm, stops_mm=stops, preload_mm=heat.preload_mm, at_once=heat.at_once)
    return replace(made, arch_mm=arch_mm(stops, heat.preload_mm), fits=own)
