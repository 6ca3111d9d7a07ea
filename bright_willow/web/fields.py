"""The fields of each stage: what they are called, how they are typed, and where they live in the job.

One table serves the page, the reading of what was typed, and the sentences beside a field.
"""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Literal

from ..core.form.kinds import BUILDS
from ..core.form.kinds import KINDS as FORM_KINDS
from ..core.form.schools import SCHOOLS
from ..core.form.stiffness import GOODS
from ..core.heat.chamber import WALLS
from ..core.heat.steam_time import STEAM_SCHOOLS
from ..core.job.job import Job
from ..core.shape.arc import FACES
from ..core.shape.shapes import Polycurve
from ..core.shop.adhesive import adhesive_table
from ..core.shop.clamps import clamp_table
from ..core.ways.heat_bend import HEAT_WAYS
from ..core.wood.lot import DRYNESS
from ..core.wood.sheets import sheet_table
from ..core.wood.species import OwnWood, wood_table

Kind = Literal[
    "text",
    "length",
    "lengths",
    "angle",
    "number",
    "count",
    "temperature",
    "choice",
    "yes_no",
    "points",
    "rung",
    "clamps",
]


@dataclass(frozen=True)
class Field:
    """One input. `name` is its dotted place in the job file."""

    name: str
    label: str
    kind: Kind
    hint: str = ""
    choices: tuple[tuple[str, str], ...] = ()
    look: Literal["select", "pills", "ladder"] = "select"
    may_be_empty: bool = False


def wood_choices(woods: tuple[OwnWood, ...] = ()) -> tuple[tuple[str, str], ...]:
    """Every wood that can be chosen, the shop's own and corrected ones marked."""
    rows = sorted(wood_table(woods).values(), key=lambda s: (s.kind, s.name))
    return tuple((s.key, f"{s.name} (own figures)" if s.own else s.name) for s in rows)


STOP_CLAMPS = ("f_clamp", "parallel", "g_clamp", "pipe")
_STEAM_TIMES = tuple((s.key, s.name) for s in STEAM_SCHOOLS.values())
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
    ("ring", "closed ring"),
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
    "ring": (_length("diameter_mm", "Diameter"),),
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
    "polycurve": (),  # its stretches are rows: row_fields
    "outline": (
        Field("shape.points_mm", "Points, one a line: across, up", "points", "typed, or pasted from a spreadsheet"),
        _length("slack_mm", "Smoothing", "how far the curve may leave the points"),
        Field("shape.from_other_end", "Start at the other end", "yes_no", "left and right change places", look="pills"),
        Field("shape.turned_over", "Bend the other way", "yes_no", "where it bulges the wrong way", look="pills"),
    ),
}
PART = (
    Field("part.thickness_mm", "Thickness", "length", "in the plane of the bend"),
    Field("part.width_mm", "Width", "length", "across the bend"),
    Field("part.count", "How many", "count"),
    Field("part.spares", "Spares", "count", "some break"),
    Field("part.trim_mm", "Trim at each end", "length", "cut off after gluing"),
    Field(
        "part.copies",
        "Copies",
        "choice",
        choices=(("alike", "all alike"), ("pairs", "pairs, left and right")),
        look="pills",
    ),
)
PAIRS = (
    Field("part.hand", "Drawn is the", "choice", choices=(("left", "left"), ("right", "right")), look="pills"),
    Field("part.mate_tolerance_mm", "Mates may differ by", "length", "in chord or rise"),
)
STAGE_FIELDS: dict[str, tuple[Field, ...]] = {
    "stock": (
        Field("stock.species", "Species", "choice"),
        Field("stock.dryness", "Dryness", "choice", look="pills", choices=tuple(DRYNESS.items())),
        Field("stock.moisture_pct", "Moisture, %", "number", "if it was measured", may_be_empty=True),
        Field("stock.figured", "Figured", "yes_no", look="pills"),
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
            "build_up.press",
            "Pressed by",
            "choice",
            look="pills",
            choices=(("clamps", "clamps"), ("vacuum", "vacuum"), ("band", "a band")),
        ),
        Field("build_up.gauge_kpa", "Gauge reads, kPa", "number", "85 is a good bag at the sea"),
        Field("build_up.band_kn", "Band tension, kN", "number", "a ratchet band holds about 2.5"),
        Field("build_up.laminae", "Laminae", "rung", look="ladder"),
        Field("build_up.adhesive", "Glue", "choice", choices=_GLUES),
    ),
    "form": (
        Field("form.kind", "Kind of form", "choice", choices=tuple((k.key, k.name) for k in FORM_KINDS.values())),
        Field("form.build", "Built as", "choice", choices=tuple((k, name) for k, (name, _) in BUILDS.items())),
        Field("form.goods", "Out of", "choice", choices=tuple((k, name) for k, (name, _, _) in GOODS.items())),
        Field("form.sheet_mm", "Sheet thickness", "length"),
        Field("form.skin_mm", "Skin or slats", "length", "how thick"),
        Field("form.close_deg", "Closes at", "angle", "0 is square to the base line"),
        Field("form.splits_mm", "Far half split at", "lengths", "from the middle, − to the left, parted by ;"),
        Field("form.post_mm", "Posts no further apart than", "length"),
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
    "way": (),
    "heat": (
        Field("heat.school", "Time in the steam by", "choice", choices=_STEAM_TIMES),
        Field("heat.soak_min", "Soak after heat-through, min", "number"),
        Field("heat.own_min", "Own trials: minutes", "number"),
        Field("heat.chamber_c", "Chamber holds", "temperature", "measured where the stock lies"),
        Field(
            "heat.soaked",
            "Soaked beforehand",
            "choice",
            look="pills",
            choices=(("none", "no"), ("overnight", "overnight"), ("days", "for days")),
        ),
        Field("heat.early", "Taken off before it is dry", "yes_no", look="pills"),
        Field("heat.start_share", "Bend it has already, of 1", "number", "0 is straight; a bend that missed has some"),
        Field("heat.at_once", "Pieces bent at once", "count"),
        Field("heat.hands", "Pairs of hands", "count"),
        Field("heat.carry_s", "Box to form, s", "number"),
        Field("heat.moves", "Moves on the form", "count"),
        Field("heat.clamp_s", "Each move, s", "number"),
        Field("heat.wall", "Chamber of", "choice", choices=tuple((w.key, w.name) for w in WALLS.values())),
        Field("heat.power_kw", "Steam, kW", "number", "1 kW boils off 1.6 l an hour"),
        Field("heat.reservoir_l", "Reservoir, l", "number"),
        Field("heat.own_inside_high_mm", "Inside high", "length", "of yours; empty: as proposed", may_be_empty=True),
        Field("heat.own_inside_wide_mm", "Inside wide", "length", may_be_empty=True),
        Field("heat.own_inside_long_mm", "Inside long", "length", may_be_empty=True),
        Field("heat.strap_mm", "Strap thick", "length"),
        Field("heat.strap_width_mm", "Strap wide", "length", "empty: as the pieces", may_be_empty=True),
        Field("heat.strap_length_mm", "Strap between stops", "length", "of yours, if any", may_be_empty=True),
        Field(
            "heat.strap_of",
            "Strap of",
            "choice",
            choices=(("mild_steel", "mild steel"), ("stainless", "stainless steel"), ("taped", "mild steel, taped")),
        ),
        Field(
            "heat.stop",
            "End stops",
            "choice",
            look="pills",
            choices=(("welded", "welded"), ("bolted", "bolted"), ("clamps", "clamps")),
        ),
        Field(
            "heat.stop_clamp",
            "Clamps at each stop",
            "choice",
            choices=tuple((c.key, c.name) for c in clamp_table().values() if c.key in STOP_CLAMPS),
        ),
        Field("heat.stop_clamps", "How many", "count"),
        Field("heat.lever_mm", "Lever", "length", "from the bend to the hand or cable"),
        Field("heat.ratio", "Winch, to 1", "number", "1 is by hand"),
        Field("heat.iron_c", "Surface", "temperature", "hot enough to hiss, not to brown"),
        Field("heat.span_mm", "Clamp span", "length", "for straightening"),
        Field("heat.on_form_h", "Hours on the form", "number"),
        Field("heat.forms", "Forms and straps", "count"),
        Field(
            "heat.climate",
            "Shop while it dries",
            "choice",
            look="pills",
            choices=(("warm", "warm"), ("ordinary", "ordinary"), ("damp", "damp")),
        ),
    ),
    "measure": (),
}


def fields_for(stage: str, job: Job, woods: tuple[OwnWood, ...] = ()) -> tuple[Field, ...]:
    """The inputs of a stage for this job, in a shop with these woods of its own."""
    if stage == "stock":
        choices = {"stock.species": wood_choices(woods), "stock.grain_slope": slope_choices(job.stock.grain_slope)}
        return tuple(replace(f, choices=choices.get(f.name, f.choices)) for f in STAGE_FIELDS[stage])
    if stage == "build_up" and job.way in HEAT_WAYS:
        return STAGE_FIELDS["heat"]
    if stage != "shape":
        return (*STAGE_FIELDS[stage], *row_fields(stage, job, woods))
    pairs = PAIRS if job.part.copies == "pairs" else ()
    return (*COMMON_SHAPE, *OWN_FIELDS[job.shape.kind], *row_fields(stage, job), *PART, *pairs)


def slope_choices(slope: float) -> tuple[tuple[str, str], ...]:
    """The run-outs of the table, and the one that was measured where it is another."""
    if str(slope) in dict(_SLOPES):
        return _SLOPES
    return (*_SLOPES, (str(slope), f"1 in {1 / slope:.0f}, as measured"))


STRETCHES = (("straight", "straight"), ("arc", "arc"), ("easing", "easing"))


def row_fields(stage: str, job: Job, woods: tuple[OwnWood, ...] = ()) -> tuple[Field, ...]:
    """The inputs of the rows a stage edits, row after row."""
    if stage == "shape" and isinstance(job.shape, Polycurve):
        return tuple(f for i, s in enumerate(job.shape.stretches) for f in stretch_fields(i, s.kind))
    if stage == "build_up" and job.build_up.lay_up == "layers":
        made_of = (*((s.key, s.name) for s in sheet_table().values()), *wood_choices(woods))
        return tuple(f for i in range(len(job.build_up.layers)) for f in layer_fields(i, made_of))
    return ()


def stretch_fields(i: int, kind: str) -> tuple[Field, ...]:
    """The inputs of one stretch."""
    at, n = f"shape.stretches.{i}.", i + 1
    length = Field(f"{at}length_mm", f"Length of stretch {n}", "length", "length")
    own = {
        "straight": (length,),
        "arc": (
            Field(f"{at}radius_mm", f"Radius of stretch {n}", "length", "radius"),
            Field(f"{at}angle_deg", f"Angle of stretch {n}", "angle", "angle"),
        ),
        "easing": (
            length,
            Field(f"{at}from_radius_mm", f"Stretch {n} from radius", "length", "from", may_be_empty=True),
            Field(f"{at}to_radius_mm", f"Stretch {n} to radius", "length", "to", may_be_empty=True),
        ),
    }[kind]
    return (Field(f"{at}kind", f"Stretch {n}", "choice", choices=STRETCHES), *own)


def layer_fields(i: int, made_of: tuple[tuple[str, str], ...]) -> tuple[Field, ...]:
    """The inputs of one layer, counted from the inner face."""
    at, n = f"build_up.layers.{i}.", i + 1
    return (
        Field(f"{at}thickness_mm", f"Thickness of layer {n}", "length", "thick"),
        Field(f"{at}material", f"Layer {n} is", "choice", choices=made_of),
        Field(f"{at}grain", f"Grain of layer {n}", "choice", choices=(("along", "along"), ("across", "across"))),
        Field(f"{at}bent_radius_mm", f"Layer {n} bent before to", "length", "flat", may_be_empty=True),
    )
