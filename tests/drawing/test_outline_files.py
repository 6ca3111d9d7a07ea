"""Outlines out of files: good ones measured, odd and hostile ones refused with a sentence."""

import io

import ezdxf
import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from bright_willow.core.common.errors import PlanError
from bright_willow.core.plan.plan import plan
from bright_willow.core.plan.read_job import read_job
from bright_willow.core.shape.smooth_curve import fitted
from bright_willow.drawing.export import EXPORTS
from bright_willow.drawing.outline_files import outlines_in, to_points_mm, to_stretches
from tests.conftest import RIB
from tests.searching import examples


def svg(body, size='width="400mm" height="200mm" viewBox="0 0 400 200"'):
    return f'<svg xmlns="http://www.w3.org/2000/svg" {size}>{body}</svg>'.encode()


def dxf(draw, units=4):
    document = ezdxf.new("R2000")
    document.units = units
    draw(document.modelspace(), document)
    out = io.StringIO()
    document.write(out)
    return out.getvalue().encode()


def test_svg_with_transforms_is_read_in_true_mm():
    raw = svg(
        '<g transform="translate(10,20) scale(0.5)"><g transform="rotate(30)"><path id="arc" d="M0 0A300 300 0 0 1 600 0"/></g></g>'
    )
    (found,), unit = outlines_in(raw, "a.svg")
    assert unit == "mm" and found.name.startswith("arc")
    assert found.length == pytest.approx(np.pi * 150, rel=1e-3)


def test_svg_in_inches_and_without_a_size():
    (found,), _ = outlines_in(
        svg('<path d="M0 0L10 0L10 10"/>', 'width="10in" height="10in" viewBox="0 0 10 10"'), "a.svg"
    )
    assert found.length == pytest.approx(20 * 25.4)


def test_the_longest_comes_first():
    found, _ = outlines_in(
        svg('<path d="M0 0L5 5L9 0"/><path id="big" d="M0 0L100 50L200 0"/><circle r="3"/>'), "a.svg"
    )
    assert found[0].name.startswith("big") and len(found) == 3


def test_dxf_lines_and_arcs_join_into_one():
    def draw(space, _):
        space.add_line((350, 150), (350, 400))
        space.add_arc((200, 150), 150, 270, 360)
        space.add_line((200, 0), (0, 0))

    (found,), unit = outlines_in(dxf(draw), "a.dxf")
    assert unit == "mm" and found.length == pytest.approx(450 + np.pi / 2 * 150, rel=1e-3)
    (inches,), unit = outlines_in(dxf(draw, units=1), "a.DXF")
    assert unit == "in" and to_points_mm(inches, unit_mm=25.4, scale=0.5)[-1] != [0, 0]


@pytest.mark.parametrize("kind", ["spline", "polyline", "ellipse"])
def test_dxf_curves(kind):
    def draw(space, _):
        if kind == "spline":
            space.add_spline(fit_points=[(0, 0), (200, 120), (400, 0)])
        elif kind == "polyline":
            space.add_lwpolyline([(0, 0, 0.4), (300, 0, 0), (500, 100, 0)], format="xyb")
        else:
            space.add_ellipse((0, 0), (300, 0), 0.5, 0, np.pi)

    found, _ = outlines_in(dxf(draw), "a.dxf")
    assert found[0].length > 390
    assert fitted(tuple(map(tuple, to_points_mm(found[0], unit_mm=1, scale=1))), 0.5).largest_mm < 25


@pytest.mark.parametrize("kind", ["svg", "dxf"])
def test_a_form_goes_out_and_comes_back(kind):
    """The face of an exported form, brought in again, has the same curvature within a thousandth."""
    job = read_job(RIB)
    made = plan(job)
    found, unit = outlines_in(EXPORTS[kind].make(job, made, "mm", "a4"), f"form.{kind}")
    assert unit == "mm"
    face = next(f for f in found if f.chain and abs(f.length - made.face_figures.length_mm) < 0.5)
    (stretch,) = to_stretches(face, unit_mm=1, scale=1)
    assert 1 / stretch["radius_mm"] == pytest.approx(made.face_figures.curve.curvature[0], rel=1e-4)
    assert stretch["angle_deg"] == pytest.approx(made.face_figures.sweep_deg, rel=1e-4)


def test_straights_and_arcs_without_corners_are_taken_exactly():
    def draw(space, _):
        space.add_arc((200, 150), 150, 270, 360)
        space.add_line((350, 400), (350, 150))
        space.add_line((200, 0), (0, 0))

    (found,), _ = outlines_in(dxf(draw), "a.dxf")
    kinds = to_stretches(found, unit_mm=25.4, scale=2)
    assert [s["kind"] for s in kinds] == ["straight", "arc", "straight"]
    assert kinds[1]["radius_mm"] == pytest.approx(150 * 50.8) and kinds[1]["angle_deg"] == pytest.approx(90)
    (corner,), _ = outlines_in(svg('<path d="M0 0L100 0L100 90"/>'), "corner.svg")
    assert corner.chain == ()


def test_csv():
    rows = "x;y\n" + "\n".join(f"{x};{x * (500 - x) / 500:.3f}" for x in range(0, 501, 50))
    (found,), unit = outlines_in(rows.encode(), "points.csv")
    assert unit == "" and len(found.points) == 11
    assert found.points[5, 1] == pytest.approx(125)


BOMB = b'<?xml version="1.0"?><!DOCTYPE l [<!ENTITY a "aaaaaaaaaa"><!ENTITY b "&a;&a;&a;&a;&a;&a;&a;&a;&a;">]><svg>&b;</svg>'
ODD = {
    "empty.svg": b"",
    "bomb.svg": BOMB,
    "outside.svg": b'<!DOCTYPE svg [<!ENTITY x SYSTEM "file:///etc/passwd">]><svg xmlns="http://www.w3.org/2000/svg">&x;</svg>',
    "deep.svg": b"<svg xmlns='http://www.w3.org/2000/svg'>" + b"<g>" * 5000 + b"</g>" * 5000 + b"</svg>",
    "text.svg": b"not a drawing",
    "nothing.svg": svg("<text>hello</text>"),
    "broken.svg": svg('<path d="M0 0L"/>'),
    "notes.pdf": b"%PDF",
    "binary.dxf": b"AutoCAD Binary DXF\r\n\x1a\x00",
    "garbage.dxf": b"\x00\xff" * 500,
    "text.dxf": b"0\nSECTION\n2\nENTITIES\n0\nLINE\n",
    "blocks.dxf": dxf(
        lambda space, doc: (doc.blocks.new("X").add_line((0, 0), (9, 9)), space.add_blockref("X", (0, 0)))
    ),
    "bare.dxf": dxf(lambda space, doc: None),
    "two.csv": b"0,0\n5,5\n",
    "words.csv": b"0,0\n5,five\n9,9\n",
    "nan.csv": b"0,0\nnan,1\n9,9\n",
}


@pytest.mark.parametrize("name", ODD)
def test_odd_files_get_a_sentence(name):
    with pytest.raises(PlanError) as caught:
        outlines_in(ODD[name], name)
    assert caught.value.message("mm").rstrip().endswith(".")


@settings(max_examples=examples(30), deadline=None)
@given(st.binary(max_size=400), st.sampled_from(["a.svg", "a.dxf", "a.csv"]))
def test_any_bytes_get_outlines_or_a_sentence(raw, name):
    try:
        found, _ = outlines_in(raw, name)
    except PlanError:
        return
    assert found


def test_scale_and_size_are_checked():
    (found,), _ = outlines_in(svg('<path d="M0 0L100 50L200 0"/>'), "a.svg")
    for scale in (0, -1, 1e6, float("nan")):
        with pytest.raises(PlanError):
            to_points_mm(found, unit_mm=1, scale=scale)
    assert len(to_points_mm(found, unit_mm=1, scale=2)) >= 240
