"""The Job document: what is wanted and the wood at hand. An open JSON file, described in docs/job-format.md."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from functools import lru_cache
from typing import Any, Literal

from pydantic import Field, ValidationError

from ..experience.belief import WayName
from ..ground.document import Document, Length
from ..ground.errors import Fault, OutOfRange
from ..ground.units import Unit, format_length, format_temperature
from ..shape.curve import Curve
from ..shape.shapes import KINDS, Place, Shape
from ..shop.adhesive import adhesive
from ..wood.lot import Dryness, Lot
from ..wood.sheets import sheet_table
from ..wood.species import OwnWood, species, wood_table
from .heat_choice import Heat


class Part(Document):
    """The finished piece and how many are wanted. thickness lies in the plane of the bend, width across it.

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
    trim_mm: Length = Field(default=30, ge=0, le=1_000)


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
    outermost so thick and that one what is left), or layer by layer from the inside out."""

    lay_up: Literal["equal", "layers"] = "equal"
    layers: tuple[Layer, ...] = Field(default=(), max_length=120, strict=False)
    press: Literal["clamps", "vacuum", "band"] = "clamps"
    gauge_kpa: float = Field(default=85.0, gt=0, le=105, allow_inf_nan=False)
    band_kn: float = Field(default=2.5, gt=0, le=100, allow_inf_nan=False)
    laminae: int = Field(default=8, ge=2, le=120)
    lamina_mm: Length | None = Field(default=None, ge=0.2, le=100)
    adhesive: str = Field(default="uf_liquid", max_length=60)

    @property
    def count(self) -> int:
        """How many layers there are."""
        return len(self.layers) if self.lay_up == "layers" else self.laminae


class FormChoice(Document):
    """The form: its kind and how it is built, which side of the part it stands on, what lies between, how deep its body
    is, which way a far half closes and where that is split (mm from the middle of the face), and how it allows for
    springback (`school`), with the overbend of each end for the schools that fix it."""

    side: Literal["inner", "outer"] = "inner"
    kind: Literal["one_sided", "two_part", "three_part", "ring", "posts", "in_place"] = "one_sided"
    build: Literal["stack", "ribs", "solid", "sawn_sides"] = "stack"
    goods: Literal["plywood", "mdf", "chipboard", "solid"] = "mdf"
    sheet_mm: Length = Field(default=18.0, ge=3, le=100)
    skin_mm: Length = Field(default=6.5, ge=1, le=50)
    close_deg: Length = Field(default=0.0, ge=-84, le=84)
    splits_mm: tuple[Place, ...] = Field(default=(), max_length=4, strict=False)
    post_mm: Length = Field(default=150.0, ge=20, le=1_000)
    liner_mm: Length = Field(default=0.0, ge=0, le=30)
    depth_mm: Length = Field(default=90.0, ge=20, le=1_000)
    school: Literal["computed", "to_size", "by_angle", "by_distance", "own_record"] = "computed"
    left_deg: Length = Field(default=1.0, ge=0, le=60)
    right_deg: Length = Field(default=1.0, ge=0, le=60)
    left_mm: Length = Field(default=12.0, ge=0, le=2_000)
    right_mm: Length = Field(default=12.0, ge=0, le=2_000)


class Job(Document):
    """One job: a bent part, wanted so many times. Version 1 of the format."""

    format: Literal["bright-willow-job"] = "bright-willow-job"
    version: Literal[1] = 1
    name: str = Field(min_length=1, max_length=120, pattern=r"\S")
    notes: str = Field(default="", max_length=4_000)
    way: WayName = "cold_lamination"
    shape: Shape
    part: Part
    stock: Stock = Stock()
    build_up: BuildUp = BuildUp()
    form: FormChoice = FormChoice()
    heat: Heat = Heat()

    def mid_line(self) -> Curve:
        """The target mid-line, without trims. Raises: OutOfRange."""
        mid = _mid_line(self.shape, self.part.thickness_mm)
        return mid.mirrored() if self.is_right else mid

    @property
    def is_right(self) -> bool:
        """Whether the right of a pair is drawn."""
        return self.part.copies == "pairs" and self.part.hand == "right"

    @property
    def hand_says(self) -> str:
        """Left or right, for every sheet; nothing where all are alike."""
        if self.part.copies != "pairs":
            return ""
        mate = "LEFT" if self.is_right else "RIGHT"
        return f"{self.part.hand.upper()} of a pair; its mate is a {mate}"


@lru_cache(maxsize=64)
def _mid_line(shape: Shape, thickness_mm: float) -> Curve:
    """A shape is asked for its mid-line by every check and every part of a plan; it is worked out once."""
    return shape.mid_line(thickness_mm)


class JobFaulty(ValueError):
    """A job that cannot be read or made; carries every fault found, each with its field, and the job itself where it
    can be read but not made."""

    def __init__(self, faults: list[Fault], job: Job | None = None) -> None:
        self.faults, self.job = faults, job
        super().__init__(" ".join(f.says for f in faults))


def read_job(data: Any, unit: Unit = "mm", woods: tuple[OwnWood, ...] = ()) -> Job:
    """A Job from parsed JSON. Raises: JobFaulty with all faults at once, each a sentence in the reader's unit.

    woods: the shop's own woods, which a job may name as well."""
    try:
        job = Job.model_validate(data)
    except ValidationError as error:
        raise JobFaulty(faults_of(error, unit)) from None
    if faults := cross_faults(job, unit, woods):
        raise JobFaulty(faults, job)
    return job


def cross_faults(job: Job, unit: Unit = "mm", woods: tuple[OwnWood, ...] = ()) -> list[Fault]:
    """What single fields cannot show: an impossible arc, a wood or glue that is not in the tables."""
    faults = []
    for check in (
        lambda: copies_fit(job),
        lambda: layers_fit(job, woods),
        job.mid_line,
        lambda: species(job.stock.species, woods),
        lambda: adhesive(job.build_up.adhesive),
    ):
        try:
            check()
        except OutOfRange as error:
            faults.append(error.fault(unit))
    return faults


def copies_fit(job: Job) -> None:
    """Raises: OutOfRange when pairs are wanted in an odd number."""
    if job.part.copies == "pairs" and job.part.count % 2:
        raise OutOfRange("part.count", "A pair is two pieces, a left and a right: make it an even number.")


def layers_fit(job: Job, woods: tuple[OwnWood, ...] = ()) -> None:
    """Raises: OutOfRange when layers are missing, are of nothing known, or do not add up to the part."""
    if job.build_up.lay_up != "layers":
        lamina, last = job.build_up.lamina_mm, last_lamina_mm(job)
        if lamina is not None and not 0.2 <= last <= lamina + 1e-6:
            raise OutOfRange(
                "build_up.laminae",
                f"{job.build_up.laminae} laminae, all but the last {{own}} thick, would leave {{last}} for that one.",
                hint="Take another rung of the ladder.",
                lengths_mm={"own": lamina, "last": last},
            )
        return
    field, layers = "build_up.layers", job.build_up.layers
    if len(layers) < 2:
        raise OutOfRange(field, "A lay-up needs two layers or more.")
    for number, layer in enumerate(layers, 1):
        sheet = sheet_table().get(layer.material)
        if sheet is None and layer.material not in wood_table(woods):
            raise OutOfRange(
                field, f"Layer {number}: no wood or sheet called “{layer.material[:40]}” is in the tables."
            )
        if sheet is not None and abs(sheet.thickness_mm - layer.thickness_mm) > 0.05:
            raise OutOfRange(
                field, f"Layer {number}: {sheet.name} is {{own}} thick.", lengths_mm={"own": sheet.thickness_mm}
            )
        if layer.bent_radius_mm is not None and abs(layer.bent_radius_mm) < layer.thickness_mm:
            raise OutOfRange(field, f"Layer {number} cannot have been bent tighter than it is thick.")
    total = sum(layer.thickness_mm for layer in layers)
    if abs(total - job.part.thickness_mm) > 0.06:
        raise OutOfRange(
            field,
            "These layers add up to {total}; the part is {part} thick.",
            hint="Change a layer, or the thickness under Shape.",
            lengths_mm={"total": total, "part": job.part.thickness_mm},
        )


def last_lamina_mm(job: Job) -> float:
    """Thickness left for the outermost lamina of a lay-up of equal ones."""
    lamina = job.build_up.lamina_mm
    total, count = job.part.thickness_mm, job.build_up.laminae
    return total / count if lamina is None else total - (count - 1) * lamina


_WORDS = {
    "missing": "This is missing.",
    "extra_forbidden": "There is no such field in a job; check its spelling.",
    "string_too_short": "Give it a name.",
    "string_pattern_mismatch": "Give it a name.",
    "finite_number": "A number must be finite.",
}


def faults_of(error: ValidationError, unit: Unit = "mm") -> list[Fault]:
    """Sentences for what a document's own validation found, field by field."""
    return faults_in(error.errors(include_url=False, include_input=False), unit)


def faults_in(items: Sequence[Mapping[str, Any]], unit: Unit = "mm") -> list[Fault]:
    """Sentences for validation errors as the validator lists them (`type`, `loc`, `ctx`, `msg`)."""
    faults = []
    for item in items:
        loc = [str(p) for p in item["loc"]]
        while loc and loc[0] in ("body", "query", "path", "job"):
            loc = loc[1:]
        field = ".".join(p for p in loc if p not in KINDS) or "job"
        faults.append(Fault(field, _sentence(item["type"], item.get("ctx", {}), item["msg"], field, unit)))
    return faults


def _sentence(kind: str, ctx: Mapping[str, Any], message: str, field: str, unit: Unit) -> str:
    if kind in _WORDS:
        return _WORDS[kind]
    limit = next((ctx[k] for k in ("ge", "le", "gt", "lt") if k in ctx), None)
    if limit is not None:
        shown = format_length(float(limit), unit) if field.endswith("_mm") else f"{limit:g}"
        if field.endswith("_c"):
            shown = format_temperature(float(limit), unit)
        shown += "°" if field.endswith("_deg") else ""
        return f"At least {shown}, please." if kind.startswith("greater") else f"At most {shown}, please."
    if kind == "string_too_long":
        return f"At most {ctx.get('max_length')} characters, please."
    if kind in ("float_type", "float_parsing", "int_type", "int_parsing", "int_from_float"):
        return "A whole number is needed here." if kind.startswith("int") else "A number is needed here."
    if kind in ("literal_error", "union_tag_invalid"):
        expected = ctx.get("expected") or ctx.get("expected_tags", "")
        return f"Choose one of {expected}."
    if kind == "union_tag_not_found":
        return f"Say what kind of shape it is: one of {', '.join(KINDS)}."
    return message + "."
