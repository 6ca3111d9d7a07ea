"""The smaller drawings, parsed and measured: sheets, nests, the chamber, the core's chart, run-out, what is refused."""

import math
import re
from xml.etree.ElementTree import fromstring

import numpy as np
import pytest

from bright_willow.core.common.errors import PlanError
from bright_willow.core.job.job import Job
from bright_willow.core.plan.plan import plan
from bright_willow.core.stock.sheet_cutting import sheet_cut
from bright_willow.core.wood.sheets import sheet_table
from bright_willow.drawing.board import board_svg
from bright_willow.drawing.heat_chart import chamber_svg, heat_chart
from bright_willow.drawing.nest_drawing import nest_svgs
from bright_willow.drawing.refused import refused_svg
from bright_willow.drawing.run_out import run_out_svg
from bright_willow.drawing.sheet_drawing import sheet_svg
from tests.core.form.test_forms import leaning
from tests.core.heat.test_heat import hot
from tests.core.shape.test_shapes import EXAMPLES, job_of

NS = "{http://www.w3.org/2000/svg}"


def of_class(root, name):
    return [e for e in root.iter() if name in (e.get("class") or "").split()]


def stretches(root, name):
    """Coloured stretches along the face; the key has no titles."""
    return [e for e in of_class(root, f"share-{name}") if e.find(f"{NS}title") is not None]


def numbers(text):
    return [float(n) for n in re.findall(r"-?\d+\.?\d*", text)]


def test_blanks_lie_on_the_sheet_to_scale_and_all_are_drawn():
    cut = sheet_cut(sheet_table()["flex_ply_5"], layers=2, pieces=4, length_mm=1100, width_mm=180, kerf_mm=0)
    root = fromstring(sheet_svg(cut, "mm"))
    (whole,) = of_class(root, "sheet-whole")
    assert (float(whole.get("width")), float(whole.get("height"))) == (2440, 1220)
    blanks = of_class(root, "sheet-blank")
    assert len(blanks) == cut.per_sheet == 12
    for blank in blanks:
        assert (float(blank.get("width")), float(blank.get("height"))) == (1100, 180)
        assert float(blank.get("x")) + 1100 <= 2440 and float(blank.get("y")) + 180 <= float(whole.get("y")) + 1220
    words = "".join(root.itertext())
    assert "1 sheet, 12 blanks from each" in words and "along the part" in words


def test_every_nested_part_is_drawn_once_on_its_sheet():
    made = plan(job_of("hook", form={"kind": "two_part", "build": "ribs"}))
    sheets = [fromstring(s) for s in nest_svgs(made, "mm")]
    assert len(sheets) == made.build.nest.sheets
    drawn = sum(len(of_class(s, "sheet-blank")) for s in sheets)
    assert drawn == sum(p.count for p in made.build.parts)
    sizes = sorted(float(r.get("width")) * float(r.get("height")) for s in sheets for r in of_class(s, "sheet-blank"))
    assert sizes == pytest.approx(
        sorted(p.width_mm * p.height_mm for p in made.build.parts for _ in range(p.count)), rel=1e-4
    )
    assert nest_svgs(plan(job_of("hook", form={"build": "solid"})), "mm") == []


def test_the_chamber_holds_every_piece_with_its_gaps():
    job = hot(heat={"at_once": 2, "forms": 2})
    heat = plan(job).hot.heat
    box = heat.chamber
    assert heat.in_box.pieces == 4  # what is drawn is what is in it at a time
    root = fromstring(chamber_svg(box, thickness_mm=20, width_mm=31, pieces=4, unit="mm"))
    pieces = [(float(r.get("x")), float(r.get("y"))) for r in of_class(root, "sheet-blank")]
    assert len(pieces) == 4 == len(set(pieces)) and box.rows * box.columns >= 4
    for x, y in pieces:
        assert x >= 20 and y >= 20 and x + 31 <= box.inside_mm[1] - 20 + 1e-6 and y + 20 <= box.inside_mm[0] - 20 + 1e-6
    assert "vent open" in "".join(root.itertext())


def test_times_stand_where_the_core_is_hot():
    steam = plan(hot()).hot.heat.steam
    root = fromstring(heat_chart(steam, "mm"))
    (core,) = of_class(root, "core")
    points = np.array(numbers(core.get("d"))).reshape(-1, 2)
    (earliest,), (goal,) = of_class(root, "time-earliest"), of_class(root, "goal")
    x = numbers(earliest.get("d"))[0]
    y = numbers(goal.get("d"))[1]
    assert float(np.interp(x, points[:, 0], points[:, 1])) == pytest.approx(
        y, abs=2.5
    )  # the curve meets the goal there
    assert (np.diff(points[:, 1]) <= 1e-6).all()  # hotter with time, up the page
    assert "190 °F" in "".join(fromstring(heat_chart(steam, "in")).itertext()).replace("190.4", "190")


def test_grain_is_drawn_at_its_own_slope():
    root = fromstring(run_out_svg(rise_mm=30, run_mm=300, unit="mm"))
    (grain,) = of_class(root, "grain")
    x1, y1, x2, y2 = numbers(grain.get("d"))[:4]
    assert (y1 - y2) / (x2 - x1) == pytest.approx(0.1, abs=1e-3)
    assert "rise 30 mm" in "".join(root.itertext()) and "run 300 mm" in "".join(root.itertext())


def test_a_refused_shape_is_marked_where_it_is_too_tight():
    shape = {"kind": "polycurve", "face": "mid", **EXAMPLES["polycurve"]}
    shape["stretches"] = [
        {"kind": "straight", "length_mm": 300},
        {"kind": "arc", "radius_mm": 20, "angle_deg": 90},
        {"kind": "straight", "length_mm": 200},
    ]
    job = Job.model_validate({"name": "x", "shape": shape, "part": {"thickness_mm": 40, "width_mm": 30}})
    with pytest.raises(PlanError) as caught:
        job.mid_line()
    assert caught.value.at_mm == pytest.approx((300 + math.pi * 5,), rel=1e-6)
    root = fromstring(refused_svg(job, caught.value, "mm"))
    (ring,) = of_class(root, "stop-ring")
    (line,) = of_class(root, "outline")
    points = np.array(numbers(line.get("d"))).reshape(-1, 2)
    corner = np.hypot(points[:, 0] - float(ring.get("cx")), points[:, 1] - float(ring.get("cy")))
    along = np.concatenate(([0.0], np.cumsum(np.hypot(*np.diff(points, axis=0).T))))
    assert along[int(corner.argmin())] == pytest.approx(300 + math.pi * 5, abs=6)


def test_shares_of_pressure_are_coloured_along_the_face():
    job = leaning(kind="two_part")
    root = fromstring(board_svg(job, plan(job), stage="form", unit="mm"))
    assert stretches(root, "undercut") and stretches(root, "starved") and stretches(root, "full")
    assert not of_class(root, "presser-group")  # nothing is drawn of a half that cannot be
    three = leaning(kind="three_part")
    made = plan(three)
    root = fromstring(board_svg(three, made, stage="form", unit="mm"))
    groups = of_class(root, "presser-group")
    assert len(groups) == 3 and not stretches(root, "undercut") and stretches(root, "full")
    for group, presser in zip(groups, made.form.closing.pressers, strict=True):
        angle = math.degrees(math.atan2(float(group.get("data-dx")), -float(group.get("data-dy"))))
        assert angle == pytest.approx(presser.direction_deg, abs=0.01)  # the legs of this one stand level
    assert {h.get("data-handle") for h in of_class(root, "handle")} == {"split-0", "split-1"}


def test_the_right_of_a_pair_is_drawn_in_a_mirror_and_says_so():
    left = job_of("hook", part={"thickness_mm": 18, "width_mm": 30, "count": 2, "copies": "pairs"})
    right = left.model_copy(update={"part": left.part.model_copy(update={"hand": "right"})})
    drawn = [fromstring(board_svg(j, plan(j), stage="shape", unit="mm")) for j in (left, right)]
    assert "LEFT of a pair; its mate is a RIGHT" in "".join(drawn[0].itertext())
    assert "RIGHT of a pair; its mate is a LEFT" in "".join(drawn[1].itertext())
    knobs = [
        {h.get("data-handle"): float(h.findall(f"{NS}circle")[1].get("cx")) for h in of_class(d, "handle")}
        for d in drawn
    ]
    assert knobs[0] == pytest.approx({k: -x for k, x in knobs[1].items()}, abs=1e-3)


def test_joints_of_a_ring_stand_apart_on_the_board_and_on_the_drum():
    job = job_of("ring")
    root = fromstring(board_svg(job, plan(job), stage="build_up", unit="mm"))
    joints = [numbers(e.get("d")) for e in of_class(root, "ring-joint")]
    assert len(joints) == 6
    for d, layer in zip(joints, plan(job).laid_up.ring, strict=True):
        assert math.hypot(d[2] - d[0], d[3] - d[1]) == pytest.approx(3, abs=0.01)  # across its own layer
        assert 0 <= layer.joint_deg < 360
    spread = {tuple(round(v, 1) for v in d[:2]) for d in joints}
    assert len(spread) == 6
