"""Every formula of docs/model.md, at its door: it says its range, shows itself at work, and refuses what is no number."""

import ast
import doctest
import importlib
import inspect
import re
from pathlib import Path

import pytest

from bright_willow.core.common.errors import PlanError

ROOT = Path(__file__).parent.parent.parent
ROWS = re.findall(r"^\| [^|]+ \| `(\S+)\.py (\S+)` \|", (ROOT / "docs/model.md").read_text(), re.MULTILINE)


def examples_of(module, name):
    holder = importlib.import_module(module)
    what = holder
    for part in name.split("."):
        what = inspect.getattr_static(what, part) if what is not holder else getattr(what, part)
    what = getattr(what, "func", getattr(what, "__wrapped__", what))
    what = getattr(what, "__func__", what)
    return holder, what, doctest.DocTestParser().get_examples(inspect.getdoc(what) or "")


class NotANumber(ast.NodeTransformer):
    """The nth plain number inside the calls named becomes NaN."""

    def __init__(self, called, which):
        self.called, self.which, self.seen, self.inside = called, which, -1, False

    def visit_Call(self, node):
        name = node.func.attr if isinstance(node.func, ast.Attribute) else getattr(node.func, "id", "")
        before, self.inside = self.inside, self.inside or name in self.called
        node = self.generic_visit(node)
        self.inside = before
        return node

    def visit_Constant(self, node):
        if not self.inside or isinstance(node.value, bool) or not isinstance(node.value, int | float):
            return node
        self.seen += 1
        return ast.parse("float('nan')", mode="eval").body if self.seen == self.which else node


def run(examples, holder, called=(), which=-1):
    """Run a docstring's examples with the nth number of those calls made NaN; how many such numbers there are."""
    names, numbers = dict(vars(holder)), NotANumber(called, which)
    for example in examples:
        tree = ast.fix_missing_locations(numbers.visit(ast.parse(example.source)))
        exec(compile(tree, holder.__name__, "exec"), names)
    return numbers.seen + 1


def test_the_table_is_whole():
    """A formula that keeps a door and shows itself at work stands in the table."""
    kept = set()
    for path in (ROOT / "bright_willow/core").rglob("*.py"):
        room = path.relative_to(ROOT / "bright_willow/core")
        for node in ast.walk(ast.parse(path.read_text())):
            if isinstance(node, ast.FunctionDef) and not node.name.startswith("_") and room.parts[0] != "common":
                source = ast.unparse(node)
                if "check_range(" in source and ">>>" in source:
                    kept.add((str(room.with_suffix("")), node.name))
    listed = {(room, name.split(".")[-1]) for room, name in ROWS}
    assert kept <= listed | {("shop/times", "of")}


@pytest.mark.parametrize(("room", "name"), ROWS)
def test_a_formula_refuses_what_is_no_number(room, name):
    module = "bright_willow.core." + room.replace("/", ".")
    holder, what, examples = examples_of(module, name)
    doc = inspect.getdoc(what) or ""
    owner = inspect.getdoc(getattr(holder, name.split(".")[0])) or ""
    assert examples, "it shows itself at work"
    assert "Raises" in doc + owner, "it says what it refuses"
    called = {name.split(".")[-1], name.split(".")[0], *MADE_OF.get(name, ())}
    numbers = run(examples, holder, called)
    assert numbers
    for which in range(numbers):
        with pytest.raises((PlanError, ValueError, TypeError)):  # a count that is none is a TypeError
            run(examples, holder, called, which)


# values that another class of the same file, or of pydantic, refuses before the formula sees them
MADE_OF = {
    "loss_ratio": ("BendRecord",),
    "Curve.parallel": ("of",),
    "steam_time": ("SteamTimeQuery",),
    "kept_turn": ("EasedSample",),
}
