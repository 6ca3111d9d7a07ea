"""Hold-downs on the board and at full size; a piece that is pulled past size while it dries."""

import itertools

import numpy as np
import pytest
import svgelements
from defusedxml.ElementTree import fromstring
from shapely import Polygon

from bright_willow.core.plan.plan import plan
from bright_willow.drawing.board import board_svg
from bright_willow.drawing.frame_drawing import frame_svg
from bright_willow.drawing.svg import band
from bright_willow.drawing.template import form_template, frame_template
from tests.core.methods.jobs import job_for

NS = "{http://www.w3.org/2000/svg}"


def made(**form):
    return plan(job_for("steam_strap", form=form))


def test_parts_of_the_full_size_drawing_lie_clear_of_one_another():
    drawn = made(start_hold="cleat", matched_cauls="ends_and_middle")
    whole = form_template(drawn.job, drawn, "mm")
    bodies = [Polygon(c.dense()) for c in whole.chains if c.closed and c.layer == "BODY"]
    assert len(bodies) == 4
    for one, other in itertools.combinations(bodies, 2):
        assert one.distance(other) > 35
    words = [w.text for w in whole.words]
    assert sum("this edge to the strip" in w for w in words) == 3


def test_the_board_shows_all_of_cleat_and_caul():
    drawn = made(start_hold="cleat", matched_cauls="ends")
    root = fromstring(board_svg(drawn.job, drawn, stage="form", unit="mm"))
    left, top, width, height = map(float, root.get("viewBox").split())
    paths = [p for p in root.iter(f"{NS}path") if "hold-down" in (p.get("class") or "")]
    assert len(paths) == len(drawn.form.hold_downs) == 2
    for path in paths:
        box = svgelements.Path(path.get("d")).bbox()
        assert left <= box[0] and box[2] <= left + width and top <= box[1] and box[3] <= top + height


def test_what_is_pulled_past_size_is_drawn_as_it_is_held():
    drawn = made(school="pulled")
    half = drawn.job.part.thickness_mm / 2
    held, wanted = (band(c.parallel(-half), c.parallel(half)) for c in (drawn.held_to, drawn.bend.target))
    shown = frame_svg(drawn, drawn.hot, "mm")
    assert held in shown and wanted not in shown
    face = frame_template(drawn.job, drawn, "mm").chains[0].points
    assert np.hypot(*(face[-1] - face[0])) == pytest.approx(drawn.hot.drying.held.opening_mm)
