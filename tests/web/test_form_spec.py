"""Every form is a FormSpec shown by one macro: units, ranges, hints and faults are in one place."""

import re
from pathlib import Path

import pytest

from bright_willow.web.forms.fields import Field
from bright_willow.web.forms.form_spec import FormSpec

TEMPLATES = Path(__file__).parents[2] / "bright_willow/web/templates"
BY_HAND = re.compile(
    r"<(?:select|textarea)\b|<input\b(?![^>]*type=\"(?:hidden|radio|checkbox|range)\")(?![^>]*readonly)"
)


def test_no_template_but_the_macros_writes_an_input():
    """Choices drawn as pictures, sliders and ticks of a list stay; what is typed or chosen from a list does not."""
    own = [t for t in TEMPLATES.rglob("*.html") if t.name != "inputs.html" and BY_HAND.search(t.read_text())]
    assert own == [] and BY_HAND.search((TEMPLATES / "parts/inputs.html").read_text())


@pytest.mark.parametrize(
    ("typed", "value", "fault"),
    [
        ("3/4 in", 19.05, ""),
        ("5", 5.0, ""),
        ("4.9", None, "From 5 mm to 10000 mm, please."),
        ("10000.5", None, "From 5 mm to 10000 mm, please."),
        ("wide", None, '“wide” is not a length. For example 45, 4.5 cm or 1-3/4".'),
    ],
)
def test_a_number_is_read_in_its_unit_and_kept_in_its_range(typed, value, fault):
    form = FormSpec((Field("size", "Size", "length", least=5.0, most=10_000.0),))
    read = form.read({"size": typed}, "mm")
    assert read["size"] == (pytest.approx(value) if value else None) and read.faults.get("size", "") == fault


def test_every_fault_is_told_at_once_and_nothing_typed_is_lost():
    fields = (
        Field("name", "Name", "text", longest=4),
        Field("count", "Pieces", "count", least=1),
        Field("out", "", "check"),
    )
    form = FormSpec(fields, prefix="x")
    typed = {"name": "longer", "count": "0", "out": "yes"}
    read = form.read(typed, "in")
    assert read.faults == {"name": "At most 4 letters, please; there are 6.", "count": "At least 1, please."}
    views = form.inputs("in", {"name": "old", "count": 3}, typed, read.faults)
    assert [(v.id, v.text, v.described_by) for v in views.values()] == [
        ("x-name", "longer", "x-name-fault"),
        ("x-count", "0", "x-count-fault"),
        ("x-out", "yes", ""),
    ]
    assert form.inputs("in", {"out": True}, {"name": "n"})["out"].text == ""  # a box not sent is a box not ticked


def test_hints_are_read_out_with_their_input(demo_client):
    page = demo_client.get("/jobs/1/shape").text
    hints = re.findall(r'class="hint" id="([^"]+)-hint"', page)
    assert hints and all(f'aria-describedby="{name}-hint"' in page for name in hints)
