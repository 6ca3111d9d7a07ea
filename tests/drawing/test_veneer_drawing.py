"""Joined plies, read back from their drawing: leaves that fill each ply, tape on each joint, and what each is."""

import re
import xml.etree.ElementTree as ET

import pytest

from bright_willow.core.plan.plan import plan
from bright_willow.core.shop.shop import Shop
from bright_willow.core.stock.veneer_plan import straps
from bright_willow.drawing.veneer_drawing import veneer_svg
from tests.core.stock.test_veneer_plan import desk


@pytest.mark.parametrize("show", ["inner", "outer"])
def test_leaves_and_tape_lie_where_the_plan_has_them(show):
    veneers = plan(desk(show=show), Shop(clean_up_mm=6)).laid_up.veneers
    root = ET.fromstring(veneer_svg(veneers, "mm"))
    leaves = [e for e in root.iter() if e.get("class", "").startswith("veneer-leaf")]
    tape = [e for e in root.iter() if e.get("class") == "veneer-tape"]
    lies = [tuple(float(e.get(k)) for k in ("x", "y", "width", "height")) for e in leaves]
    assert [x[3] for x in lies] == [w for ply in veneers.plies for w in ply.widths_mm]
    lefts = sorted({x[0] for x in lies})
    lines = [[float(v) for v in re.split("[ ML]", e.get("d"))[1:]] for e in tape]
    level = [(x0, y0) for x0, y0, _, y1 in lines if y0 == y1]
    for ply, left in zip(veneers.plies, lefts, strict=True):
        rows = [x for x in lies if x[0] == left]
        top = min(y for _, y, _, _ in rows)
        assert [y - top for _, y, _, _ in rows] == pytest.approx([0, *ply.joints_mm], abs=0.01)
        assert [x[2] for x in rows] == pytest.approx([veneers.length_mm] * len(rows), abs=0.01)
        assert [y - top for x, y in level if x == left] == pytest.approx(list(ply.joints_mm), abs=0.01)
    assert len(tape) - len(level) == len(level) * straps(veneers.length_mm)  # across each joint
    names = [t for t in ("".join(e.itertext()) for e in root.iter() if e.tag.endswith("text")) if t.startswith("ply")]
    shows = [ply.number for ply in veneers.plies if ply.shows]
    assert [int(n[4]) for n in names if "show face" in n] == shows == [1 if show == "inner" else 4]


def test_on_the_page_the_show_face_is_named_beside_its_leaves(client):
    store = client.app.state.store
    with store.connected():
        store.shop_settings.save(Shop(clean_up_mm=6))
        job = store.jobs.add(desk())
    text = " ".join(client.get(f"/jobs/{job}/cut-list").text.split())
    four = text.index("4, show face")
    assert text.index("151 mm, 302 mm, 302 mm, 151 mm") < four < text.index("302 mm, 604 mm")
    assert "veneer tape" in text and "306 mm" in text


def test_sheets_wider_than_they_come_have_their_joints_on_the_page(client):
    store = client.app.state.store
    with store.connected():
        job = store.jobs.add(desk(leaf_mm=None, width_mm=1234))
    text = " ".join(client.get(f"/jobs/{job}/cut-list").text.split())
    assert "Sheets edge to edge" in text and "Flexible plywood 5 mm, 1 of 2" in text
