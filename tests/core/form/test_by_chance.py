"""Forms of jobs made by chance out of the demo's, held to what is true of every form that can be cut."""

import json
import math
import random

import numpy as np
import pytest
from shapely import Point, Polygon

from bright_willow.core.common.errors import PlanError
from bright_willow.core.form.kinds import BUILDS, KINDS
from bright_willow.core.form.parts import corners_of, dense
from bright_willow.core.job.faults import JobFaulty
from bright_willow.core.plan.plan import plan
from bright_willow.core.plan.plan_file import plan_json
from bright_willow.core.plan.read_job import read_job
from bright_willow.demo.marrow_lane import EXAMPLES, SHOP

IN_TWO_PLANES = {"form.overlaps", "form.crosses", "form.closes", "form.undercut"}  # said, and drawn as it is


def by_chance(seed, count):
    """Plans of so many jobs that can be made: a few figures of each job stretched, its form of any kind and build."""
    rng, made = random.Random(seed), []
    while len(made) < count:
        data = rng.choice(EXAMPLES).job.model_dump()
        for room in ("shape", "part", "form"):
            lengths = [k for k, v in data[room].items() if k.endswith(("_mm", "_deg")) and isinstance(v, float) and v]
            for name in rng.sample(lengths, min(len(lengths), rng.randint(0, 3))):
                data[room][name] *= math.exp(rng.gauss(0, 0.5))
        data["form"] |= {"kind": rng.choice(list(KINDS)), "build": rng.choice(list(BUILDS))}
        data["part"] |= {"copies": rng.choice(["alike", "pairs"]), "hand": "left"}
        try:
            job = read_job(data)
            made.append((job, plan(job, SHOP)))
        except (JobFaulty, PlanError):
            continue
    return made


def figures(value, path=""):
    """Every number of a plan file with its place, but for stations, which are round ones of the unit."""
    if isinstance(value, dict):
        for name, own in value.items():
            if name != "offsets":
                yield from figures(own, f"{path}/{name}")
    elif isinstance(value, list):
        for own in value:
            yield from figures(own, path)
    elif isinstance(value, int | float):
        yield path, value


@pytest.mark.parametrize("seed", [1, 2, 3])
def test_every_form_can_be_cut_or_says_why_not(seed):
    seen = set()
    for job, made in by_chance(seed, 60):
        said = {f.code for f in made.findings}
        for part in (p for p in made.build.parts if p.end_mm > 0):
            ring, where = Polygon(corners_of(part.outline, 2.0)), (job.model_dump_json(), part.name)
            if said & IN_TWO_PLANES:
                continue
            assert ring.is_valid, where
            assert max(ring.exterior.distance(Point(*p)) for p in dense(part.face_edge, 20.0)) < 0.1 or part.hollows, (
                where
            )
            wood = ring.difference(Polygon(corners_of(part.hollows[0], 2.0))) if part.hollows else ring
            assert all(wood.contains(Point(h.x_mm, h.y_mm)) for h in part.holes), where
            seen.add(made.form.kind)
        assert made.build.parts or made.build.problem or made.form.kind in ("posts", "in_place"), job.model_dump_json()
    assert len(seen) >= 3  # not all of them passed over


def test_inches_say_what_millimetres_say_and_the_right_is_the_left_mirrored():
    for job, made in by_chance(4, 40):
        inches = plan(job, SHOP.model_copy(update={"units": "in"}))
        own, other = (list(figures(json.loads(plan_json(p)))) for p in (made, inches))
        assert own == [(path, pytest.approx(v, rel=1e-6, abs=1e-6)) for path, v in other], job.model_dump_json()
        if job.part.copies == "pairs" and not job.shape.is_closed:
            right = plan(job.model_copy(update={"part": job.part.model_copy(update={"hand": "right"})}), SHOP)
            left, turned = made.face.curve.merged(), right.face.curve.merged()
            assert np.allclose(left.curvature, turned.curvature[::-1], rtol=1e-6, atol=1e-9), job.model_dump_json()
            assert [f.code for f in made.findings] == [f.code for f in right.findings], job.model_dump_json()
