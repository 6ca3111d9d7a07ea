"""Where a form is built: the choices, the faces, the load, and what follows from them before any part is drawn."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Literal

import numpy as np

from ..common.arrays import Array
from ..job.job import FormChoice, Part
from ..shape.curve import Curve
from ..shop.clamps import CAUL_MM, Clamp, clamp_table, clamps_needed, held_by
from ..shop.shop import Shop
from .closing import ClosingCheck, closing
from .face import FormFace
from .kinds import KINDS
from .skin import skin_modulus_gpa
from .stiffness import GOODS, Deflection, beam_deflection_mm, span_for

MOST_RIB_SPACING_MM = 75.0  # under a skin, whatever the skin stands. Grade: allowance.
SKIN_GIVES_MM = 0.25  # that a skin may give between ribs
LEAST_SIDE = 0.18  # of the face, that a side presser carries
LIKELY_CLAMP = "f_clamp"


@dataclass(frozen=True, slots=True)
class Post:
    """A post on the table: its place, and the way its bracket looks (degrees from the base line)."""

    number: int
    x_mm: float
    y_mm: float
    angle_deg: float


PressedBy = Literal["clamps", "vacuum", "band", "held"]


@dataclass(frozen=True, eq=False)
class Site:
    """What a construction starts from: the choices for the hand that is drawn, the part, the shop, the near face, the
    far face, the load. stack_mm: height of the form; closed: whether it is the drum of a closed ring. over_mm: how
    thick the strap over the wood is; moment_nmm: that bends what lies on it; wrapped_hot: whether that is one hot
    piece, bent around it."""

    choice: FormChoice
    part: Part
    press: PressedBy
    closed: bool
    shop: Shop
    face: FormFace
    far: Curve
    stack_mm: float
    pressure_mpa: float
    caul_mm: float
    released_headings_rad: Array
    over_mm: float = 0.0
    moment_nmm: float = 0.0
    wrapped_hot: bool = False

    @property
    def kind(self) -> str:
        """The kind of form there is: a closed ring always has a drum."""
        return "ring" if self.closed else self.choice.kind

    @property
    def sense(self) -> float:
        """+1 where the lay-up lies above the near face, −1 where below."""
        return 1.0 if self.face.side == "inner" else -1.0

    @property
    def length_mm(self) -> float:
        """Length of the near face."""
        return self.face.curve.length_mm

    @property
    def clamp(self) -> Clamp:
        """The kind of clamp that is reckoned with."""
        return clamp_table()[LIKELY_CLAMP]

    @property
    def clamps(self) -> int:
        """How many of them press it everywhere; hold it, where it is bent hot; none where a bag or a band presses."""
        if self.press in ("vacuum", "band"):
            return 0
        if self.press == "held":
            return held_by(self.length_mm)
        return clamps_needed(
            pressure_mpa=self.pressure_mpa,
            width_mm=self.part.width_mm,
            length_mm=self.length_mm,
            clamp=self.clamp,
            spread_mm=max(CAUL_MM, self.choice.depth_mm if KINDS[self.kind].has_opposite else 0.0),
        )

    @property
    def clamps_press_mpa(self) -> float:
        """What so many clamps give, side by side at most. Grade: allowance."""
        return self.clamps * self.clamp.force_kn * 1000 / (self.part.width_mm * self.length_mm)


def splits_of(site: Site) -> tuple[float, ...]:
    """The splits of the far half: as given, or, for a three-part form without its two, where the legs begin."""
    given = site.choice.splits_mm
    if site.kind != "three_part" or len(given) == 2:
        return tuple(given)
    face = site.face
    at = np.linspace(0, face.curve.length_mm, 201)
    headings = face.curve.at(at)[1] + face.tilt_rad
    steep = math.radians(50)
    legs = np.abs(headings) > steep
    left, right = face.curve.length_mm * 0.3, face.curve.length_mm * 0.7
    if legs.any() and not legs.all():
        flat = np.flatnonzero(~legs)
        left = float(at[flat[0]]) if flat[0] > 0 else left
        right = float(at[flat[-1]]) if flat[-1] < at.size - 1 else right
    least = LEAST_SIDE * face.curve.length_mm
    return (max(left, least) - face.middle_mm, min(right, face.curve.length_mm - least) - face.middle_mm)


def closing_of(site: Site) -> ClosingCheck | None:
    """The closing check, where there is an opposite half. Raises: PlanError for a direction along the face."""
    if not KINDS[site.kind].has_opposite:
        return None
    return closing(
        site.face,
        direction_deg=site.choice.close_deg,
        splits_mm=splits_of(site),
        released_headings_rad=site.released_headings_rad,
    )


def layers_of(site: Site) -> int:
    """Layers of sheet in a stack; 1 of anything else."""
    choice = site.choice
    return math.ceil(site.stack_mm / choice.sheet_mm - 1e-9) if choice.build == "stack" else 1


def rib_spacing_mm(site: Site) -> float:
    """As far apart as the skin stands with 0.25 mm of give, at most 75 mm, spread evenly over the width; 0 where one
    sheet is as thick as the form is wide, and one rib is all there is."""
    choice = site.choice
    between = site.stack_mm - choice.sheet_mm
    if between <= 0:
        return 0.0
    modulus = skin_modulus_gpa(choice, site.shop)
    free = span_for(
        deflection_mm=SKIN_GIVES_MM, pressure_mpa=site.pressure_mpa, depth_mm=choice.skin_mm, modulus_gpa=modulus
    )
    most = min(MOST_RIB_SPACING_MM, free + choice.sheet_mm)
    return between / max(1, math.ceil(between / most - 1e-9))


def deflection_of(site: Site, pitch_mm: float, spacing: float | None) -> Deflection | None:
    """How far the weakest place gives; none where nothing is built. Grade: allowance."""
    choice = site.choice
    if site.kind in ("posts", "in_place"):
        return None
    modulus = GOODS[choice.goods][1]
    if site.press in ("vacuum", "band") and spacing is None and choice.build != "sawn_sides":
        return None  # pressed everywhere alike: nothing spans
    where, span, depth = "the form body between two clamps", pitch_mm, choice.depth_mm
    if spacing is not None:
        where, span, depth = "the skin between two ribs", max(5.0, spacing - choice.sheet_mm), choice.skin_mm
        modulus = skin_modulus_gpa(choice, site.shop)
    elif choice.build == "sawn_sides":
        where, span, depth = "a slat between the sides", max(5.0, site.stack_mm - 2 * choice.sheet_mm), choice.skin_mm
    value = beam_deflection_mm(
        pressure_mpa=site.pressure_mpa,
        width_mm=site.part.width_mm,
        span_mm=span,
        depth_mm=depth,
        modulus_gpa=modulus,
    )
    return Deflection(value, where, span)


def posts_of(site: Site) -> tuple[Post, ...]:
    """Posts along the near face, of a form that has them: at both ends and the middle, no further apart than asked."""
    if site.kind != "posts":
        return ()
    face, step = site.face, site.choice.post_mm
    count = 2 * math.ceil(face.curve.length_mm / 2 / step)
    at = np.linspace(0, face.curve.length_mm, count + 1)
    points, headings = face.curve.at(at)
    laid = face.laid(points)
    return tuple(
        Post(i, float(x), float(y), math.degrees(h + face.tilt_rad))
        for i, ((x, y), h) in enumerate(zip(laid, headings, strict=True), 1)
    )
