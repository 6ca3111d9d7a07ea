"""What a round form turns on: an axle through its middle, two uprights on a base, and a handle."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np

from ..common.errors import ENDLESS, PlanError, check_range
from .carcase import part_of
from .parts import Edge, FormPart, Hole, corners_of, rectangle
from .site import Site

AXLE_MM, AXLE_PLAY_MM = 25.0, 1.0
CRANK_N = 200.0  # that one person turns a handle with steadily. Grade: allowance.
LEAST_HANDLE_MM, MOST_HANDLE_MM = 200.0, 1_500.0
UPRIGHT_WIDE_MM, HANDLE_WIDE_MM = 120.0, 60.0
CLEAR_MM = 60.0  # between the wood on the drum and the base. Grade: allowance.
ABOVE_AXLE_MM = 60.0
BESIDE_MM = 40.0  # of base beyond the uprights


@dataclass(frozen=True, slots=True)
class DrumStand:
    """A drum on its axle. center_mm: of the axle, in the form's frame. reach_mm: from there to the furthest of the drum
    with the wood on it. handle_mm: from axle to hand; hand_n: with how much one turns it."""

    center_mm: tuple[float, float]
    reach_mm: float
    handle_mm: float
    hand_n: float

    @property
    def axle_mm(self) -> float:
        """Height of the axle over the base."""
        return self.reach_mm + CLEAR_MM


def handle_mm(moment_nmm: float) -> float:
    """Return how long a handle must be that one person turns a bending moment with, mm; 200 mm at least.

    Valid: a moment of 0 or more. Raises: PlanError. Source: statics, M/F. Grade: allowance.

    >>> handle_mm(64_000.0), handle_mm(1_000.0)
    (320.0, 200.0)
    """
    check_range("form.drum_stand", moment_nmm, 0, ENDLESS, "N mm")
    return max(LEAST_HANDLE_MM, moment_nmm / CRANK_N)


def drum_stand(site: Site, outline: Edge) -> DrumStand:
    """The stand of a drum. outline: of the drum, closed. Raises: PlanError where no handle turns it."""
    from shapely import Polygon

    middle = Polygon(corners_of(outline)).centroid
    center = np.array([middle.x, middle.y])
    reach = float(np.hypot(*(corners_of(outline) - center).T).max())
    handle = handle_mm(site.moment_nmm)
    if handle > MOST_HANDLE_MM:
        raise PlanError(
            "form.drum_stand",
            "A handle would have to be {long} long to turn this drum by hand.",
            hint="Leave the drum fixed and pull the wood around it.",
            lengths_mm={"long": handle},
        )
    wood = site.part.thickness_mm + 2 * site.choice.liner_mm + site.over_mm
    return DrumStand((float(center[0]), float(center[1])), reach + wood, handle, site.moment_nmm / handle)


def axle_hole(x_mm: float, y_mm: float) -> Hole:
    """The hole of the axle."""
    return Hole(x_mm, y_mm, AXLE_MM + AXLE_PLAY_MM, "axle")


def stand_parts(site: Site, stand: DrumStand, numbered: int) -> list[FormPart]:
    """Uprights, base and handle. Raises: PlanError for one that is too long for the sheets."""
    sheet, height = site.choice.sheet_mm, stand.axle_mm + ABOVE_AXLE_MM
    between = site.stack_mm + 2 * BESIDE_MM
    end = HANDLE_WIDE_MM / 2
    rows = (
        (
            "upright",
            2,
            UPRIGHT_WIDE_MM,
            height,
            (axle_hole(UPRIGHT_WIDE_MM / 2, stand.axle_mm),),
            "the axle at its top",
        ),
        (
            "base of the stand",
            1,
            max(2 * UPRIGHT_WIDE_MM, 1.5 * stand.reach_mm),
            between + 2 * (sheet + BESIDE_MM),
            (),
            "the uprights screwed to it, square; clamp it to the bench",
        ),
        (
            "handle",
            1,
            stand.handle_mm + 2 * end,
            HANDLE_WIDE_MM,
            (axle_hole(end, end), Hole(stand.handle_mm + end, end, AXLE_MM, "axle")),
            "fixed to the axle, a round grip in its far hole",
        ),
    )
    return [
        replace(
            part_of(site, numbered + i, name, many, sheet, (rectangle(long, high),), holes, 0.0, 0.0, note),
            role="stand",
        )
        for i, (name, many, long, high, holes, note) in enumerate(rows, 1)
    ]
