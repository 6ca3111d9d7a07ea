"""Two changes from one beginning: what only one of them changed is taken, what both changed is named."""

from hypothesis import given
from hypothesis import strategies as st

from bright_willow.core.job.merge import joined
from bright_willow.core.plan.read_job import read_job
from tests.conftest import RIB

FIELDS = ("name", "part.width_mm", "part.count", "stock.grain_slope", "shape.rise_mm", "form.depth_mm", "notes")
BASE = read_job(RIB).model_dump()


def put(data, name, value):
    *path, last = name.split(".")
    at = data
    for part in path:
        at[part] = dict(at[part])
        at = at[part]
    at[last] = value


def at(data, name):
    for part in name.split("."):
        data = data[part]
    return data


def changed(changes):
    data = dict(BASE)
    for name, value in changes.items():
        put(data, name, value)
    return data


changes = st.dictionaries(st.sampled_from(FIELDS), st.integers(1, 3).map(lambda n: f"value {n}"))


@given(changes, changes)
def test_each_field_is_as_one_of_the_two_left_it(mine, theirs):
    made, clashes = joined(BASE, changed(mine), changed(theirs))
    for name in FIELDS:
        ours, other = mine.get(name, at(BASE, name)), theirs.get(name, at(BASE, name))
        if name in mine and name in theirs and ours != other:
            assert name in clashes and at(made, name) == other
        else:
            assert name not in clashes and at(made, name) == (ours if name in mine else other)
    assert {k: v for k, v in made.items() if k not in ("name", "part", "stock", "shape", "form", "notes")} == {
        k: v for k, v in BASE.items() if k not in ("name", "part", "stock", "shape", "form", "notes")
    }


@given(changes)
def test_alone_or_alike_there_is_nothing_to_join(mine):
    own = changed(mine)
    assert (
        joined(BASE, own, BASE) == (own, [])
        and joined(BASE, BASE, own) == (own, [])
        and joined(BASE, own, own) == (own, [])
    )


def test_another_kind_and_another_length_are_one_field():
    ring = {"kind": "ring", "diameter_mm": 300.0}
    made, clashes = joined(BASE, changed({"shape": ring}), changed({"shape.rise_mm": 480.0}))
    assert clashes == ["shape"] and made["shape"]["rise_mm"] == 480.0
    rows = {"layers": [{"t": 1}, {"t": 2}]}
    assert joined(rows, {"layers": [{"t": 5}, {"t": 2}]}, {"layers": [{"t": 1}, {"t": 9}]}) == (
        {"layers": [{"t": 5}, {"t": 9}]},
        [],
    )
    assert joined(rows, {"layers": [{"t": 1}]}, {"layers": [{"t": 1}, {"t": 9}]})[1] == ["layers"]
