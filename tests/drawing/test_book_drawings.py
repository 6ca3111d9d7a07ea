"""Charts of the book and marks on pictures: what they draw lies where it is said to lie."""

from __future__ import annotations

import datetime as dt
import math
import re
from xml.etree import ElementTree

import numpy as np
import pytest

from bright_willow.core.common.estimate import Estimate
from bright_willow.core.learning.settling import Remeasurement, Settling
from bright_willow.core.measuring.built_form import BuiltForm
from bright_willow.core.measuring.ends_and_heights import GapReadings, reader
from bright_willow.core.measuring.photo_measurement import PhotoMarks, Plane
from bright_willow.core.measuring.profile_readings import KeptReading, beside
from bright_willow.core.plan.plan import sketch
from bright_willow.drawing.band_chart import LearnedBand, SettledRow, band_chart, settling_chart
from bright_willow.drawing.book_chart import DatedBend, SpringbackShift, book_chart
from bright_willow.drawing.measured_drawing import PieceHistory, PieceOverlay, along_svg, days_svg, steps
from bright_willow.drawing.photo_drawing import grid_step, marks_svg
from tests.core.methods.jobs import job_for

NS = "{http://www.w3.org/2000/svg}"
BUILT = BuiltForm.of(sketch(job_for("cold_lamination", shape={"kind": "arc_by_chord", "face": "inner", "chord_mm": 900, "rise_mm": 160})))  # fmt: skip
CORNERS = ((400.0, 300.0), (1400.0, 320.0), (1500.0, 1000.0), (300.0, 980.0))


def tree(svg: str):
    svg = svg if svg.startswith("<svg") else f"<svg>{svg}</svg>"
    return ElementTree.fromstring(re.sub(r"&(?!amp;|lt;|gt;|quot;|#)", "&amp;", svg))


def having(svg: str, look: str, of: str = ""):
    found = (e for e in tree(svg).iter() if look in (e.get("class") or "").split())
    return [e for e in found if not of or e.tag.removeprefix(NS) == of]


def ends(path: str) -> list[tuple[float, float]]:
    return [(float(x), float(y)) for x, y in re.findall(r"[ML]?(-?[\d.]+) (-?[\d.]+)", path)]


def words(svg: str) -> list[str]:
    return ["".join(e.itertext()) for e in tree(svg).iter() if e.tag.removeprefix(NS) == "text"]


@pytest.mark.parametrize("log", [False, True])
def test_a_band_lies_between_its_ends_and_the_allowance_where_it_is(log):
    rows = [
        LearnedBand("one", Estimate(2.0, 4.0, 6.0, "learned"), 5.0, "4, 2 to 6"),
        LearnedBand("two", Estimate(1.0, 8.0, 9.0, "learned"), None, "8"),
    ]
    svg = band_chart(rows, "x", log=log)
    bands, likely, marks = having(svg, "band"), having(svg, "likely"), having(svg, "allowed")
    assert len(bands) == len(likely) == 2 and len(marks) == 1 and "4, 2 to 6" in words(svg)

    def scale(v: float) -> float:
        return math.log(v) if log else v

    x = {}
    for row, bar, dot in zip(rows, bands, likely, strict=True):
        left, wide = float(bar.get("x")), float(bar.get("width"))
        x |= {row.learnt.low: left, row.learnt.high: left + wide, row.learnt.likely: float(dot.get("cx"))}
    per = (x[9.0] - x[1.0]) / (scale(9.0) - scale(1.0))
    for v, at in x.items():  # one scale for all of it
        assert at == pytest.approx(x[1.0] + per * (scale(v) - scale(1.0)), abs=0.1)
    assert ends(marks[0].get("d").replace("V", "L0 "))[0][0] == pytest.approx(x[1.0] + per * (scale(5.0) - scale(1.0)), abs=0.1)  # fmt: skip


def test_pieces_that_settled_lie_on_the_curve_they_follow():
    made, share = Settling(0.05, 1e-5, 3, 20.0), Estimate(0.03, 0.05, 0.07, "learned")
    pieces = [[Remeasurement(d, made.after(d, 0.05), 0.002) for d in (5, 20, 60)]]
    svg = settling_chart([SettledRow("rigid", made, share, pieces), SettledRow("soft", made, share, [])])
    curve = ends(having(svg, "settling")[0].get("d"))
    for dot in having(svg, "settled"):
        near = min(curve, key=lambda p: abs(p[0] - float(dot.get("cx"))))
        assert float(dot.get("cy")) == pytest.approx(near[1], abs=6)
    names = [w for w in words(svg) if w in ("rigid", "soft")]
    assert sorted(names) == ["rigid", "soft"]
    assert len({e.get("y") for e in tree(svg).iter() if "".join(e.itertext()) in ("rigid", "soft") and e.get("y")}) == 2


@pytest.mark.parametrize("unit", ["mm", "in"])
def test_along_its_length_the_ends_stand_where_they_opened_to(unit):
    came = BUILT.bent_by_halves(3.0, 1.0)
    kept = KeptReading(GapReadings(*map(float, reader(BUILT, GapReadings(0.0, 0.0))[1](came))), 0.4)
    made = beside(BUILT, 2.0, kept)
    svg = along_svg(BUILT, [PieceOverlay("7", made)], unit)
    line = ends(having(svg, "settling")[0].get("d"))
    (left, right), middle = (line[0], line[-1]), line[len(line) // 2]
    assert left[1] < right[1] < middle[1] + 1e-6 or right[1] == pytest.approx(middle[1], abs=2)  # y runs down
    assert len(having(svg, "settled")) == 2  # read at either end
    for dot, at in zip(having(svg, "settled"), (left, right), strict=True):
        assert float(dot.get("cx")) == pytest.approx(at[0], abs=1)
    assert {"left end", "middle", "right end", "7", "finished shape"} <= set(words(svg))
    band = ends(having(svg, "trial-band")[0].get("d"))
    assert min(y for _, y in band) < middle[1] < max(y for _, y in band)
    wanted = ends(having(svg, "wanted-line")[0].get("d"))
    assert len(wanted) == 61


def test_over_days_a_piece_goes_from_day_to_day():
    svg = days_svg([PieceHistory("3", (0.0, 10.0, 30.0), (1.0, 2.0, 3.0)), PieceHistory("4", (0.0, 7.0), (-1.0, -1.0))])
    first, second = (ends(e.get("d")) for e in having(svg, "settling"))
    assert (first[1][0] - first[0][0]) * 2 == pytest.approx(first[2][0] - first[1][0], abs=0.1)
    assert first[0][1] > first[1][1] > first[2][1] and second[0][1] == second[1][1] > first[0][1]
    assert len(having(svg, "settled")) == 5 and {"3", "4"} <= set(words(svg))


def test_bends_over_time_stand_by_their_day_and_their_shift():
    first = dt.date(2026, 1, 10)
    bends = [DatedBend(first + dt.timedelta(30 * n), 1.0 if n < 4 else 1.6, 0.1, f"bend {n}", n == 2) for n in range(8)]
    shift = SpringbackShift(bends[4].day, 1.0, 1.6, "from then on")
    svg = book_chart(bends, [shift])
    dots = having(svg, "dot")
    at = [float(d.get("cx")) for d in dots]
    assert len(dots) == 8 and np.diff(at) == pytest.approx(np.full(7, np.diff(at)[0]), abs=0.1)
    assert len(having(svg, "left-out")) == 1
    line = ends(having(svg, "shift")[0].get("d"))
    assert line[0][0] == line[1][0] == pytest.approx(at[4], abs=0.1)
    levels = [ends(e.get("d"))[0][1] for e in having(svg, "shift-level")]
    assert levels == pytest.approx([float(dots[0].get("cy")), float(dots[7].get("cy"))], abs=0.1)
    assert sum(bool(re.fullmatch(r"[A-Z][a-z]{2} 2026", w)) for w in words(svg)) >= 3
    beyond = book_chart(
        [*bends, DatedBend(first, 99.0, 1.0, "far", False), DatedBend(first, -3.0, 1.0, "below", False)]
    )
    assert all(-310 < float(d.get("cy")) < 310 for d in having(beyond, "dot"))


@pytest.mark.parametrize("most", [0.003, 0.8, 7.0, 99.0, 12_345.0])
def test_steps_are_round_and_few(most):
    made = steps(most)
    assert 3 <= len(made) <= 8 and made[-1] <= most * (1 + 1e-9)
    assert f"{made[0]:.6e}".partition("e")[0].replace(".", "").rstrip("0") in ("1", "2", "25", "5")


def test_the_grid_on_a_picture_is_the_plane_s():
    seen = PhotoMarks(corners=CORNERS, points=((500.0, 500.0), (700.0, 480.0)))
    plane = Plane.by(seen)
    svg = marks_svg((1800, 1200), seen, plane, plane.px(np.array([(10.0, 20.0), (100.0, 30.0)])))
    step = grid_step(seen.across_mm)
    lines = [np.array(ends(e.get("d"))) for e in having(svg, "photo-line")]
    assert step == 50.0 and len(lines) > 10
    for line in lines:  # every line runs along whole steps of the plane
        mm = plane.mm(line)
        off = [np.abs(mm[:, axis] / step - np.round(mm[:, axis] / step)).max() for axis in (0, 1)]
        assert min(off) < 0.02
    frame = ends(having(svg, "photo-frame")[0].get("d"))
    assert frame == [pytest.approx(c) for c in CORNERS]
    assert [e.get("data-mark") for e in having(svg, "photo-mark")] == [*(f"corner-{n}" for n in range(4)), "point-0", "point-1"]  # fmt: skip
    assert [e.get("aria-label") for e in having(svg, "photo-mark")][4] == "Point 1 of the edge"
    assert ends(having(svg, "photo-fit")[0].get("d"))[0] == pytest.approx(plane.px(np.array([(10.0, 20.0)]))[0], abs=0.01)  # fmt: skip
    bare = marks_svg((1800, 1200), PhotoMarks(), None)
    assert 'data-place="marks"' in bare and "photo-mark" in bare and not having(bare, "photo-line")
    bar = marks_svg((1800, 1200), PhotoMarks(by="bar", corners=((1.0, 2.0), (900.0, 2.0))), None)
    assert having(bar, "photo-mark")[1].get("aria-label") == "End of the bar 2"
    assert "Z" not in having(bar, "photo-frame")[0].get("d")


@pytest.mark.parametrize(("across", "step"), [(40.0, 5.0), (297.0, 50.0), (2_000.0, 200.0), (10_000.0, 1000.0)])
def test_lines_of_the_grid_are_some_ten_over_the_rectangle(across, step):
    assert grid_step(across) == step
