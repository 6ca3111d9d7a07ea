"""The core keeps its measure: every room has tests, public things say what they are, tables fit together."""

import ast
import json
import re
from pathlib import Path
from typing import Literal, get_args, get_origin

import pytest

from bright_willow.core.common.errors import PlanError
from bright_willow.core.gluing.adhesive import adhesive_table
from bright_willow.core.job.faults import JobFaulty
from bright_willow.core.job.job import Job
from bright_willow.core.methods.method_registry import WAYS
from bright_willow.core.plan.plan import plan
from bright_willow.core.plan.plan_file import plan_json
from bright_willow.core.plan.read_job import read_job
from bright_willow.core.shape.shape_registry import SHAPES, restated
from bright_willow.core.shop.shop import Shop
from bright_willow.core.wood.sheets import sheet_table
from bright_willow.core.wood.species import OwnWood, species_table
from tests.core.methods.jobs import data_for, job_for

CORE = Path(__file__).parent.parent.parent / "bright_willow/core"
FILES = {path.relative_to(CORE): path.read_text("utf-8") for path in CORE.rglob("*.py")}


ARC = {"kind": "arc_by_radius", "face": "mid", "radius_mm": 800, "angle_deg": 90}


def functions():
    for path, text in FILES.items():
        for node in ast.walk(ast.parse(text)):
            if isinstance(node, ast.FunctionDef | ast.ClassDef):
                yield path, node


def test_every_room_has_its_tests():
    rooms = {p.parent.name for p in CORE.glob("*/__init__.py")}
    tested = {p.parent.name for p in Path(__file__).parent.glob("*/test_*.py")}
    assert rooms - tested == set() and len(rooms) >= 17


def test_no_template_writes_a_grade_or_a_format():
    templates = CORE.parent / "web/templates"
    written = [
        f"{path.name}: {found}"
        for path in templates.rglob("*.html")
        for found in re.findall(
            r"grade\(['\"]\w+|\|\s*(?:format|round|int|float)\b|['\"]%[.\d]*[dfg]", path.read_text("utf-8")
        )
    ]
    assert written == [] and len(list(templates.rglob("*.html"))) > 60


def test_what_refuses_says_so_and_public_functions_say_what_they_are():
    silent = [
        f"{p}:{n.name}"
        for p, n in functions()
        if isinstance(n, ast.FunctionDef)
        and not n.name.startswith("_")
        and ("raise PlanError" in (body := "\n".join(map(ast.unparse, n.body))) or "check_range(" in body)
        and n.name != "face_curve"  # told of in the base of the shapes
        and "Raises" not in (ast.get_docstring(n) or "")
    ]
    assert silent == []
    said = {n.name for _, n in functions() if ast.get_docstring(n)}  # a method may be told of in its base
    bare = [
        f"{p}:{n.name}"
        for p, n in functions()
        if n.col_offset == 0 and not n.name.startswith("_") and not ast.get_docstring(n) and n.name not in said
    ]
    assert bare == []


CHOICES = {
    ("stock", "species"): tuple(species_table()),
    ("build_up", "adhesive"): tuple(adhesive_table()),
}
for room, model in ((n, f.annotation) for n, f in Job.model_fields.items()):
    for name, field in getattr(model, "model_fields", {}).items():
        if get_origin(field.annotation) is Literal:
            CHOICES[room, name] = get_args(field.annotation)


@pytest.mark.parametrize("way", WAYS)
def test_whatever_is_chosen_is_in_every_table(way):
    """Each choice a job offers, by every way: a plan, or a sentence. Never a table without its row."""
    for (room, name), values in CHOICES.items():
        for value in values:
            try:
                plan_json(plan(job_for(way, **{room: {name: value}})))
            except (PlanError, JobFaulty) as refused:
                assert str(refused), (room, name, value)


@pytest.mark.parametrize("way", WAYS)
def test_a_wood_of_ones_own_with_the_least_figures_goes_every_way(way):
    own = OwnWood(key="hedge", name="Hedge wood", sg12=0.6, moe_gpa=10, mor_mpa=90, crush_mpa=45)
    made = plan(read_job(data_for(way, stock={"species": "hedge"}), woods=(own,)), Shop(woods=(own,)))
    assert json.loads(plan_json(made))["quantities"]


def test_every_sheet_can_be_a_layer():
    for key, sheet in sheet_table().items():
        layers = [{"thickness_mm": sheet.thickness_mm, "material": key}] * 3
        thick = {"thickness_mm": round(3 * sheet.thickness_mm, 6)}
        made = plan(job_for("sheet_layup", build_up={"layers": layers}, part=thick))
        assert len(json.loads(plan_json(made))["laminae"]) == 3, key


def test_every_shape_can_be_started_and_planned():
    """From a plain arc: a plan, or a sentence."""
    data = data_for("cold_lamination")
    for kind in SHAPES:
        shape = restated(job_for("cold_lamination", shape=ARC).shape, kind)
        assert json.loads(plan_json(plan(read_job({**data, "shape": shape}))))["findings"], kind
