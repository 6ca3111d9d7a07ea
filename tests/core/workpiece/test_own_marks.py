"""Marks of the maker's own: where they are, on either hand, in the steps, and what is beyond the piece."""

import pytest

from bright_willow.core.methods.method_registry import WAYS
from bright_willow.core.plan.plan import plan
from tests.core.methods.jobs import job_for

MARKS = [
    {"name": "notch", "at_mm": 180, "counted_from": "left"},
    {"name": "waist", "at_mm": -25, "counted_from": "center"},
    {"name": "bottom edge", "at_mm": 120, "counted_from": "right"},
]


def marked(way="steam_free", **part):
    return plan(job_for(way, part={"marks": MARKS, **part}))


def test_by_hand_each_is_counted_from_where_it_says():
    made = marked()
    long = made.bend.target.length_mm
    assert [(m.name, m.station_mm) for m in made.own_marks] == [
        ("notch", 180.0),
        ("waist", pytest.approx(long / 2 - 25)),
        ("bottom edge", pytest.approx(long - 120)),
    ]


def test_on_the_right_of_a_pair_they_are_mirrored():
    left, right = (marked(copies="pairs", hand=hand) for hand in ("left", "right"))
    long = left.bend.target.length_mm
    assert [(m.name, pytest.approx(long - m.station_mm)) for m in reversed(right.own_marks)] == [
        (m.name, m.station_mm) for m in left.own_marks
    ]
    assert right.job.part.marks == left.job.part.marks  # as they were entered


def test_on_the_stick_they_are_between_the_finished_ends_and_move_none_of_its_marks():
    ends = [{"name": "first", "at_mm": 0}, {"name": "last", "at_mm": 0, "counted_from": "right"}]
    plain, made = plan(job_for("cold_lamination")), plan(job_for("cold_lamination", part={"marks": ends + MARKS}))
    names = [m.name for m in made.stick]
    assert [m for m in made.stick if m.kind != "own"] == list(plain.stick)
    assert names.index("finished end") < names.index("first") < names.index("notch")
    assert names.index("last") + 1 == max(i for i, m in enumerate(made.stick) if m.kind == "part_end")
    (notch,) = (m for m in made.stick if m.name == "notch")
    start = plain.bend.trims_mm[0]
    middle = (start + plain.bend.blank.length_mm - plain.bend.trims_mm[1]) / 2
    assert notch.mid_mm == pytest.approx(start + 180 - middle)
    assert notch.inner_mm > notch.mid_mm > notch.outer_mm  # left of the center the inside of a bend is the shorter


def test_what_is_beyond_the_piece_is_told_and_shown_nowhere():
    beyond = plan(job_for("steam_free", part={"marks": [{"name": "tail", "at_mm": 5000}]}))
    assert beyond.own_marks == () and [m for m in beyond.stick if m.kind == "own"] == []
    (told,) = (f for f in beyond.findings if f.code == "shape.mark_off")
    assert "“tail”" in told.message and told.level == "watch"
    long = beyond.bend.target.length_mm
    at_the_end = plan(job_for("steam_free", part={"marks": [{"name": "tail", "at_mm": long}]}))
    assert "shape.mark_off" not in {f.code for f in at_the_end.findings} and len(at_the_end.own_marks) == 1


@pytest.mark.parametrize("way", WAYS)
def test_every_method_says_once_where_to_make_them(way):
    made = marked(way)
    told = [(o.key, step) for o in made.operations for step in o.steps if "notch at 180 mm" in step]
    assert len(told) == 1 and told[0][0] in ("number", "dimension", "dry_run")
    assert all(m["name"] in told[0][1] for m in MARKS)
    assert not any("Mark on each" in s for o in plan(job_for(way)).operations for s in o.steps)
