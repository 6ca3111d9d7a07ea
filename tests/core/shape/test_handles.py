"""Handles of every shape: a pull brings the handle nearer to the hand, and the shape stays one that can be read."""

import math

import pytest

from bright_willow.core.common.errors import PlanError
from bright_willow.core.plan.read_job import read_job
from bright_willow.core.shape.handle_drag import handles, moved_stretch, pulled
from bright_willow.core.shape.shape_registry import KINDS
from tests.core.shape.test_shapes import job_of


def pull(job, handle, dx, dy):
    shape = pulled(
        job.shape,
        job.part.thickness_mm,
        mirrored=job.is_right,
        handle=handle.name,
        x_mm=handle.x_mm + dx,
        y_mm=handle.y_mm + dy,
        unit="mm",
    )
    return read_job({**job.model_dump(), "shape": shape.model_dump()})


@pytest.mark.parametrize("kind", KINDS)
def test_everything_that_defines_a_shape_can_be_pulled(kind):
    job = job_of(kind, "outer")
    found = handles(job.shape, job.part.thickness_mm, mirrored=job.is_right)
    assert found and len({h.name for h in found}) == len(found)
    changed = set()
    for h in found:
        if h.look == "tag":
            continue
        for dx, dy in ((23, 14), (-23, 14), (0, -25)):
            try:
                new = pull(job, h, dx, dy)
            except (PlanError, ValueError):
                continue
            changed |= {n for n, v in new.shape.model_dump().items() if v != job.shape.model_dump()[n]}
            there = {x.name: x for x in handles(new.shape, new.part.thickness_mm, mirrored=new.is_right)}.get(h.name)
            if there and h.look == "knob" and kind != "outline":  # an outline is laid level anew
                assert math.dist((there.x_mm, there.y_mm), (h.x_mm + dx, h.y_mm + dy)) < 1.15 * math.hypot(dx, dy)
    figures = {n for n in job.shape.model_dump() if n.endswith(("_mm", "_deg")) and n not in ("slack_mm",)}
    assert changed >= figures or kind in ("polycurve", "outline"), figures - changed


def test_a_handle_pulled_to_where_it_stands_changes_nothing_much():
    for kind in ("u", "s", "hook", "eased_arc", "polycurve"):
        job = job_of(kind, "mid")
        for h in handles(job.shape, job.part.thickness_mm, mirrored=job.is_right):
            if h.look == "knob":
                again = pull(job, h, 0, 0)
                assert again.mid_line().length_mm == pytest.approx(job.mid_line().length_mm, abs=1.5), (kind, h.name)


def test_on_the_right_of_a_pair_the_handles_are_mirrored():
    left = job_of("hook", part={"thickness_mm": 18, "width_mm": 30, "count": 2, "copies": "pairs"})
    right = left.model_copy(update={"part": left.part.model_copy(update={"hand": "right"})})
    a, b = (
        handles(left.shape, left.part.thickness_mm, mirrored=left.is_right)[0],
        handles(right.shape, right.part.thickness_mm, mirrored=right.is_right)[0],
    )
    assert (a.x_mm, a.y_mm) == pytest.approx((-b.x_mm, b.y_mm))
    assert pull(left, a, -15, 4).shape == pull(right, b, 15, 4).shape


def test_stretches_move_and_grow_on_the_drawing():
    job = job_of("polycurve")
    tags = {h.name: h for h in handles(job.shape, job.part.thickness_mm, mirrored=job.is_right) if h.look == "tag"}
    far = tags["move-3"]
    moved = pulled(
        job.shape,
        job.part.thickness_mm,
        mirrored=job.is_right,
        handle="move-0",
        x_mm=far.x_mm,
        y_mm=far.y_mm,
        unit="mm",
    )
    assert [s.kind for s in moved.stretches] == ["easing", "arc", "arc", "straight"]
    assert moved == moved_stretch(job.shape, 0, 3)
    add = next(h for h in handles(job.shape, job.part.thickness_mm, mirrored=job.is_right) if h.look == "add")
    grown = pulled(
        job.shape,
        job.part.thickness_mm,
        mirrored=job.is_right,
        handle=add.name,
        x_mm=add.x_mm,
        y_mm=add.y_mm,
        unit="mm",
    )
    assert len(grown.stretches) == 5 and grown.stretches[4].kind == "straight"
    for bad in ("move-9", "joint-77", "radius-0", "nose", "joint-x", ""):
        with pytest.raises(PlanError):
            pulled(job.shape, job.part.thickness_mm, mirrored=job.is_right, handle=bad, x_mm=0, y_mm=0, unit="mm")
