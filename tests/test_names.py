"""What a newcomer may rely on: one name means one thing, and no file or function is too long to read."""

import ast
from collections import defaultdict
from pathlib import Path
from typing import get_args

from bright_willow.core.common.findings import Stage
from bright_willow.core.common.operation import RESOURCE_WORDS, Resource, ResourceHold
from bright_willow.core.common.stages import STAGES
from bright_willow.core.plan.plan import plan
from bright_willow.demo.marrow_lane import EXAMPLES, SHOP
from bright_willow.web.stages import PAGES

ROOT = Path(__file__).parents[1] / "bright_willow"
MOST_LINES, MOST_OF_A_FUNCTION = 400, 60
# A page, a stage and the checks of a subject share the name of that subject; they are looked for by their room.
BY_SUBJECT = ("web/pages", "web/stages", "core/checks")
MODULES = [p for p in sorted(ROOT.rglob("*.py")) if p.name != "__init__.py" and "migrations" not in p.parts]
TREES = {p.relative_to(ROOT): ast.parse(p.read_text()) for p in MODULES}
# Longer than that, one thing after another; they wait to be parted.
LONG = {"job_view", "create_app", "_along"}


def test_a_class_name_stands_once():
    places = defaultdict(list)
    for path, tree in TREES.items():
        for node in ast.walk(tree):
            if isinstance(node, ast.ClassDef) and node.name != "Meta":  # peewee asks for that name in every table
                places[node.name].append(str(path))
    assert {name: at for name, at in places.items() if len(at) > 1} == {}


def test_a_module_name_stands_once_but_for_the_page_stage_and_checks_of_a_subject():
    places = defaultdict(list)
    for path in TREES:
        places[path.stem].append(path.parent.as_posix())
    others = {name: [room for room in rooms if room not in BY_SUBJECT] for name, rooms in places.items()}
    assert {name: rooms for name, rooms in others.items() if len(rooms) > 1} == {}


def test_no_file_and_no_function_is_too_long():
    long_files = {str(p): len((ROOT / p).read_text().splitlines()) for p in TREES}
    assert {p: n for p, n in long_files.items() if n > MOST_LINES} == {}
    long = {
        node.name
        for tree in TREES.values()
        for node in ast.walk(tree)
        if isinstance(node, ast.FunctionDef | ast.AsyncFunctionDef)
        and (node.end_lineno or 0) - node.lineno
        >= MOST_OF_A_FUNCTION + len((ast.get_docstring(node) or "").splitlines())
    }
    assert long == LONG


def test_the_stages_stand_once():
    """Their keys, their table and their pages are one list: one file a stage, and none beside them."""
    files = {p.stem for p in (ROOT / "web/stages").glob("*.py")} - {"__init__", "base"}
    assert get_args(Stage) == tuple(STAGES) == tuple(PAGES) and files == set(STAGES)


def test_every_resource_has_its_words_and_only_they_have():
    held = {hold.what for row in EXAMPLES for o in plan(row.job, SHOP).operations for hold in o.takes}
    assert held <= set(get_args(Resource)) and {*get_args(Resource), "people"} == set(RESOURCE_WORDS)
    assert ResourceHold("frame", 2).name == "2 drying jigs" and ResourceHold("form").name == "the form"


def test_nothing_but_the_clock_asks_what_day_it_is():
    """The day is the shop's, by its time zone; the sample shop is filled by whoever has no clock to hand."""
    asked = {str(p) for p in TREES if "date.today()" in (ROOT / p).read_text()}
    assert asked == {"demo/marrow_lane.py"}
