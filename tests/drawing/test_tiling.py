"""Sheets of paper: every line on one of them, none needless, fewer than as it is; halves and solids read back."""

import io

import numpy as np
import pdfplumber
import pytest
import trimesh

from bright_willow.core.common.errors import PlanError
from bright_willow.core.form.parts import area_mm2
from bright_willow.core.plan.plan import plan
from bright_willow.core.plan.read_job import read_job
from bright_willow.demo.marrow_lane import EXAMPLES, SHOP
from bright_willow.drawing.export import EXPORTS, PAPERS_OF
from bright_willow.drawing.half import half_template, is_symmetric
from bright_willow.drawing.solids import solids
from bright_willow.drawing.template import form_template
from bright_willow.drawing.tiling import (
    CORNER_MM,
    FINE_MM,
    OVERLAP_MM,
    PAPERS,
    PaperPoints,
    laid_out,
    tiling_on,
)
from tests.conftest import RIB

A4 = PAPERS["a4"]


def covered(made, points):
    """(n,) whether each place lies on a sheet that is used."""
    low = np.array([made.corner(*place) for place in made.used])
    inside = (points[:, None] >= low - 1e-9) & (points[:, None] <= low + np.array(made.tile) + 1e-9)
    return inside.all(axis=2)


def test_every_place_is_on_paper_and_no_sheet_is_needless():
    """Against looking at each sheet in turn."""
    rng = np.random.default_rng(4)
    for _ in range(40):
        points = rng.uniform(0, 900, (34, 2))
        made = tiling_on(A4, PaperPoints(points, np.zeros(34, dtype=bool)), (0.5, 0.5))
        on = covered(made, points)
        assert on.any(axis=1).all() and not made.cropped
        for i in range(len(made.used)):
            assert not np.delete(on, i, axis=1).any(axis=1).all(), "a sheet shows nothing the others do not"


def test_a_sheet_with_nothing_but_a_corner_of_the_body_is_dropped_and_said():
    line = np.column_stack((np.linspace(0, 170, 80), np.full(80, 100.0)))
    for size, kept in ((CORNER_MM * 0.5, 1), (CORNER_MM * 3, 2)):
        tip = np.column_stack((np.linspace(176, 184 + size, 30), np.linspace(100, 100 + size / 3, 30)))
        places = PaperPoints(np.vstack((line, tip)), np.array([False] * 80 + [True] * 30))
        made = tiling_on(A4, places, (0.0, 0.0))
        assert (len(made.used), made.cropped) == (kept, kept == 1)
        marked = PaperPoints(places.points, np.zeros(110, dtype=bool))
        assert len(tiling_on(A4, marked, (0.0, 0.0)).used) == 2  # a face or a mark is never dropped


def test_turned_and_shifted_it_takes_no_more_sheets_and_mostly_fewer():
    fewer = 0
    for example in EXAMPLES:
        made = plan(example.job, SHOP)
        if made.build.problem:
            continue
        template = form_template(example.job, made, "mm")
        plain = [tiling_on(page, PaperPoints.of(template, FINE_MM), (0.5, 0.5)) for page in (A4, A4[::-1])]
        turned, sheets = laid_out(template, "a4")
        before = min(len(t.used) for t in plain)
        assert len(sheets.used) <= before
        fewer += len(sheets.used) < before
        faces = np.vstack([c.dense(2.0) for c in turned.chains if c.layer in ("FACE", "RIB", "MARKS") and not c.dashed])
        assert covered(sheets, faces).any(axis=1).all()
        assert sheets.tile[0] - sheets.step[0] == OVERLAP_MM
    assert fewer >= 8


def test_a_half_turned_over_is_the_whole():
    job = read_job(RIB)
    made = plan(job)
    template = form_template(job, made, "mm")
    half = half_template(template)
    face = np.vstack([c.dense(0.5) for c in half.chains if c.layer == "FACE"])
    assert face[:, 0].max() == pytest.approx(0, abs=1e-6)
    whole = np.vstack([c.dense(0.5) for c in template.chains if c.layer == "FACE"])
    both = np.vstack((face, face * [-1, 1]))
    for place in whole[::40]:
        assert np.hypot(*(both - place).T).min() < 0.3
    assert any("flip it" in w.text for w in half.words)
    centre = half.chains[-1].points
    assert (centre[:, 0] == 0).all() and np.ptp(centre[:, 1]) < job.form.depth_mm + 15  # across the form, no further
    raw = PAPERS_OF["half"].make(job, made, "mm", "a4", None)
    with pdfplumber.open(io.BytesIO(raw)) as pdf:
        assert len(pdf.pages) < len(pdfplumber.open(io.BytesIO(EXPORTS["pdf"].make(job, made, "mm", "a4", None))).pages)
        assert "half" in pdf.pages[1].extract_text()
    uneven = read_job(
        {**RIB, "shape": {"kind": "hook", "start_mm": 200, "radius_mm": 300, "angle_deg": 60, "end_mm": 90}}
    )
    lopsided = form_template(uneven, plan(uneven), "mm")
    assert is_symmetric(template) and not is_symmetric(lopsided)
    with pytest.raises(PlanError, match="same from both ends"):
        half_template(lopsided)


SMALL = {
    "shape": {"kind": "arc_by_radius", "face": "inner", "radius_mm": 160, "angle_deg": 100},
    "part": {"thickness_mm": 8, "width_mm": 20, "trim_mm": 15},
}


@pytest.mark.parametrize(
    "form", [{"build": "solid"}, {"build": "stack"}, {"kind": "two_part"}], ids=["solid", "stack", "two"]
)
def test_solids_are_closed_and_as_large_as_their_outlines_read_by_another_library(form):
    """Volume = (outline − holes) × height, by the outline's own area, of each part; nothing open, all sides outwards."""
    job = read_job({**RIB, **SMALL, "form": {"depth_mm": 60, **form}})
    made = plan(job)
    carrying = [p for p in made.build.parts if p.end_mm > 0]
    areas = [area_mm2(p.outline) - sum(area_mm2(h.edge) for h in p.holes) for p in carrying]
    raw = EXPORTS["3mf"].make(job, made, "mm", "a4", None)
    scene = trimesh.load(io.BytesIO(raw), file_type="3mf")
    bodies = list(scene.geometry.values())
    assert len(bodies) == len(carrying)
    for body, area in zip(bodies, areas, strict=True):
        assert body.is_watertight and body.is_winding_consistent
        assert body.volume == pytest.approx(area * made.site.stack_mm, rel=2e-3)
    one = trimesh.load(io.BytesIO(EXPORTS["stl"].make(job, made, "mm", "a4", None)), file_type="stl")
    assert one.is_watertight and one.volume == pytest.approx(sum(areas) * made.site.stack_mm, rel=2e-3)
    assert one.body_count == len(carrying)  # side by side, apart
    # the face itself: corners of the solid lie on the circle the plan has
    line = made.build.parts[0].face_edge
    ends = np.array(line.points_mm)
    assert np.abs(bodies[0].vertices[:, :2].min(axis=0)).max() < 1e-6
    assert float(np.ptp(ends, axis=0)[0]) <= float(np.ptp(bodies[0].vertices[:, 0])) + 1e-3


def test_a_drum_has_its_hollow_and_a_large_form_is_a_sentence():
    ring = next(e for e in EXAMPLES if e.job.shape.is_closed)
    (drum,) = solids(plan(ring.job, SHOP))
    assert trimesh.Trimesh(drum.corners, drum.triangles).euler_number <= 0  # a hole goes through it
    with pytest.raises(PlanError, match="Solids are for small forms"):
        solids(plan(read_job(RIB)))
