"""Pieces side by side on one form: of strips of their own, or sawn out of one wide blank after; against each alone."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Literal

from ..common.errors import ENDLESS, check_range
from ..job.job import Job
from ..shop.shop import Shop

APART_MM = 10.0  # between pieces side by side on a form. Grade: allowance.
POISSON = 0.4  # of wood bent along its grain, across it. Grade: allowance.
PRESSED_FROM_EDGES_MM = 150.0  # wider than that, clamps at both edges leave the middle to a caul. Grade: allowance.

As = Literal["alone", "strips", "wide"]


@dataclass(frozen=True, slots=True)
class SideBySide:
    """How pieces lie on the form. pieces: side by side; goes: how often the form is loaded. Lengths mm.

    strip_wide_mm: of every strip sawn; strips_a_layer: side by side; on_form_mm: from edge to edge; wood_mm: of that
    what is pressed; net_mm: without what is cleaned up; pitch_mm: from piece to piece.
    """

    as_: As
    pieces: int
    goes: int
    strip_wide_mm: float
    strips_a_layer: int
    on_form_mm: float
    wood_mm: float
    net_mm: float
    pitch_mm: float

    @property
    def middle_needs_caul(self) -> bool:
        """Whether clamps from the edges alone do not press its middle."""
        return self.on_form_mm > PRESSED_FROM_EDGES_MM

    def strips(self, layers: int, pieces: int) -> int:
        """Strips for so many pieces."""
        return layers * (pieces if self.as_ != "wide" else self.goes)


def laid(job: Job, shop: Shop, as_: As, pieces: int) -> SideBySide:
    """So many pieces side by side, so. Valid: 1 piece or more; alone: 1. Raises: PlanError. Source: geometry.

    wide: n b + (n − 1) kerf + clean-up; strips: n (b + clean-up) with 10 mm between.
    """
    check_range("prepare.abreast", pieces, 1, ENDLESS)
    b, clean, kerf = job.part.width_mm, shop.clean_up_mm, shop.kerf_mm
    whole = job.part.count + job.part.spares
    goes = math.ceil(whole / pieces)
    if as_ == "wide" and pieces > 1:
        wide = pieces * b + (pieces - 1) * kerf + clean
        return SideBySide("wide", pieces, goes, wide, 1, wide, wide, wide - clean, b + kerf)
    each = b + clean
    on_form = pieces * each + (pieces - 1) * APART_MM
    kind: As = "strips" if pieces > 1 else "alone"
    return SideBySide(kind, pieces, goes, each, pieces, on_form, pieces * each, pieces * b, each + APART_MM)


def abreast(job: Job, shop: Shop) -> SideBySide:
    """As the job has it: no more side by side than are wanted.

    >>> from ..job.job import Part
    >>> from ..shape.kinds.arc_by_chord import ArcByChord
    >>> part = Part(thickness_mm=40, width_mm=60, count=5, spares=1)
    >>> job = Job(name="A", shape=ArcByChord(kind="arc_by_chord", chord_mm=900, rise_mm=90), part=part)
    >>> side = job.prepare.model_copy(update={"abreast": 4, "abreast_as": "wide"})
    >>> made = abreast(job.model_copy(update={"prepare": side}), Shop())
    >>> made.on_form_mm, made.goes, made.strips(8, 6)
    (255.0, 2, 16)
    """
    pieces = min(job.prepare.abreast, job.part.count + job.part.spares)
    return laid(job, shop, job.prepare.abreast_as, pieces)


def curl_mm(*, width_mm: float, thickness_mm: float, curvature: float) -> float:
    """How far the edges of a lamina bent to a curvature curl up across it: ν κ b²/8 where it is narrow, and no more
    than ν t / √(12 (1 − ν²)) where it is wide and the middle stays flat.

    Valid: width and thickness above 0, any curvature. Raises: PlanError. Source: anticlastic bending of a strip and of
    a wide plate. Grade: physics on allowance.

    >>> round(curl_mm(width_mm=50, thickness_mm=3, curvature=1 / 1000), 3)
    0.125
    >>> round(curl_mm(width_mm=400, thickness_mm=3, curvature=1 / 500), 2)
    0.38
    """
    check_range("part.width_mm", width_mm, 0, ENDLESS, "mm", above=True)
    check_range("part.thickness_mm", thickness_mm, 0, ENDLESS, "mm", above=True)
    check_range("shape", abs(curvature), 0, ENDLESS, "1/mm")
    narrow = POISSON * abs(curvature) * width_mm**2 / 8
    return min(narrow, POISSON * thickness_mm / math.sqrt(12 * (1 - POISSON**2)))
