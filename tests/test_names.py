"""What a newcomer may rely on: one name means one thing, and no file or function is too long to read."""

import ast
from collections import defaultdict
from itertools import pairwise
from pathlib import Path

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


def test_every_registry_keeps_its_keys_in_the_order_of_its_stages():
    """The stages' pages are found by the keys of their table: one file a stage, and none beside them."""
    from bright_willow.core.common.stages import STAGES
    from bright_willow.web.stages import PAGES

    files = {p.stem for p in (ROOT / "web/stages").glob("*.py")} - {"__init__", "base"}
    assert list(PAGES) == list(STAGES) and files == set(STAGES)
    assert all(a != b for a, b in pairwise(PAGES.values()))
