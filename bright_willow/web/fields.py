"""The fields of each stage: what they are called, how they are typed, and where they live in the job.

One table serves the page, the reading of what was typed, and the sentences beside a field.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any, Literal

from ..core.errors import Fault, OutOfRange
from ..core.form.schools import SCHOOLS
from ..core.job import Job, JobFaulty, read_job
from ..core.shape.arc import FACES
from ..core.shape.restated import restated
from ..core.shop.adhesive import adhesive_table
from ..core.units import Unit, format_length, parse_count, parse_length_mm, parse_number
from ..core.wood.species import species_table
from .typed_rows import read_layers, read_points, read_stretches, shown_layer, shown_stretch

Kind = Literal["text", "length", "angle", "count", "choice", "stretches", "points", "layers", "number"]


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

KIND_NAMES = (
    ("arc_by_chord", "arc: chord and rise"),
    ("arc_by_radius", "arc: radius and angle"),
    ("arc_by_length", "arc: radius and length"),
    ("arc_by_points", "arc: three points"),
    ("hook", "hook: straight, arc, straight"),
    ("u", "U: legs, corners, flat"),
    ("s", "S: two opposed arcs"),
    ("hoop", "open hoop"),
    ("eased_arc", "arc that eases in and out"),
    ("parabola", "parabola"),
    ("ellipse", "ellipse"),
    ("polycurve", "chain of stretches"),
    ("outline", "measured or imported points"),
)
COMMON_SHAPE = (
    Field("name", "Name", "text"),
    Field("shape.kind", "Shape", "choice", choices=KIND_NAMES),
    Field(
        "shape.face",
        "Measured on",
        "choice",
        choices=tuple(FACES.items()),
        look="pills",
        hint="A radius for the wrong face is wrong by half a thickness.",
    ),
)


def _length(name: str, label: str, hint: str = "") -> Field:
    return Field(f"shape.{name}", label, "length", hint)


def _angle(name: str, label: str, hint: str = "") -> Field:
    return Field(f"shape.{name}", label, "angle", hint)


OWN_FIELDS: dict[str, tuple[Field, ...]] = {
    "arc_by_chord": (
        _length("chord_mm", "Chord", "straight from end to end"),
        _length("rise_mm", "Rise", "chord to crown"),
    ),
    "arc_by_radius": (_length("radius_mm", "Radius"), _angle("angle_deg", "Angle", "how far it turns")),
    "arc_by_length": (_length("radius_mm", "Radius"), _length("length_mm", "Length", "along the arc")),
    "arc_by_points": (
        _length("x1_mm", "One end, across"),
        _length("y1_mm", "One end, up"),
        _length("x2_mm", "Between, across"),
        _length("y2_mm", "Between, up"),
        _length("x3_mm", "Other end, across"),
        _length("y3_mm", "Other end, up"),
    ),
    "hook": (
        _length("start_mm", "Straight before"),
        _length("radius_mm", "Radius"),
        _angle("angle_deg", "Angle"),
        _length("end_mm", "Straight after"),
    ),
    "u": (
        _length("left_leg_mm", "Left leg"),
        _length("right_leg_mm", "Right leg"),
        _length("left_radius_mm", "Left radius"),
        _length("right_radius_mm", "Right radius"),
        _angle("left_lean_deg", "Left leg leans in", "0 is square"),
        _angle("right_lean_deg", "Right leg leans in", "0 is square"),
        _length("flat_mm", "Flat between"),
    ),
    "s": (
        _length("start_mm", "Straight before"),
        _length("end_mm", "Straight after"),
        _length("first_radius_mm", "First radius"),
        _angle("first_angle_deg", "First angle"),
        _length("second_radius_mm", "Second radius"),
        _angle("second_angle_deg", "Second angle"),
        _length("straight_mm", "Straight between"),
    ),
    "hoop": (_length("diameter_mm", "Diameter"), _length("gap_mm", "Gap", "between the ends, along the face")),
    "eased_arc": (
        _length("radius_mm", "Radius"),
        _angle("angle_deg", "Angle", "easings included"),
        _length("easing_mm", "Easing, each"),
        _length("straight_mm", "Straight, each"),
    ),
    "parabola": (_length("chord_mm", "Chord"), _length("rise_mm", "Rise")),
    "ellipse": (
        Field(
            "shape.part_of", "Which part", "choice", choices=(("half", "half"), ("quarter", "quarter")), look="pills"
        ),
        _length("half_width_mm", "Half width"),
        _length("height_mm", "Height"),
    ),
    "polycurve": (
        Field(
            "shape.stretches",
            "Stretches, one a line",
            "stretches",
            "straight 200 · arc 300 90 (radius, angle; − bends the other way) · "
            "easing 120 0 300 (length, from and to radius; 0 is straight)",
        ),
    ),
    "outline": (
        Field("shape.points_mm", "Points, one a line: across, up", "points", "typed, or pasted from a spreadsheet"),
        _length("slack_mm", "Smoothing", "how far the curve may leave the points"),
    ),
}
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
        Field(
            "build_up.lay_up",
            "Lay-up",
            "choice",
            look="pills",
            choices=(("equal", "equal laminae"), ("layers", "layer by layer")),
        ),
        Field(
            "build_up.layers",
            "Layers, from the inside out, one a line",
            "layers",
            "thickness, wood or sheet, and “bent 300” if it was bent to that radius before",
        ),
        Field(
            "build_up.press",
            "Pressed by",
            "choice",
            look="pills",
            choices=(("clamps", "clamps"), ("vacuum", "vacuum"), ("band", "a band")),
        ),
        Field("build_up.gauge_kpa", "Gauge reads, kPa", "number", "85 is a good bag at the sea"),
        Field("build_up.band_kn", "Band tension, kN", "number", "a ratchet band holds about 2.5"),
        Field("build_up.laminae", "Laminae", "count", look="ladder"),
        Field("build_up.adhesive", "Glue", "choice", choices=_GLUES),
    ),
    "form": (
        Field("form.school", "Springback", "choice", choices=tuple((s.key, s.name) for s in SCHOOLS.values())),
        Field("form.left_deg", "Left end, further by", "angle"),
        Field("form.right_deg", "Right end, further by", "angle"),
        Field("form.left_mm", "Left end, in by", "length"),
        Field("form.right_mm", "Right end, in by", "length"),
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
    return (*COMMON_SHAPE, *OWN_FIELDS[job.shape.kind], *PART)


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
    if field.kind in ("angle", "number"):
        return _plain(float(value))
    if field.kind == "stretches":
        return "\n".join(shown_stretch(row, unit) for row in value)
    if field.kind == "layers":
        return "\n".join(shown_layer(row, unit) for row in value)
    if field.kind == "points":
        return "\n".join(
            ", ".join(format_length(mm, unit, decimals=2, with_unit=False) for mm in point) for point in value
        )
    return str(value)


def _plain(value: float) -> str:
    return f"{value:.3f}".rstrip("0").rstrip(".")


def read_fields(job: Job, fields: tuple[Field, ...], typed: Mapping[str, str], unit: Unit) -> Job:
    """The job with what was typed. A length left as it was shown keeps its exact value.

    Raises: JobFaulty with every fault at once, each beside its field.
    """
    before = job.model_dump()
    data, faults = job.model_dump(), []
    for field in fields:
        if field.name not in typed:
            continue
        text = typed[field.name][:2_000_000].replace("\r\n", "\n")
        if text == shown(field, value_at(before, field.name), unit):
            continue
        try:
            put_at(data, field.name, read_text(field, text, unit))
        except OutOfRange as error:
            faults.append(error.fault(unit))
    if data["shape"]["kind"] != before["shape"]["kind"]:
        data["shape"] = restated(job.shape, str(data["shape"]["kind"]))
        faults = [f for f in faults if not f.field.startswith("shape.")]
    if data["build_up"]["lay_up"] == "layers" != before["build_up"]["lay_up"] and not data["build_up"]["layers"]:
        each = job.part.thickness_mm / job.build_up.laminae
        data["build_up"]["layers"] = [{"thickness_mm": each, "material": job.stock.species}] * job.build_up.laminae
        faults = [f for f in faults if f.field != "build_up.layers"]
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
    if field.kind == "number":
        return parse_number(text, field.name, "a number")
    if field.kind == "count":
        return parse_count(text, field.name, "a whole number")
    if field.kind == "stretches":
        return read_stretches(text, unit, field.name)
    if field.kind == "layers":
        return read_layers(text, unit, field.name)
    if field.kind == "points":
        return read_points(text, unit, field.name)
    if field.kind == "choice":
        if text not in dict(field.choices):
            raise OutOfRange(field.name, "Choose one of the list.")
        return float(text) if field.name == "stock.grain_slope" else text
    return text.strip()


def by_field(faults: list[Fault]) -> dict[str, str]:
    """The first sentence for each field."""
    said: dict[str, str] = {}
    for fault in faults:
        said.setdefault(fault.field, fault.says)
    return said
