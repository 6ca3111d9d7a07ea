"""Exported files read back by other libraries and measured."""

import csv
import io
import math
import zipfile

import dxfgrabber
import ezdxf
import ezdxf.bbox
import ezdxf.path
import numpy as np
import pdfplumber
import pytest
import svgelements

from bright_willow.core.common.errors import PlanError
from bright_willow.core.plan.plan import plan
from bright_willow.core.plan.read_job import read_job
from bright_willow.drawing.board import board_svg
from bright_willow.drawing.export import EXPORTS
from bright_willow.drawing.story_stick_pdf import story_stick_pdf
from bright_willow.drawing.template import form_template, frame_template
from bright_willow.drawing.template_lines import Template
from bright_willow.drawing.template_pdf import template_pdf
from bright_willow.drawing.tiling import FOOT_MM, MARGIN_MM, PAPERS, laid_out, sheet_name
from tests.conftest import RIB
from tests.core.shape.test_shapes import job_of
from tools.yardstick import Measured

PT = 25.4 / 72
BIG_SWEEP = {
    **RIB,
    "name": "Hook – “über” 木 <&>",
    "shape": {"kind": "arc_by_radius", "face": "outer", "radius_mm": 160, "angle_deg": 230},
    "part": {"thickness_mm": 12, "width_mm": 20, "trim_mm": 15},
    "form": {"side": "outer", "liner_mm": 2, "depth_mm": 60},
}


def exported(kind, data=RIB, paper="a4"):
    job = read_job(data)
    made = plan(job)
    return EXPORTS[kind].make(job, made, "mm", paper), made


def circle_through(points):
    """Least-squares circle through points (n, 2): centre and radius, independent of how they were made."""
    a = np.column_stack((2 * points, np.ones(len(points))))
    (x, y, c), *_ = np.linalg.lstsq(a, (points**2).sum(1), rcond=None)
    return np.array([x, y]), math.sqrt(c + x * x + y * y)


@pytest.mark.parametrize("data", [RIB, BIG_SWEEP], ids=["rib", "hook"])
def test_svg_read_back(data):
    raw, made = exported("svg", data)
    root = svgelements.SVG.parse(io.BytesIO(raw), ppi=25.4)  # one unit a millimetre
    paths = [e for e in root.elements() if isinstance(e, svgelements.Path) and e.values.get("stroke") == "#000000"]
    face = paths[0]
    points = np.array([[face.point(t).x, face.point(t).y] for t in np.linspace(0, 1, 200)])
    _, radius = circle_through(points)
    assert radius == pytest.approx(made.face_figures.least_radius_mm, abs=0.01)
    assert face.length(error=1e-7) == pytest.approx(made.face_figures.length_mm, abs=0.05)
    assert np.hypot(*(points[-1] - points[0])) == pytest.approx(made.face_figures.chord_mm, abs=0.01)


@pytest.mark.parametrize("data", [RIB, BIG_SWEEP], ids=["rib", "hook"])
def test_dxf_read_back(data, tmp_path):
    raw, made = exported("dxf", data)
    path = tmp_path / "form.dxf"
    path.write_bytes(raw)
    drawing = dxfgrabber.readfile(str(path))
    assert drawing.header["$INSUNITS"] == 4  # millimetres
    assert {"FACE", "BODY", "MARKS", "TEXT"} <= {layer.name for layer in drawing.layers}
    (face,) = [e for e in drawing.entities if e.layer == "FACE"]
    points, bulges = np.array([p[:2] for p in face.points]), np.array(face.bulge[:-1])
    chords = np.hypot(*np.diff(points, axis=0).T)
    turns = 4 * np.arctan(np.abs(bulges))
    assert chords / (2 * np.sin(turns / 2)) == pytest.approx(
        np.full(len(chords), made.face_figures.least_radius_mm), abs=0.001
    )
    assert math.degrees(turns.sum()) == pytest.approx(made.face_figures.sweep_deg, abs=1e-4)
    assert np.hypot(*(points[-1] - points[0])) == pytest.approx(made.face_figures.chord_mm, abs=0.001)
    assert (bulges < 0).all() == (made.face_figures.curve.curvature[0] > 0)


def face_on(page):
    """Points of the heavy face line on a sheet, in mm of the sheet."""
    lines = [c for c in page.curves if abs(c["linewidth"] - 0.9) < 0.01]
    return [np.array(c["pts"]) * PT for c in lines]


@pytest.mark.parametrize("paper", sorted(PAPERS))
def test_pdf_tiles_measured_and_joined(paper):
    raw, made = exported("pdf", RIB, paper)
    job = read_job(RIB)
    _, sheets = laid_out(form_template(job, made, "mm"), paper)
    with pdfplumber.open(io.BytesIO(raw)) as pdf:
        assert len(pdf.pages) == len(sheets.used) + 2
        for page in pdf.pages:  # the check bar is on every page, and 100 mm long
            assert any(abs(line["width"] * PT - 100) < 0.01 for line in page.lines)
        where = {}
        for page, place in zip(pdf.pages[1:-1], sheets.used, strict=True):
            assert sheet_name(*place) in page.extract_text()
            where[place] = (face_on(page)[0], page)
        for face, _ in where.values():
            assert np.hypot(*(face[-1] - face[0])) == pytest.approx(made.face_figures.chord_mm, abs=0.05)
        step = np.array(sheets.step)
        joined = 0
        for (column, row), (face, page) in where.items():
            for dc, dr in ((1, 0), (0, 1)):
                if (column + dc, row + dr) in where:
                    other, other_page = where[column + dc, row + dr]
                    shift = face - other
                    assert shift == pytest.approx(np.broadcast_to(step * [dc, dr], shift.shape), abs=0.01)
                    marks, others = rings(page), rings(other_page)
                    shared = [m for m in marks for o in others if np.hypot(*(m - o - step * [dc, dr])) < 0.01]
                    assert len(shared) >= 2  # two join marks fall on top of each other
                    joined += 1
        assert joined


def rings(page):
    """Middles of the join marks, 5 mm circles, in mm."""
    boxes = [c for c in page.curves if abs(c["width"] * PT - 5) < 0.05 and abs(c["height"] * PT - 5) < 0.05]
    return [np.array([(c["x0"] + c["x1"]) / 2, page.height - (c["y0"] + c["y1"]) / 2]) * PT for c in boxes]


def test_csv_read_back():
    raw, made = exported("csv")
    rows = list(csv.DictReader(io.StringIO(raw.decode())))
    assert len(rows) == len(made.offsets)
    assert float(rows[3]["height_mm_above_base_line"]) == pytest.approx(made.offsets[3].height_mm, abs=0.005)


def test_odd_names_and_letters_print():
    raw, _ = exported("pdf", BIG_SWEEP, "letter")
    with pdfplumber.open(io.BytesIO(raw)) as pdf:
        assert "100 mm" in pdf.pages[0].extract_text()


def test_sheet_names():
    assert [sheet_name(c, 0) for c in (0, 25, 26)] == ["A1", "Z1", "AA1"]


def test_the_story_stick_is_full_size():
    job = read_job(
        {
            **BIG_SWEEP,
            "shape": {
                "kind": "hook",
                "face": "inner",
                "start_mm": 500,
                "radius_mm": 200,
                "angle_deg": 120,
                "end_mm": 90,
            },
        }
    )
    made = plan(job)
    with pdfplumber.open(io.BytesIO(story_stick_pdf(job, made, paper="a4", unit="mm"))) as pdf:
        assert "bend starts" in pdf.pages[0].extract_text()
        strips = [r for page in pdf.pages[1:] for r in page.rects]
        inner = [r for r in strips if r["width"] > 0]
        covered = sum(r["width"] for r in inner) * PT
        pieces = len(inner)
        lengths = sum(getattr(made.stick[-1], f) - getattr(made.stick[0], f) for f in ("inner_mm", "outer_mm"))
        assert covered == pytest.approx(lengths + 15 * (pieces - 2), abs=0.1)  # the laps are covered twice
        for page in pdf.pages:
            assert any(abs(line["width"] * PT - 100) < 0.01 for line in page.lines)
        upright = [line for line in pdf.pages[1].lines if abs(line["height"] * PT - 24) < 0.01]
        top = min(line["top"] for line in upright)
        ticks = sorted(line["x0"] for line in upright if abs(line["top"] - top) < 1)
        first = [m.inner_mm - made.stick[0].inner_mm for m in made.stick][:2]
        assert (ticks[1] - ticks[0]) * PT == pytest.approx(first[1] - first[0], abs=0.02)
    with pytest.raises(PlanError):
        story_stick_pdf(job, made, paper="b9", unit="mm")


def faces_in(path):
    """Points along the FACE line of a part's DXF, arcs stepped off finely."""
    space = ezdxf.readfile(path).modelspace()
    (line,) = [e for e in space if e.dxf.layer == "FACE"]
    return np.array([(v.x, v.y) for v in ezdxf.path.make_path(line).flattening(0.001)])


def test_opposite_faces_measured_from_the_files(tmp_path):
    """Two halves as exported, each read back by itself: they stand a stack and two liners apart, to 0.05 mm, everywhere."""
    job = job_of("u", form={"kind": "three_part", "liner_mm": 0.8})
    made = plan(job)
    files = zipfile.ZipFile(io.BytesIO(EXPORTS["zip"].make(job, made, "mm", "a4", None)))
    names = sorted(n for n in files.namelist() if n.endswith(".dxf") and n != "all.dxf")
    assert [n[3:-4] for n in names] == ["base", "left-side-caul", "middle-caul", "right-side-caul"]
    files.extractall(tmp_path)
    near = faces_in(tmp_path / names[0])
    start, way = near[:-1], np.diff(near, axis=0)
    for name in names[1:]:
        for p in faces_in(tmp_path / name)[::7]:
            t = np.clip(((p - start) * way).sum(1) / np.maximum((way**2).sum(1), 1e-12), 0, 1)
            assert np.hypot(*(p - start - way * t[:, None]).T).min() == pytest.approx(18 + 1.6, abs=0.05)


def test_layers_of_ribs_and_stacks(tmp_path):
    for form, layers in (
        ({"build": "ribs"}, {"RIB", "SKIN", "BODY", "MARKS", "TEXT"}),
        ({"build": "stack"}, {"FACE", "BODY", "HOLES", "MARKS", "TEXT"}),
        ({"kind": "posts"}, {"FACE", "HOLES", "MARKS", "TEXT"}),
    ):
        job = job_of("hook", form=form)
        (tmp_path / "f.dxf").write_bytes(EXPORTS["dxf"].make(job, plan(job), "mm", "a4", None))
        assert {e.dxf.layer for e in ezdxf.readfile(tmp_path / "f.dxf").modelspace()} == layers, form
        assert EXPORTS["pdf"].make(job, plan(job), "in", "letter", None).startswith(b"%PDF")


def test_every_part_says_what_it_is_and_an_unknown_one_is_refused():
    job = job_of("s", form={"kind": "two_part"})
    made = plan(job)
    for part in made.build.parts:
        text = EXPORTS["svg"].make(job, made, "mm", "a4", part.number).decode()
        assert "this face to the wood" in text and "the line is the finished edge" in text
        assert ("register block" in text) == (part.number > 1)
        dashed = [c for c in form_template(job, made, "mm", part.number).chains if c.dashed and c.layer == "MARKS"]
        assert len(dashed) == (8 if part.number > 1 else 1)  # two blocks of four sides; the base has its base line
    with pytest.raises(PlanError, match="no such part"):
        EXPORTS["svg"].make(job, made, "mm", "a4", 9)
    leaning = job_of("u", form={"kind": "two_part", "school": "by_angle", "left_deg": 20, "right_deg": 20})
    with pytest.raises(PlanError, match="cannot be made"):
        EXPORTS["dxf"].make(leaning, plan(leaning), "mm", "a4", None)


def test_every_true_circle_of_a_face_has_its_trammel():
    job = job_of("u", form={"school": "to_size", "liner_mm": 2})
    words = " ".join(w.text for w in form_template(job, plan(job), "mm").words)
    assert "trammel 148 mm" in words and "trammel 218 mm" in words  # 150 and 220 inside, less the liner
    eased = " ".join(w.text for w in form_template(job_of("parabola"), plan(job_of("parabola")), "mm").words)
    assert "trammel" not in eased


def test_a_drum_is_two_circles(tmp_path):
    job = job_of("ring", "outer")
    (tmp_path / "d.dxf").write_bytes(EXPORTS["dxf"].make(job, plan(job), "mm", "a4", None))
    space = ezdxf.readfile(tmp_path / "d.dxf").modelspace()
    box = {e.dxf.layer: ezdxf.bbox.extents([e]).size.x for e in space if e.dxf.layer in ("FACE", "BODY")}
    assert box == {"FACE": pytest.approx(600 - 36, abs=0.05), "BODY": pytest.approx(600 - 36 - 180, abs=0.05)}
    bolts = [ezdxf.bbox.extents([e]) for e in space if e.dxf.layer == "HOLES"]
    assert len(bolts) == plan(job).build.bolts > 2
    (low,) = [ezdxf.bbox.extents([e]).extmin for e in space if e.dxf.layer == "BODY"]
    middle = (low.x + 192, low.y + 192)
    assert all(192 < math.dist(middle, (b.center.x, b.center.y)) < 282 for b in bolts)


def test_a_drum_with_a_skin_shows_the_line_its_ribs_are_cut_to():
    job = job_of("ring", "outer", form={"build": "ribs", "skin_mm": 6.5})
    template = form_template(job, plan(job), "mm")
    wide = {c.layer: float(np.ptp(c.dense(1.0), axis=0)[0]) for c in template.chains if c.layer in ("RIB", "SKIN")}
    assert wide == {"RIB": pytest.approx(564 - 13, abs=0.05), "SKIN": pytest.approx(564, abs=0.05)}
    words = " ".join(w.text for w in template.words)
    assert "dashed line is the face of the skin" in words and "finished edge" not in words


@pytest.mark.parametrize("data", [RIB, BIG_SWEEP], ids=["rib", "hook"])
@pytest.mark.parametrize("paper", ["a4", "letter"])
def test_the_face_on_paper_is_a_circle_of_the_right_radius(data, paper):
    """Every sheet rendered at 300 dpi, its black line put back where its window lies on the drawing, and fitted."""
    job = read_job(data)
    made = plan(job)
    face = next(c for c in form_template(job, made, "mm").chains if c.layer == "FACE")
    alone = Template("face", [face])
    _, sheets = laid_out(alone, paper)
    raw = template_pdf(job, made, alone, paper=paper, unit="mm")
    mm = 25.4 / 300
    found = []
    with pdfplumber.open(io.BytesIO(raw)) as file:
        name = sheet_name(*sheets.used[0])
        first = next(i for i, page in enumerate(file.pages) if f"\n{name} face" in (page.extract_text() or ""))
        for page, (column, row) in zip(file.pages[first:], sheets.used, strict=False):
            picture = np.asarray(page.to_image(resolution=300, antialias=True).original.convert("L"))
            low = MARGIN_MM + FOOT_MM
            rows, columns = np.nonzero(picture < 12)
            x, y = (columns + 0.5) * mm, sheets.page[1] - (rows + 0.5) * mm
            inside = (
                (x > MARGIN_MM + 1)
                & (x < sheets.page[0] - MARGIN_MM - 1)
                & (y > low + 1)
                & (y < sheets.page[1] - MARGIN_MM - 1)
            )
            left, bottom = sheets.corner(column, row)
            found.append(np.column_stack((x[inside] - MARGIN_MM + left, y[inside] - low + bottom)))
    points = np.vstack(found)
    centre, radius = circle_through(points)
    assert radius == pytest.approx(made.face_figures.least_radius_mm, abs=0.15)
    off = np.abs(np.hypot(*(points - centre).T) - radius)
    assert np.quantile(off, 0.995) < 0.3  # the line is 0.32 mm wide; a bent handle would leave it by millimetres
    assert len(points) * mm**2 / 0.32 == pytest.approx(made.face_figures.length_mm, rel=0.25)


@pytest.mark.parametrize("paper", ["a4", "letter"])
def test_nothing_runs_off_a_page(paper):
    """A long face has many offsets, a form of ribs many parts: both go on over as many pages as they take."""
    u = {"kind": "u", "face": "inner", "left_leg_mm": 900, "left_radius_mm": 160, "flat_mm": 300}
    u |= {"right_radius_mm": 160, "right_leg_mm": 900, "left_lean_deg": -8, "right_lean_deg": -8}
    form = {"kind": "three_part", "build": "ribs", "depth_mm": 120, "goods": "plywood"}
    data = {**RIB, "name": "W" * 110, "shape": u, "part": {"thickness_mm": 20, "width_mm": 300}, "form": form}
    raw, made = exported("pdf", data, paper)
    assert len(made.offsets) > 36 and len(made.build.parts) > 8
    texts = []
    with pdfplumber.open(io.BytesIO(raw)) as file:
        for page in file.pages:
            words = page.extract_words()
            text = " ".join(word["text"] for word in words)
            # a sheet's drawing is cut off where the next one goes on; other pages are whole
            is_sheet = "parts of the form" not in text and "Offsets of the face" not in text and bool(texts)
            for word in words:
                unseen = not (0 <= word["top"] < page.height and 0 <= word["x0"] < page.width)
                if unseen or (is_sheet and not word["text"].endswith("…")):
                    continue
                assert word["x0"] >= 5 and word["x1"] <= page.width - 5 and word["bottom"] <= page.height - 5, word
            texts.append(text)
    said = " ".join(texts)
    for part in made.build.parts:
        assert part.name in said, part.name
    cover = texts[0] + texts[1]
    heights = {f"{o.height_mm:.1f}".rstrip("0").rstrip(".").replace("-", "−") for o in made.offsets}
    assert sum(h in cover for h in heights) >= len(heights) * 0.98


def test_a_form_of_thirty_metres_is_a_sentence_or_a_file_in_time(monkeypatch):
    frame = frame_of_thirty_metres()
    a4, a3 = (len(laid_out(frame[2], paper)[1].used) for paper in ("a4", "a3"))
    monkeypatch.setattr("bright_willow.drawing.template_pdf.MOST_SHEETS", a4 - 1)
    with pytest.raises(PlanError, match="sheets of A4, too many to join"):
        template_pdf(*frame, paper="a4", unit="mm")
    with Measured() as took:
        assert a3 < a4 and template_pdf(*frame, paper="a3", unit="mm").startswith(b"%PDF")
    assert took.seconds < 5


def frame_of_thirty_metres():
    way = {
        "way": "steam_strap",
        "shape": {"kind": "arc_by_chord", "face": "inner", "chord_mm": 18_000, "rise_mm": 9_500},
    }
    job = read_job({**RIB, **way})
    made = plan(job)
    return job, made, frame_template(job, made, "mm")


@pytest.mark.parametrize(("press", "listed"), [("clamps", True), ("vacuum", False), ("band", False)])
def test_clamps_are_listed_only_where_clamps_press(press, listed):
    job = read_job({**RIB, "build_up": {**RIB["build_up"], "press": press}})
    raw = EXPORTS["pdf"].make(job, plan(job), "mm", "a4")
    with pdfplumber.open(io.BytesIO(raw)) as pdf:
        text = " ".join(page.extract_text() or "" for page in pdf.pages)
    assert ("clamps that open" in text) == listed


def test_marks_of_ones_own_are_on_template_stick_board_and_labels():
    marks = [{"name": "notch", "at_mm": 180}, {"name": "this face inside", "at_mm": 0, "counted_from": "center"}]
    plain, job = (read_job({**RIB, "part": {**RIB["part"], "marks": m}}) for m in ([], marks))
    before, made = plan(plain), plan(job)
    lines = [
        sum(c.layer == "MARKS" for c in form_template(j, p, "mm").chains) for j, p in ((plain, before), (job, made))
    ]
    words = [t.text for t in form_template(job, made, "mm").words]
    assert lines[1] == lines[0] + 2 and words.count("notch") == 1 and words.count("this face inside") == 1
    with pdfplumber.open(io.BytesIO(story_stick_pdf(job, made, paper="a4", unit="mm"))) as stick:
        rows = [page.extract_text() for page in stick.pages]
        rotated = [(n, c) for n, page in enumerate(stick.pages) for c in page.chars if not c["upright"]]
    assert sum("this face inside" in text for text in rows) >= 1
    on_another = [
        (a["text"], b["text"])
        for i, (page, a) in enumerate(rotated)
        for other, b in rotated[i + 1 :]
        if page == other
        and min(a["x1"], b["x1"]) - max(a["x0"], b["x0"]) > 1.5
        and min(a["bottom"], b["bottom"]) - max(a["top"], b["top"]) > 1.5
    ]
    assert on_another == []  # two texts at the center are written side by side
    svg = board_svg(job, made, stage="shape", unit="mm")
    assert svg.count('class="own-mark"') == 2 and svg.count("own-name") == 2 and ">notch<" in svg
    form = board_svg(job, made, stage="form", unit="mm")
    assert form.count('class="own-mark"') == 4  # across the strip, and on the face of the form
    assert "own-mark" not in board_svg(plain, before, stage="form", unit="mm")
