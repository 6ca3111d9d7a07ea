"""Fields as they are typed and shown: every field of every stage, both units; rows; points; what follows along."""

import math

import pytest

from bright_willow.core.common.errors import PlanError
from bright_willow.core.common.units import MEASURES
from bright_willow.core.job.faults import JobFaulty
from bright_willow.core.job.job import Job
from bright_willow.core.methods.method_registry import WAYS, stages_for
from bright_willow.core.plan.read_job import read_job
from bright_willow.core.shop.shop import Shop
from bright_willow.demo.marrow_lane import EXAMPLES
from bright_willow.web.forms.fields import Field, of, of_job, wood_choices
from bright_willow.web.forms.points import read_points
from bright_willow.web.forms.rows import edited, length_of, stretch_of, with_show_faces
from bright_willow.web.forms.typed import (
    by_field,
    put_at,
    read_fields,
    read_text,
    shown,
    shown_in,
    value_at,
)
from bright_willow.web.stages import PAGES
from tests.conftest import RIB
from tests.core.methods.jobs import job_for

JOBS = [job_for(way) for way in sorted(WAYS)] + [e.job for e in EXAMPLES]
CHAIN = {
    "kind": "polycurve",
    "stretches": [
        {"kind": "straight", "length_mm": 200},
        {"kind": "arc", "radius_mm": 300, "angle_deg": 60},
        {"kind": "easing", "length_mm": 150, "from_radius_mm": 300, "to_radius_mm": None},
    ],
}


def every_field(job: Job):
    for row in stages_for(job):
        for field in PAGES[row.key].fields(job, Shop()):
            yield row.key, field


@pytest.mark.parametrize("unit", ["mm", "in"])
@pytest.mark.parametrize("job", JOBS, ids=lambda j: j.name)
def test_what_stands_in_every_field_is_read_back_as_it_is_kept(job, unit):
    """Typed again as it is shown, nothing changes; and each field alone is read to what it shows."""
    data = job.model_dump()
    for stage, field in every_field(job):
        text = shown_in(field, data, unit)
        assert read_fields(job, (field,), {field.name: text}, unit) == job, (stage, field.name)
        value = value_at(data, field.name)
        if field.kind in ("rung", "points", "ladder"):
            continue
        again = read_text(field, text, unit)
        if isinstance(value, float) and not isinstance(again, str):
            near = 0.006 if unit == "mm" else 0.8 if abs(value) >= 6.35 else 0.2  # half a hundredth, 1/16 in, 1/64 in
            assert again == pytest.approx(value, abs=near, rel=6e-3), (stage, field.name, text)
        else:
            assert str(again or "") == str(value or ""), (stage, field.name, text)


FREE = (
    "text",
    "tags",
    "yes_no",
    "choice",
    "points",
)  # which letters may be typed into, or which no letter is chosen in


@pytest.mark.parametrize("job", JOBS[:8], ids=lambda j: j.way)
def test_nonsense_in_any_field_is_said_beside_it_and_all_at_once(job):
    """Letters where a figure belongs: one sentence for each field, none for the others, nothing kept."""
    typed = {f.name: "soon" for _, f in every_field(job) if f.kind not in FREE}
    fields = tuple({f.name: f for _, f in every_field(job)}.values())
    with pytest.raises(JobFaulty) as caught:
        read_fields(job, fields, typed, "mm")
    said = by_field(caught.value.faults)
    assert set(said) == set(typed)
    assert all(s.rstrip(".!”").strip() and s[0] in "“TAEIP" for s in said.values()), said


def test_kinds_are_made_from_the_document():
    kinds = {
        "part.thickness_mm": "length", "part.count": "count", "form.close_deg": "angle", "heat.iron_c": "temperature",
        "build_up.gauge_kpa": "gauge", "heat.power_kw": "power", "heat.in_bag": "yes_no", "form.build": "choice",
        "name": "text", "stock.grain_slope": "number",
    }  # fmt: skip
    for name, kind in kinds.items():
        assert of_job(name, "x").kind == kind, name
    assert of_job("part.right_trim_mm", "x").may_be_empty and not of_job("part.trim_mm", "x").may_be_empty
    assert (of(Shop, "week.from_time", "x").kind, of(Shop, "week.people", "x").kind) == ("time", "count")
    assert of_job("stock.species", "x", choices=wood_choices()).kind == "choice"
    with pytest.raises(KeyError):
        of_job("part.thicknes_mm", "x")
    names = [name for _, name in wood_choices()]
    assert names and len(set(names)) == len(names)


@pytest.mark.parametrize(
    ("kind", "text", "unit", "value"),
    [
        ("length", "1 3/4", "in", 44.45), ("length", "4,5 cm", "mm", 45.0), ("temperature", "212", "in", 100.0),
        ("temperature", "98", "mm", 98.0), ("gauge", "25", "in", 25 * 3.386389), ("gauge", "0.8 bar", "mm", 80.0),
        ("power", "2500 W", "mm", 2.5), ("volume", "2 gal", "mm", 7.570823568), ("force", "10 kgf", "mm", 0.0980665),
        ("angle", "−12,5", "mm", -12.5), ("count", "12", "mm", 12), ("yes_no", "yes", "mm", True),
        ("yes_no", "", "mm", False), ("text", "  oak rib ", "mm", "oak rib"),
    ],
)  # fmt: skip
def test_a_text_is_read_in_the_unit_it_is_in(kind, text, unit, value):
    made = read_text(Field("x", "X", kind), text, unit)
    assert made == (pytest.approx(value) if isinstance(value, float) else value)


def test_what_is_shown_of_a_value():
    assert shown(Field("x", "X", "length"), None, "mm") == "" and shown(Field("x", "X", "yes_no"), True, "mm") == "yes"
    assert (
        shown(Field("x", "X", "angle"), 12.5004, "mm") == "12.5" and shown(Field("x", "X", "number"), 3.0, "mm") == "3"
    )
    assert shown(Field("x", "X", "temperature"), 98.0, "in") == "208"
    assert shown(Field("x", "X", "gauge"), 84.66, "in") == MEASURES["gauge"].format(84.66, "in") == "25"
    assert shown(Field("x", "X", "points"), [[0.0, 25.4], [50.8, 0.0]], "in") == "0, 1\n2, 0"
    with pytest.raises(PlanError, match="Choose one from the list"):
        read_text(Field("x", "X", "choice", choices=(("a", "A"),)), "b", "mm")
    with pytest.raises(PlanError, match="without a fraction"):
        read_text(Field("x", "X", "count"), "2.5", "mm")
    data = {"a": ({"b": 1},), "c": [1, 2]}
    put_at(data, "a.0.b", 7)
    put_at(data, "c.1", 9)
    assert value_at(data, "a.0.b") == 7 and data["c"] == [1, 9]


def test_a_length_left_as_it_is_shown_keeps_its_exact_value():
    """1/3 of an inch is shown as 21/64; left alone it stays what it is, typed anew it is that."""
    job = read_job({**RIB, "part": {"thickness_mm": 25.4 / 3 + 20, "width_mm": 60}})
    field = (of_job("part.thickness_mm", "Thickness"),)
    text = shown_in(field[0], job.model_dump(), "in")
    assert read_fields(job, field, {"part.thickness_mm": text}, "in").part.thickness_mm == 25.4 / 3 + 20
    assert read_fields(job, field, {"part.thickness_mm": "1 9/64"}, "in").part.thickness_mm == pytest.approx(
        73 / 64 * 25.4
    )
    assert read_fields(job, field, {}, "in") is not None and read_fields(job, field, {"other": "5"}, "in") == job


def test_another_kind_of_shape_starts_from_this_curve():
    job = read_job(RIB)
    field = (
        Field("shape.kind", "Shape", "choice", choices=(("arc_by_radius", "r"), ("hook", "h"))),
        of_job("part.count", "Count"),
    )
    turned = read_fields(job, field, {"shape.kind": "arc_by_radius", "shape.chord_mm": "nonsense"}, "mm")
    assert turned.mid_line().chord_and_rise_mm() == pytest.approx(job.mid_line().chord_and_rise_mm(), rel=1e-6)
    layers = read_fields(
        job, (of_job("build_up.lay_up", "Lay-up", choices=(("layers", "l"),)),), {"build_up.lay_up": "layers"}, "mm"
    )
    assert len(layers.build_up.layers) == job.build_up.laminae
    assert sum(x.thickness_mm for x in layers.build_up.layers) == pytest.approx(job.part.thickness_mm)


# -- rows -----------------------------------------------------------------------------------------------------------
def test_stretches_are_added_moved_taken_out_reversed_and_turned_over():
    job = read_job({**RIB, "shape": CHAIN, "part": {"thickness_mm": 20, "width_mm": 40}})

    def kinds(data):
        return [r["kind"] for r in data["shape"]["stretches"]]

    assert kinds(edited(job, "shape", "add", 0, 0)) == ["straight", "arc", "easing", "straight"]
    assert (
        kinds(edited(job, "shape", "add", 0, 1))[-1] == "arc"
        and kinds(edited(job, "shape", "add", 0, 2))[-1] == "easing"
    )
    assert kinds(edited(job, "shape", "remove", 1, 0)) == ["straight", "easing"]
    assert kinds(edited(job, "shape", "move", 0, 2)) == ["arc", "easing", "straight"]
    assert kinds(edited(job, "shape", "move", 0, 99)) == ["arc", "easing", "straight"]
    back = edited(job, "shape", "reverse", 0, 0)["shape"]["stretches"]
    assert [r["kind"] for r in back] == ["easing", "arc", "straight"] and back[0]["to_radius_mm"] == 300
    mirrored = read_job(edited(job, "shape", "reverse", 0, 0)).mid_line()
    assert mirrored.curvature == pytest.approx(job.mid_line().curvature[::-1])
    over = read_job(edited(job, "shape", "over", 0, 0)).mid_line()
    assert over.sweep_rad == pytest.approx(-job.mid_line().sweep_rad)
    for do, row in (("remove", 3), ("move", -1), ("polish", 0)):
        with pytest.raises(PlanError):
            edited(job, "shape", do, row, 0)
    one = read_job(
        {**RIB, "shape": {**CHAIN, "stretches": CHAIN["stretches"][1:2]}, "part": {"thickness_mm": 20, "width_mm": 40}}
    )
    with pytest.raises(PlanError, match="Something must be left"):
        edited(one, "shape", "remove", 0, 0)
    with pytest.raises(PlanError, match="no list here"):
        edited(job, "measure", "add", 0, 0)
    assert stretch_of("arc", 100.0)["radius_mm"] * math.radians(stretch_of("arc", 100.0)["angle_deg"]) == pytest.approx(
        100, rel=0.01
    )
    assert length_of({"kind": "arc", "radius_mm": 200, "angle_deg": -90}) == pytest.approx(314.2)
    assert length_of({"kind": "straight", "length_mm": None}) == 100


def test_a_layer_put_in_makes_the_part_thicker_and_show_veneers_do_not():
    job = job_for("sheet_layup")
    more = edited(job, "build_up", "add", 0, 0)
    assert more["part"]["thickness_mm"] == pytest.approx(job.part.thickness_mm + job.build_up.layers[-1].thickness_mm)
    assert read_job(more).build_up.count == job.build_up.count + 1
    less = edited(job, "build_up", "remove", 1, 0)
    assert less["part"]["thickness_mm"] == pytest.approx(job.part.thickness_mm - 5.0)
    wood = job_for(
        "cold_lamination", build_up={"lay_up": "layers", "layers": [{"thickness_mm": 6, "material": "ash_white"}] * 4}
    )
    faced = read_job(with_show_faces(wood))
    assert faced.part.thickness_mm == pytest.approx(wood.part.thickness_mm) and faced.build_up.count == 6
    assert faced.build_up.layers[0].thickness_mm == faced.build_up.layers[-1].thickness_mm < 1
    two = {**edited(job_for("sheet_layup"), "build_up", "remove", 0, 0)}
    assert len(two["build_up"]["layers"]) == 5


def test_splits_stay_in_order_and_boards_and_flaws_have_rows_of_their_own():
    job = job_for("cold_lamination", form={"kind": "two_part", "splits_mm": [-60.0, 25.0]})
    assert edited(job, "form", "add", 0, 0)["form"]["splits_mm"] == [-60.0, 25.0, 105.0]
    assert edited(job, "form", "move", 1, 0)["form"]["splits_mm"] == [-60.0, 25.0]
    assert edited(job, "form", "remove", 0, 0)["form"]["splits_mm"] == [25.0]
    assert edited(job_for("cold_lamination"), "form", "add", 0, 0)["form"]["splits_mm"] == [0.0]
    flawed = edited(job, "prepare", "add", 0, 0)["prepare"]["flaws"]
    assert flawed == [{"board": 1, "start_mm": 0.0, "end_mm": 100.0}]
    boards = edited(job, "prepare", "add", 0, 0, "more")["prepare"]["more"]
    assert boards[0]["count"] == 1 and boards[0]["length_mm"] == job.prepare.length_mm


# -- points ---------------------------------------------------------------------------------------------------------
@pytest.mark.parametrize(
    ("text", "unit", "points"),
    [
        ("0 0\n50 20\n100 0", "mm", [[0, 0], [50, 20], [100, 0]]),
        ("across, up\n0, 0\n50, 20\n100, 0", "mm", [[0, 0], [50, 20], [100, 0]]),
        ("0;0\n5 cm;2 cm\n100;0", "mm", [[0, 0], [50, 20], [100, 0]]),
        ("0\t0\n1 1/2\t3/4\n4\t0", "in", [[0, 0], [38.1, 19.05], [101.6, 0]]),
        ("0,0\n50,20\n100,0\n\n", "mm", [[0, 0], [50, 20], [100, 0]]),
    ],
)
def test_points_are_read_as_they_are_pasted(text, unit, points):
    assert [pytest.approx(p) for p in points] == read_points(text, unit, "shape.points_mm")


@pytest.mark.parametrize(
    ("text", "message"),
    [
        ("0 0\n50 20", "Three points or more"),
        ("0 0\n50 20 30\n100 0", "Line 2 should hold two lengths"),
        ("0 0\n50 up\n100 0", "Line 2: "),
        ("\n".join("1 1" for _ in range(20_001)), "At most 20000 points"),
    ],
)
def test_points_that_cannot_be_are_told_by_their_line(text, message):
    with pytest.raises(PlanError, match=message):
        read_points(text, "mm", "shape.points_mm")
