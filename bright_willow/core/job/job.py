"""The Job document: what is wanted and the wood at hand. An open JSON file, described in docs/job-format.md."""

from __future__ import annotations

from functools import lru_cache
from typing import Annotated, Literal

from pydantic import Field, StringConstraints

from ..common.document import Document, Length
from ..shape.curve import Curve
from ..shape.shape_registry import Place, Shape
from ..wood.lot import Dryness, Lot
from .glue_up_choice import GlueUp
from .heat_choice import Heat
from .schedule_choice import Days
from .stock_choice import Prepare

Tag = Annotated[str, StringConstraints(strip_whitespace=True, min_length=1, max_length=30, pattern=r"^[^,\"\\]+$")]
MOST_MARKS = 12  # of one's own on a piece
CutKind = Literal["square", "on_line", "mitred", "long"]


MarkName = Annotated[str, StringConstraints(strip_whitespace=True, min_length=1, max_length=24)]


class OwnMark(Document):
    """A mark of the maker's own: its name, and where it is along the centerline of the finished piece, mm from its left
    end, from its right end, or from its center (to the right of it above 0)."""

    name: MarkName = "mark"
    at_mm: Length = Field(default=0.0, ge=-50_000, le=50_000)
    counted_from: Literal["left", "center", "right"] = "left"

    @property
    def mirrored(self) -> OwnMark:
        """The same mark on the piece seen in a mirror."""
        if self.counted_from == "center":
            return self.model_copy(update={"at_mm": -self.at_mm})
        other = "left" if self.counted_from == "right" else "right"
        return self.model_copy(update={"counted_from": other})

    def station_mm(self, length_mm: float) -> float:
        """Where it is from the left end of a piece of a length."""
        if self.counted_from == "right":
            return length_mm - self.at_mm
        return self.at_mm + (length_mm / 2 if self.counted_from == "center" else 0.0)


class Part(Document):
    """The finished piece and how many are wanted. thickness lies in the plane of the bend, width across it.

    trim_mm: left at each end to be cut off, right_trim_mm where the right end differs. left_cut, right_cut: how an end
    is cut: square, on the line through both ends, mitred by so many degrees off square (positive: the outer face the
    longer), or left long, to be cut where it goes.

    In pairs, half of them are left as the shape is stated and half are right, its image in a mirror; `hand` is the one
    that is drawn and planned.
    """

    thickness_mm: Length = Field(ge=0.5, le=300)
    width_mm: Length = Field(ge=2, le=2_000)
    count: int = Field(default=1, ge=1, le=500)
    copies: Literal["alike", "pairs"] = "alike"
    hand: Literal["left", "right"] = "left"
    mate_tolerance_mm: Length = Field(default=2.0, ge=0.1, le=100)
    spares: int = Field(default=1, ge=0, le=100)
    trim_mm: Length = Field(default=30.0, ge=0, le=1_000)
    right_trim_mm: Length | None = Field(default=None, ge=0, le=1_000)
    left_cut: CutKind = "square"
    right_cut: CutKind = "square"
    left_mitre_deg: Length = Field(default=45.0, ge=-75, le=75)
    right_mitre_deg: Length = Field(default=45.0, ge=-75, le=75)
    marks: tuple[OwnMark, ...] = Field(default=(), max_length=MOST_MARKS, strict=False)

    @property
    def trims_mm(self) -> tuple[float, float]:
        """What is left to trim at the left and the right end, as stated."""
        return self.trim_mm, self.trim_mm if self.right_trim_mm is None else self.right_trim_mm

    @property
    def mirrored(self) -> Part:
        """The same piece seen in a mirror: whatever is said of one end is said of the other."""
        left, right = self.trims_mm
        return self.model_copy(
            update={
                "trim_mm": right,
                "right_trim_mm": None if left == right else left,
                "left_cut": self.right_cut,
                "right_cut": self.left_cut,
                "left_mitre_deg": self.right_mitre_deg,
                "right_mitre_deg": self.left_mitre_deg,
                "marks": tuple(mark.mirrored for mark in self.marks),
            }
        )


class Stock(Document):
    """The wood: species, dryness, how steeply the grain runs out (rise in a run of 1), whether it is figured, its
    moisture if it was measured, and the lot of the rack it is taken from, as that was when it was chosen."""

    species: str = Field(default="ash_white", max_length=60)
    dryness: Dryness = "kiln_dried"
    grain_slope: float = Field(default=0.0, ge=0, le=0.2, allow_inf_nan=False)
    figured: bool = False
    moisture_pct: float | None = Field(default=None, ge=0, le=200, allow_inf_nan=False)
    lot: Lot | None = None


class Layer(Document):
    """One layer: its thickness, its wood or sheet (a key of either table), whether its grain (or the way it rolls) lies
    along the bend or across it, and the mid-line radius it was bent to beforehand with heat, if it was; a negative
    radius bends the other way."""

    thickness_mm: Length = Field(ge=0.2, le=100)
    material: str = Field(min_length=1, max_length=60)
    bent_radius_mm: Length | None = Field(default=None, ge=-50_000, le=50_000)
    grain: Literal["along", "across"] = "along"


class BuildUp(Document):
    """The lay-up and the glue between: so many equal laminae of the stock (or, where `lamina_mm` is given, all but the
    outermost so thick and that one what is left), or layer by layer from the inside out. cauls: layers like the
    outermost that are pressed on without glue, to spread the pressure, and used again.
    bands: how many over the width, each pulled with band_kn; band_clamps: clamps where a band does not press.
    tape_after: layers of an inner piece with tape between it and the outer one, bent together and apart after; 0: none.
    """

    lay_up: Literal["equal", "layers"] = "equal"
    layers: tuple[Layer, ...] = Field(default=(), max_length=120, strict=False)
    press: Literal["clamps", "vacuum", "band"] = "clamps"
    gauge_kpa: float = Field(default=85.0, gt=0, le=1_000, allow_inf_nan=False)
    band_kn: float = Field(default=2.5, gt=0, le=100, allow_inf_nan=False)
    bands: int = Field(default=1, ge=1, le=6)
    band_clamps: int = Field(default=0, ge=0, le=60)
    band_pull: Literal["one_end", "both_ends"] = "one_end"
    band_on: Literal["wood", "film"] = "wood"
    laminae: int = Field(default=8, ge=2, le=120)
    lamina_mm: Length | None = Field(default=None, ge=0.2, le=100)
    adhesive: str = Field(default="uf_liquid", max_length=60)
    cauls: int = Field(default=0, ge=0, le=3)
    tape_after: int = Field(default=0, ge=0, le=119)

    @property
    def count(self) -> int:
        """How many layers there are."""
        return len(self.layers) if self.lay_up == "layers" else self.laminae

    @property
    def glue_lines(self) -> int:
        """Between how many of them there is glue."""
        return self.count - (2 if self.tape_after else 1)


class FormChoice(Document):
    """The form: its kind and how it is built, which side of the part it stands on, what lies between, how deep its body
    is, which way a far half closes and where that is split (mm from the middle of the face), and how it allows for
    springback (`school`), with the overbend of each end for the rules that fix it. skin_of: what its skin over ribs is,
    `plain` thin plywood, skin_mm thick, or the key of a sheet, which has its own thickness.

    start_hold: what holds the start of a hot bend on a single form (`clamps`: at its middle, both ends pulled), at
    start_end. matched_cauls: cauls shaped to the curve. end_radius_mm: rounding where the face ends. clamp_holes: in
    the body, where its back gives no seat, all along it, or none. drum_stand: axle, stand and handle of a round form.
    """

    side: Literal["inner", "outer"] = "inner"
    kind: Literal["one_sided", "two_part", "three_part", "ring", "posts", "in_place"] = "one_sided"
    build: Literal["stack", "ribs", "solid", "sawn_sides"] = "stack"
    goods: Literal["plywood", "mdf", "chipboard", "solid"] = "mdf"
    sheet_mm: Length = Field(default=18.0, ge=3, le=100)
    skin_mm: Length = Field(default=6.5, ge=1, le=50)
    skin_of: str = Field(default="plain", max_length=60)
    close_deg: Length = Field(default=0.0, ge=-84, le=84)
    splits_mm: tuple[Place, ...] = Field(default=(), max_length=4, strict=False)
    post_mm: Length = Field(default=150.0, ge=20, le=1_000)
    liner_mm: Length = Field(default=0.0, ge=0, le=30)
    depth_mm: Length = Field(default=90.0, ge=20, le=1_000)
    school: Literal["computed", "to_size", "pulled", "by_angle", "by_distance", "own_record"] = "computed"
    left_deg: Length = Field(default=1.0, ge=0, le=60)
    right_deg: Length = Field(default=1.0, ge=0, le=60)
    left_mm: Length = Field(default=12.0, ge=0, le=2_000)
    right_mm: Length = Field(default=12.0, ge=0, le=2_000)
    start_hold: Literal["clamps", "cleat", "notch"] = "clamps"
    start_end: Literal["left", "right"] = "left"
    matched_cauls: Literal["none", "ends", "ends_and_middle"] = "none"
    end_radius_mm: Length = Field(default=0.0, ge=0, le=100)
    clamp_holes: Literal["where_needed", "all_along", "none"] = "where_needed"
    drum_stand: bool = False

    @property
    def mirrored(self) -> FormChoice:
        """The same choices seen in a mirror: whatever is said of one end is said of the other."""
        return self.model_copy(
            update={
                "left_deg": self.right_deg,
                "right_deg": self.left_deg,
                "left_mm": self.right_mm,
                "right_mm": self.left_mm,
                "close_deg": -self.close_deg,
                "splits_mm": tuple(-s for s in reversed(self.splits_mm)),
                "start_end": "left" if self.start_end == "right" else "right",
            }
        )


class Job(Document):
    """One job: a bent part, wanted so many times. Version 1 of the format."""

    format: Literal["bright-willow-job"] = "bright-willow-job"
    version: Literal[1] = 1
    name: str = Field(min_length=1, max_length=120, pattern=r"\S")
    notes: str = Field(default="", max_length=4_000)
    tags: tuple[Tag, ...] = Field(default=(), max_length=8, strict=False, description="to find the job by")
    way: str = Field(default="cold_lamination", max_length=40, description="a key of the ways of bending")
    shape: Shape
    part: Part
    stock: Stock = Stock()
    build_up: BuildUp = BuildUp()
    form: FormChoice = FormChoice()
    heat: Heat = Heat()
    prepare: Prepare = Prepare()
    glue_up: GlueUp = GlueUp()
    days: Days = Days()

    def mid_line(self) -> Curve:
        """The target mid-line, without trims. Raises: PlanError."""
        mid = _mid_line(self.shape, self.part.thickness_mm)
        return mid.mirrored() if self.is_right else mid

    @property
    def form_as_drawn(self) -> FormChoice:
        """The form's choices for the hand that is drawn: stated for the left, mirrored for the right."""
        return self.form.mirrored if self.is_right else self.form

    @property
    def part_as_drawn(self) -> Part:
        """The piece for the hand that is drawn: its ends stated for the left, mirrored for the right."""
        return self.part.mirrored if self.is_right else self.part

    def with_form_as_drawn(self, form: FormChoice) -> Job:
        """The job with what was decided about the form while this hand is drawn."""
        return self.model_copy(update={"form": form.mirrored if self.is_right else form})

    @property
    def is_right(self) -> bool:
        """Whether the right of a pair is drawn."""
        return self.part.copies == "pairs" and self.part.hand == "right"

    @property
    def hand_text(self) -> str:
        """Left or right, for every sheet; nothing where all are alike."""
        if self.part.copies != "pairs":
            return ""
        mate = "LEFT" if self.is_right else "RIGHT"
        return f"{self.part.hand.upper()} of a pair; its mate is a {mate}"


@lru_cache(maxsize=64)
def _mid_line(shape: Shape, thickness_mm: float) -> Curve:
    """A shape is asked for its mid-line by every check and every part of a plan; it is worked out once."""
    return shape.mid_line(thickness_mm)
