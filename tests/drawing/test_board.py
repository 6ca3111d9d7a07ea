"""The board parsed and measured."""

import re

import numpy as np
import pytest
import svgelements
from defusedxml.ElementTree import fromstring

from bright_willow.core.common.units import format_length
from bright_willow.core.plan.plan import plan
from bright_willow.core.plan.read_job import read_job
from bright_willow.drawing.board import Frame, board_svg, thumbnail_svg
from tests.conftest import RIB
from tests.core.shape.test_shapes import job_of

STAGES = ["shape", "stock", "build_up", "form", "measure"]
NS = "{http://www.w3.org/2000/svg}"


@pytest.mark.parametrize("stage", STAGES)
@pytest.mark.parametrize("angle", [8, 90, 200, 330])
def test_every_stage_draws_sound_markup_inside_its_frame(stage, angle):
    job = read_job(
        {
            **RIB,
            "shape": {"kind": "arc_by_radius", "face": "mid", "radius_mm": 400, "angle_deg": angle},
            "part": {"thickness_mm": 16, "width_mm": 20, "trim_mm": 20},
            "name": "A <b> & “c”",
        }
    )
    root = fromstring(board_svg(job, plan(job), stage=stage, unit="mm"))
    left, top, width, height = map(float, root.get("viewBox").split())
    for part in root.iter(f"{NS}path"):
        if part.get("class") in ("strip", "form-face", "outline target"):
            box = svgelements.Path(part.get("d")).bbox()
            assert left <= box[0] and box[2] <= left + width
            assert top <= box[1] and box[3] <= top + height
    assert root.find(f"{NS}title").text.startswith("A <b>")
    assert not re.search(r'(style|on\w+)="', board_svg(job, plan(job), stage=stage, unit="mm"))


def test_the_strip_is_true_to_scale(rib):
    made = plan(rib)
    root = fromstring(board_svg(rib, made, stage="shape", unit="mm"))
    strip = next(p for p in root.iter(f"{NS}path") if p.get("class") == "strip")
    path = svgelements.Path(strip.get("d"))
    box = path.bbox()
    assert box[2] - box[0] == pytest.approx(made.geometry.outer.chord_mm, abs=0.01)
    assert -box[1] == pytest.approx(540, abs=0.01)  # inner rise 500 above the base line, and the thickness
    texts = [t.text for t in root.iter(f"{NS}text")]
    assert any("1800 mm" in t for t in texts) and any("rise 500 mm" in t for t in texts)


def test_handles_stand_on_the_stated_face(rib):
    root = fromstring(board_svg(rib, plan(rib), stage="shape", unit="mm"))
    knobs = {
        g.get("data-handle"): [float(g.findall(f"{NS}circle")[1].get(k)) for k in ("cx", "cy")]
        for g in root.iter(f"{NS}g")
        if g.get("class") == "handle"
    }
    assert knobs == {"rise_mm-0": [0, -500], "chord_mm-1": [-900, 0], "chord_mm-2": [900, 0]}


def test_the_stick_has_the_lengths_of_the_plan(rib):
    made = plan(rib)
    root = fromstring(board_svg(rib, made, stage="build_up", unit="mm"))
    stick = next(r for r in root.iter(f"{NS}rect") if r.get("class") == "stick")
    ends = [m.inner_mm for m in made.stick if m.kind == "part_end"]
    assert float(stick.get("width")) == pytest.approx(ends[1] - ends[0], abs=0.01)
    assert format_length(ends[1], "mm") in "".join(root.itertext())


def test_places_on_strip_and_stick_come_in_pairs(rib):
    root = fromstring(board_svg(rib, plan(rib), stage="stock", unit="mm"))
    marks = [e.get("data-segment") for e in root.iter() if e.get("class") == "segment"]
    assert sorted(marks) == sorted([str(i) for i in range(36)] * 2)


def test_strain_is_coloured_by_what_it_uses():
    for laminae, colour in ((2, "breaks"), (3, "risky"), (4, "firm"), (8, "easy")):
        job = read_job({**RIB, "build_up": {"laminae": laminae}})
        assert f"strain-{colour}" in board_svg(job, plan(job), stage="build_up", unit="mm")


def test_frames_are_read_back_or_refused():
    frame = Frame(-100.5, 40.0, 300.0, 200.0)
    assert Frame.parse(frame.written) == frame
    for bad in ("", "1 2 3", "1 2 3 0", "a b c d", "nan 1 1 1", "1 1 1 inf", "1 1 1e9 1"):
        assert Frame.parse(bad) is None


def test_thumbnail_keeps_proportions(rib):
    root = fromstring(thumbnail_svg(plan(rib)))
    width, height = np.array(root.get("viewBox").split(), float)[2:]
    assert width / height == pytest.approx((1867.9 * 1.12) / (560 + 1867.9 * 0.12), rel=0.1)


def test_a_drum_is_seen_through_where_it_is_hollow():
    job = job_of("ring", "outer", form={"build": "solid"})
    root = fromstring(board_svg(job, plan(job), stage="form", unit="mm"))
    (body,) = [p for p in root.iter(f"{NS}path") if p.get("class") == "form-body"]
    rims = list(svgelements.Path(body.get("d")).as_subpaths())
    wide = sorted(svgelements.Path(rim).bbox()[2] - svgelements.Path(rim).bbox()[0] for rim in rims)
    assert body.get("fill-rule") == "evenodd" and wide == pytest.approx([600 - 36 - 180, 600 - 36], abs=2)


HOOP = {"kind": "arc_by_radius", "face": "inner", "radius_mm": 150, "angle_deg": 325}
HOOK = {"kind": "hook", "face": "inner", "start_mm": 600, "radius_mm": 50, "angle_deg": 175, "end_mm": 60}


def words_of(root, class_):
    return [t for t in root.iter(f"{NS}text") if t.get("class") == class_]


@pytest.mark.parametrize("size", [(358, 340), (770, 470), (1500, 900)])
@pytest.mark.parametrize("stage", STAGES)
def test_a_board_is_made_for_its_place(rib, size, stage):
    """Its window has the proportions of the place, and a layout pixel is one of the screen: words are 12 px and more."""
    root = fromstring(board_svg(rib, plan(rib), stage=stage, unit="mm", size_px=size))
    _, _, width, height = map(float, root.get("viewBox").split())
    assert height / width == pytest.approx(size[1] / size[0], rel=1e-3)
    sizes = [float(t.get("font-size")) * size[0] / width for t in root.iter(f"{NS}text") if t.get("font-size")]
    assert sizes and min(sizes) > 11.9 and max(sizes) < 15
    strip = next(p for p in root.iter(f"{NS}path") if p.get("class") == "strip")
    left, _, right, _ = svgelements.Path(strip.get("d")).bbox()
    assert (right - left) / width > 0.6
    kept = Frame.parse(root.get("data-frame"))
    assert (kept.wide_px, kept.px) == (size[0], pytest.approx(width / size[0], rel=1e-5))


@pytest.mark.parametrize("text", ["1 2 3", "1 2 3 4 0", "1 2 3 4 1e9", "0 0 -5 4 780", "nan 0 5 4 780", "a b c d"])
def test_a_window_that_is_none_is_not_taken(text):
    assert Frame.parse(text) is None
    assert Frame.parse("-5 -4 10 8").px == pytest.approx(10 / 780) and Frame.parse("-5 -4 10 8 400").px == 10 / 400


def test_a_stick_drawn_shorter_says_so_and_keeps_its_figures():
    job = read_job({**RIB, "shape": HOOP, "part": {"thickness_mm": 8, "width_mm": 20}})
    made = plan(job)
    root = fromstring(board_svg(job, made, stage="build_up", unit="mm", size_px=(770, 470)))
    width = float(root.get("viewBox").split()[2])
    stick = next(r for r in root.iter(f"{NS}rect") if r.get("class") == "stick")
    (end,) = {m.inner_mm for m in made.stick if m.kind == "part_end" and m.inner_mm > 0}
    share = float(stick.get("width")) / (2 * end)
    assert 0.3 < share < 0.97
    said = "".join("".join(t.itertext()) for t in root.iter(f"{NS}text"))
    assert f"{share:.0%} of the scale above" in said
    assert format_length(end, "mm") in said
    strip = next(p for p in root.iter(f"{NS}path") if p.get("class") == "strip")
    _, top, _, foot = svgelements.Path(strip.get("d")).bbox()
    assert (foot - top) / (width * 470 / 770) > 0.55  # the hoop fills the height


def test_the_stick_of_a_lopsided_piece_lies_inside_the_board():
    job = read_job({**RIB, "shape": HOOK, "part": {"thickness_mm": 20, "width_mm": 20, "trim_mm": 150}})
    for size in ((358, 340), (770, 470)):
        root = fromstring(board_svg(job, plan(job), stage="form", unit="mm", size_px=size))
        left, _, width, _ = map(float, root.get("viewBox").split())
        for rect in root.iter(f"{NS}rect"):
            if rect.get("class") in ("stick", "stick-blank"):
                x, wide = float(rect.get("x")), float(rect.get("width"))
                assert left < x and x + wide < left + width
