"""The fields of each stage: what they are called, how they are typed, and where they live in the job.

One table serves the page, the reading of what was typed, and the sentences beside a field.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any, Literal

from ..core.errors import Fault, OutOfRange
from ..core.job import Job, JobFaulty, read_job
from ..core.shape.arc import FACES
from ..core.shape.handles import stated_arc
from ..core.shop.adhesive import adhesive_table
from ..core.units import Unit, format_length, parse_count, parse_length_mm, parse_number
from ..core.wood.species import species_table

Kind = Literal["text", "length", "angle", "count", "choice"]


@dataclass(frozen=True)
class Field:
    """One input. `name` is its dotted place in the job file."""

    name: str
    label: str
    kind: Kind
    hint: str = ""
    choices: tuple[tuple[str, str], ...] = ()
    look: Literal["select", "pills", "ladder"] = "select"


_SPECIES = tuple((s.key, s.name) for s in sorted(species_table().values(), key=lambda s: (s.kind, s.name)))
_GLUES = tuple((a.key, a.name) for a in adhesive_table().values())
_SLOPES = (
    ("0.0", "straight"),
    ("0.04", "1 in 25"),
    ("0.05", "1 in 20"),
    ("0.06666666666666667", "1 in 15"),
    ("0.1", "1 in 10"),
    ("0.2", "1 in 5"),
)

COMMON_SHAPE = (
    Field("name", "Name", "text"),
    Field(
        "shape.kind",
        "Given by",
        "choice",
        look="pills",
        choices=(("arc_by_chord", "chord and rise"), ("arc_by_radius", "radius and angle")),
    ),
    Field(
        "shape.face",
        "Measured on",
        "choice",
        choices=tuple(FACES.items()),
        look="pills",
        hint="A radius for the wrong face is wrong by half a thickness.",
    ),
)
PART = (
    Field("part.thickness_mm", "Thickness", "length", "in the plane of the bend"),
    Field("part.width_mm", "Width", "length", "across the bend"),
    Field("part.count", "How many", "count"),
    Field("part.spares", "Spares", "count", "some break"),
    Field("part.trim_mm", "Trim at each end", "length", "cut off after gluing"),
)
STAGE_FIELDS: dict[str, tuple[Field, ...]] = {
    "stock": (
        Field("stock.species", "Species", "choice", choices=_SPECIES),
        Field(
            "stock.dryness",
            "Dryness",
            "choice",
            look="pills",
            choices=(("kiln_dried", "kiln-dried"), ("air_dried", "air-dried"), ("green", "green")),
        ),
        Field(
            "stock.grain_slope",
            "Run-out of the grain",
            "choice",
            choices=_SLOPES,
            hint="How far the grain climbs out of the strip: rise in a run.",
        ),
    ),
    "build_up": (
        Field("build_up.laminae", "Laminae", "count", look="ladder"),
        Field("build_up.adhesive", "Glue", "choice", choices=_GLUES),
    ),
    "form": (
        Field(
            "form.side",
            "The form stands",
            "choice",
            look="pills",
            choices=(("inner", "inside the bend"), ("outer", "outside the bend")),
        ),
        Field("form.liner_mm", "Liner or release film", "length", "between face and wood; 0 for wax or tape"),
        Field("form.depth_mm", "Depth of the body", "length", "from the face to its back; clamps seat there"),
    ),
    "measure": (),
}


def fields_for(stage: str, job: Job) -> tuple[Field, ...]:
    """The inputs of a stage for this job."""
    if stage != "shape":
        return STAGE_FIELDS[stage]
    if job.shape.kind == "arc_by_chord":
        own = (
            Field("shape.chord_mm", "Chord", "length", "straight from end to end"),
            Field("shape.rise_mm", "Rise", "length", "from the chord to the crown"),
        )
    else:
        own = (
            Field("shape.radius_mm", "Radius", "length"),
            Field("shape.angle_deg", "Angle", "angle", "how far it turns"),
        )
    return (*COMMON_SHAPE, *own, *PART)


def value_at(data: Mapping[str, Any], name: str) -> Any:
    """A value by its dotted name."""
    at: Any = data
    for part in name.split("."):
        at = at[part]
    return at


def put_at(data: dict[str, Any], name: str, value: Any) -> None:
    """Set a value by its dotted name."""
    *path, last = name.split(".")
    for part in path:
        data = data[part]
    data[last] = value


def shown(field: Field, value: Any, unit: Unit) -> str:
    """What stands in an input for a value."""
    if field.kind == "length":
        return format_length(float(value), unit, decimals=2, with_unit=False)
    if field.kind == "angle":
        return f"{float(value):.3f}".rstrip("0").rstrip(".")
    return str(value)


def read_fields(job: Job, fields: tuple[Field, ...], typed: Mapping[str, str], unit: Unit) -> Job:
    """The job with what was typed. A length left as it was shown keeps its exact value.

    Raises: JobFaulty with every fault at once, each beside its field.
    """
    before = job.model_dump()
    data, faults = job.model_dump(), []
    for field in fields:
        if field.name not in typed:
            continue
        text = typed[field.name][:4_000]
        if text == shown(field, value_at(before, field.name), unit):
            continue
        try:
            put_at(data, field.name, read_text(field, text, unit))
        except OutOfRange as error:
            faults.append(error.fault(unit))
    if "shape" in data and data["shape"]["kind"] != before["shape"]["kind"]:
        data["shape"] = turned_into(job, str(data["shape"]["kind"])) or data["shape"]
    try:
        made = read_job(data, unit)
    except JobFaulty as error:
        known = {f.field for f in faults}
        raise JobFaulty(faults + [f for f in error.faults if f.field not in known]) from None
    if faults:
        raise JobFaulty(faults)
    return made


def read_text(field: Field, text: str, unit: Unit) -> Any:
    """The value of a typed text. Raises: OutOfRange with a sentence."""
    if field.kind == "length":
        return parse_length_mm(text, unit, field.name)
    if field.kind == "angle":
        return parse_number(text, field.name, "an angle in degrees")
    if field.kind == "count":
        return parse_count(text, field.name, "a whole number")
    if field.kind == "choice":
        if text not in dict(field.choices):
            raise OutOfRange(field.name, "Choose one of the list.")
        return float(text) if field.name == "stock.grain_slope" else text
    return text.strip()


def turned_into(job: Job, kind: str) -> dict[str, Any] | None:
    """The same arc, stated the other way."""
    import math

    arc = stated_arc(job.shape)
    if kind == "arc_by_chord":
        return {"kind": kind, "face": job.shape.face, "chord_mm": arc.chord_mm, "rise_mm": arc.rise_mm}
    if kind == "arc_by_radius":
        return {
            "kind": kind,
            "face": job.shape.face,
            "radius_mm": arc.radius_mm,
            "angle_deg": math.degrees(arc.angle_rad),
        }
    return None


def by_field(faults: list[Fault]) -> dict[str, str]:
    """The first sentence for each field."""
    said: dict[str, str] = {}
    for fault in faults:
        said.setdefault(fault.field, fault.says)
    return said
