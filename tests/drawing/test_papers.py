"""What is printed and taken along of Prepare and Press, read back: boards, labels, cut list, shop sheet, sections."""

import io
import re
from xml.etree.ElementTree import fromstring

import ezdxf
import pdfplumber
import pypdfium2
import pytest
from reportlab.pdfgen.canvas import Canvas

from bright_willow.core.common.errors import PlanError
from bright_willow.core.heat.drying_restraint import held
from bright_willow.core.methods.method_registry import WAYS
from bright_willow.core.plan.plan import plan
from bright_willow.core.plan.read_job import read_job
from bright_willow.core.shape.curve import Curve
from bright_willow.core.shop.labels import label_places
from bright_willow.core.shop.shop import Shop
from bright_willow.demo.marrow_lane import EXAMPLES, SHOP
from bright_willow.drawing.cut_list_pdf import cut_list_pdf, labels_pdf
from bright_willow.drawing.flowing import MM, flow, words
from bright_willow.drawing.frame_drawing import frame_svg
from bright_willow.drawing.layout_template import layout_template
from bright_willow.drawing.moves_drawing import moves_svg
from bright_willow.drawing.prepare_drawing import lengths_svg, sections_svg
from bright_willow.drawing.section_drawing import section_svg
from bright_willow.drawing.shop_sheet import shop_sheet_pdf
from bright_willow.drawing.steps import steps_of
from bright_willow.drawing.template import frame_template
from bright_willow.drawing.template_dxf import template_dxf
from bright_willow.drawing.template_svg import template_svg
from tests.conftest import RIB
from tests.core.methods.jobs import job_for
from tools.yardstick import Measured

BOARDS = {"length_mm": 2700, "boards": 5, "flaws": [{"board": 1, "start_mm": 2400, "end_mm": 2460}]}
PT = 25.4 / 72


@pytest.fixture(scope="module")
def rib_plan():
    return plan(read_job({**RIB, "prepare": BOARDS, "glue_up": {"by_weight": 25}}))


def text_of(raw):
    with pdfplumber.open(io.BytesIO(raw)) as file:
        return [" ".join((page.extract_text() or "").split()) for page in file.pages]


def test_the_boards_in_dxf_and_svg_are_as_large_as_they_are(rib_plan, tmp_path):
    ready = rib_plan.prepared
    template = layout_template(rib_plan.job, ready, "mm")
    path = tmp_path / "boards.dxf"
    path.write_text(template_dxf(template))
    drawing = ezdxf.readfile(path)
    assert drawing.units == ezdxf.units.MM
    sizes = {}
    for line in drawing.modelspace().query("LWPOLYLINE"):
        xs, ys = zip(*((x, y) for x, y, *_ in line.get_points()), strict=True)
        sizes.setdefault(line.dxf.layer, []).append((round(max(xs) - min(xs), 3), round(max(ys) - min(ys), 3)))
    boards = len(ready.cut.boards)
    assert sizes["BOARD"].count((2700, 150)) == boards and sizes["BOARD"].count((52, 150)) == boards
    assert sizes["FLAW"] == [(60, 150)]
    thick, wide = ready.strips.kinds[0].thick_mm, ready.strips.wide_mm
    in_section = [s for s in sizes["STRIP"] if sorted(s) == sorted((round(thick, 3), round(wide, 3)))]
    assert len(in_section) == sum(b.lengths[0].strips for b in ready.cut.boards)
    edges = {}
    for line in drawing.modelspace().query("LWPOLYLINE"):
        xs, ys = zip(*((x, y) for x, y, *_ in line.get_points()), strict=True)
        edges.setdefault(line.dxf.layer, []).append((min(xs), min(ys), max(xs), max(ys)))
    for layer in ("STRIP", "KEPT", "FLAW"):
        for a, b, c, d in edges[layer]:  # each lies in a board, or in the section of one
            assert any(
                x <= a + 1e-6 and y <= b + 1e-6 and c <= u + 1e-6 and d <= v + 1e-6 for x, y, u, v in edges["BOARD"]
            ), (layer, a, b, c, d)
    in_sections = [e for e in edges["STRIP"] if e[2] <= 0]
    assert all(
        max(a[0] - b[2], b[0] - a[2], a[1] - b[3], b[1] - a[3]) >= ready.strips.kerf_mm - 1e-6
        for i, a in enumerate(in_sections)
        for b in in_sections[:i]
    )
    words = {t.dxf.text for t in drawing.modelspace().query("TEXT")}
    assert set(ready.cut.boards[0].labels[: ready.cut.boards[0].lengths[0].strips]) <= words
    root = fromstring(template_svg(template))
    assert root.get("width").endswith("mm")
    assert {g.get("id") for g in root} >= {"BOARD", "STRIP", "FLAW", "TEXT"}


def test_on_the_screen_every_strip_and_flaw_is_there_to_scale(rib_plan):
    ready, flaws = rib_plan.prepared, rib_plan.job.prepare.flaws
    root = fromstring(sections_svg(ready, "mm"))
    steps = [g for g in root.iter() if "step" in (g.get("class") or "").split()]
    assert len(steps) == len(ready.cut.boards) and sum("now" in s.get("class").split() for s in steps) == 1
    for step, board in zip(steps, ready.cut.boards, strict=True):
        strips = [e for e in step.iter() if e.get("class") == "strip"]
        assert len(strips) == board.lengths[0].strips
        (whole,) = [e for e in step.iter() if e.get("class") == "board-wood"]
        assert (float(whole.get("width")), float(whole.get("height"))) == (150, 52)
        assert float(strips[0].get("width")) * float(strips[0].get("height")) == pytest.approx(
            ready.strips.kinds[0].thick_mm * ready.strips.wide_mm, rel=1e-3
        )
    along = fromstring(lengths_svg(ready, flaws, "mm"))
    (flaw,) = [e for e in along.iter() if e.get("class") == "flaw"]
    assert (float(flaw.get("x")), float(flaw.get("width"))) == (2400, 60)
    assert [e.get("data-handle") for e in along.iter() if e.get("data-handle")] == ["flaw-0"]


@pytest.mark.parametrize("paper", ["a4", "letter"])
def test_a_label_for_every_strip_inside_its_place(rib_plan, paper):
    shop = Shop(label_paper=paper, label_rows=7)
    raw = labels_pdf(rib_plan.job, rib_plan.prepared, shop)
    places, labels = label_places(shop), rib_plan.prepared.cut.labels
    with pdfplumber.open(io.BytesIO(raw)) as file:
        assert len(file.pages) == -(-len(labels) // len(places))
        found = {}
        for number, page in enumerate(file.pages):
            for word in page.extract_words():
                if word["text"] in labels:
                    spot = next(
                        i
                        for i, (x, y) in enumerate(places)
                        if x <= word["x0"] * PT <= x + shop.label_wide_mm
                        and y <= word["top"] * PT <= y + shop.label_high_mm
                    )
                    assert word["x1"] * PT <= places[spot][0] + shop.label_wide_mm
                    assert word["bottom"] * PT <= places[spot][1] + shop.label_high_mm
                    found[word["text"]] = number * len(places) + spot
    assert set(found) == set(labels) and len(set(found.values())) == len(labels)
    first = text_of(raw)[0]
    assert "Rib" in first and "piece 1" in first and "ply 1" in first and "this face up" in first


@pytest.mark.parametrize("unit", ["mm", "in"])
def test_the_cut_list_has_every_strip_once(rib_plan, unit):
    pages = text_of(cut_list_pdf(rib_plan.job, rib_plan.prepared, paper="a4", unit=unit))
    words = " ".join(pages).split()
    assert all(words.count(label) == 1 for label in rib_plan.prepared.cut.labels)
    with pytest.raises(PlanError):
        cut_list_pdf(rib_plan.job, rib_plan.prepared, paper="napkin", unit=unit)


def test_a_strip_has_one_box_to_tick_and_boards_sawn_alike_one_section(rib_plan):
    """Counted in the file: squares of the box's size, and white rectangles of the sections as wide as their strips."""
    ready = rib_plan.prepared
    rects, sections = [], {}
    with pdfplumber.open(io.BytesIO(cut_list_pdf(rib_plan.job, ready, paper="a4", unit="mm"))) as file:
        for page in file.pages:
            rects += [(r["width"] * PT, r["height"] * PT) for r in page.rects]
    assert sum(
        wide == pytest.approx(4.5, abs=0.05) and high == pytest.approx(4.5, abs=0.05) for wide, high in rects
    ) == len(ready.cut.labels)
    for board in ready.cut.boards:
        first = board.lengths[0].sawn
        sections[tuple((round(s.places[0].x_mm), round(s.places[0].y_mm)) for s in first)] = board
    drawn = [(board, (190 - 48) / board.board.width_mm, 46 / board.board.thickness_mm) for board in sections.values()]
    for board, by_width, by_height in drawn:
        scale, place = min(by_width, by_height), board.lengths[0].sawn[0].places[0]
        like = [w for w, h in rects if h == pytest.approx(place.high_mm * scale, abs=0.05)]
        assert sum(w == pytest.approx(place.wide_mm * scale, abs=0.05) for w in like) >= board.lengths[0].strips


def test_boards_sawn_otherwise_have_a_section_of_their_own():
    made = plan(next(e.job for e in EXAMPLES if e.job.name == "Orchard shelter rib"), SHOP)
    text = " ".join(text_of(cut_list_pdf(made.job, made.prepared, paper="a4", unit="mm")))
    assert text.count("Boards A, B: 24 strips") == 1 and text.count("Board C: 15 strips") == 1


@pytest.mark.parametrize("way", WAYS)
def test_the_sheet_of_one_page_is_as_wide_as_the_paper_and_has_each_blank_on_its_own_line(way):
    made = plan(job_for(way))
    raw = shop_sheet_pdf(made.job, made, paper="a4", unit="mm", one_page=True)
    with pdfplumber.open(io.BytesIO(raw)) as file:
        (page,) = file.pages
        blanks = [x for x in page.lines + page.rects if 29 < x["width"] * PT < 33 and x["height"] < 2]
        right = max(x["x1"] for x in page.lines + page.rects) * PT
    assert len(blanks) == sum(len(step.record) for step in steps_of(made)) and right > 190
    places = {(round(b["x0"]), round(b["top"])) for b in blanks}
    assert len(places) == len(blanks) and len({x for x, _ in places}) <= 2


@pytest.mark.parametrize("way", WAYS)
@pytest.mark.parametrize("paper", ["a4", "letter"])
def test_the_shop_sheet_is_made_of_the_operations(way, paper):
    made = plan(job_for(way))
    shop_sheet_pdf(made.job, made, paper=paper, unit="mm")
    with Measured() as took:
        raw = shop_sheet_pdf(made.job, made, paper=paper, unit="mm")
    assert took.seconds < 0.5
    said = " ".join(text_of(raw))
    one = pypdfium2.PdfDocument(shop_sheet_pdf(made.job, made, paper=paper, unit="mm", one_page=True))
    short = " ".join(one[0].get_textpage().get_text_range().split())  # column by column, as it is written
    for step in steps_of(made):
        for text in (said, short):
            assert f"{step.number} {step.name}" in text, step.name
            assert all(line.split(".")[0][:40] in text for line in step.steps)
        assert all(item in said for item in step.record)
        assert all(item in said for item in step.lay_out)
    assert all(c[:40] in said and c[:40] in short for c in made.cautions)
    wide, high = (210, 297) if paper == "a4" else (215.9, 279.4)
    assert len(one) == 1 and [v * PT for v in one[0].get_size()] == pytest.approx([wide, high], abs=0.1)
    picture = pypdfium2.PdfDocument(raw)[0].render(scale=0.5).to_pil().convert("RGB")
    assert all(r == g == b for _, (r, g, b) in picture.getcolors(1 << 20))


@pytest.mark.parametrize("way", WAYS)
def test_what_lies_on_what_is_drawn_thing_by_thing(way):
    made = plan(job_for(way))
    assert made.lies_on, way
    for section in made.lies_on:
        said = " ".join("".join(e.itertext()) for e in fromstring(section_svg(section, "mm")).iter())
        assert all(layer.name.split(":")[-1].split(",")[0].strip() in said for layer in section.layers)


def test_order_on_a_vacuum_press_and_under_a_blanket():
    bag = plan(job_for("cold_lamination", build_up={"press": "vacuum", "cauls": 1, "tape_after": 5}))
    of = [x.of for x in bag.lies_on[0].layers]
    assert of == ["platen", "form", "film", *["wood"] * 5, "tape", *["wood"] * 5, "film", "caul", "breather", "bag"]
    hot = [x.of for x in plan(job_for("blanket")).lies_on[-1].layers]
    assert hot == ["form", "slat", "paper", "wood", "paper", "slat", "heater", "slat"]


def test_moves_follow_one_another_and_fit_the_window_or_not():
    made = plan(job_for("steam_strap", heat={"hands": 2, "moves": 9, "carry_s": 22, "clamp_s": 12}))
    moves, steam = made.moves, made.hot.heat.steam
    assert [m.to_s for m in moves[:-1]] == [m.from_s for m in moves[1:]] and moves[0].from_s == 0
    assert moves[-1].to_s == steam.handling_s == 22 + 10 + 9 * 6
    root = fromstring(moves_svg(moves, steam.window_s))
    bars = [e for e in root.iter() if "move-bar" in (e.get("class") or "")]
    lasts = [m.to_s - m.from_s for m in moves]
    widths = [float(b.get("width")) for b in bars]
    assert [w / widths[0] for w in widths] == pytest.approx([t / lasts[0] for t in lasts], rel=0.01)
    late = sum("late" in b.get("class") for b in bars)
    assert late == sum(m.to_s > steam.window_s for m in moves) > 0
    pulls = plan(job_for("steam_strap", heat={"wall": "bag", "in_bag": True})).moves
    assert pulls and all("pull until" in m.message.lower() for m in pulls)


def test_what_holds_it_while_it_dries():
    bend = Curve.of([300.0, 314.159265, 200.0], [0.0, 0.005, 0.0])
    made = held(bend, 20.0, "disc")
    assert made.disc[2] == pytest.approx(190) and made.strip_mm == pytest.approx(made.opening_mm + 120)
    flat = held(Curve.of([500.0], [0.0]), 20.0, "disc")
    assert flat.disc is None and "use a frame" in flat.message("mm")
    mirrored = held(bend.mirrored(), 20.0, "disc")
    assert mirrored.opening_mm == pytest.approx(made.opening_mm) and mirrored.lean_deg == pytest.approx(
        made.lean_deg[::-1]
    )
    for by, layer in (("frame", None), ("tie", None), ("strip", "SKIN"), ("disc", "SKIN")):
        job = job_for("steam_strap", heat={"held_by": by})
        own = plan(job)
        template = frame_template(job, own, "mm")
        assert any(c.layer == "SKIN" for c in template.chains) == (layer is not None), by
        assert own.hot.drying.held.message("mm").split(",")[0].rstrip(".") in " ".join(w.text for w in template.words)
        drawn = fromstring(frame_svg(own, own.hot, "mm"))
        blocks = sum(1 for e in drawn.iter() if e.get("class") == "stop-block")
        assert blocks == {"frame": 4, "tie": 0, "strip": 1, "disc": 1}[by]
        taken = [t.what for o in own.operations if o.kind == "to_frame" for t in o.takes]
        assert taken == (["frame"] if by == "frame" else [])
        (x, y, r), mid = own.hot.drying.held.disc, own.bend.target
        gap = ((mid.cut_finer(400).points_mm - (x, y)) ** 2).sum(axis=1) ** 0.5
        assert gap.min() == pytest.approx(r + job.part.thickness_mm / 2, abs=0.5)
        assert (gap < gap.min() + 0.5).mean() > 0.2  # all of the bend lies round it, not one place


@pytest.mark.parametrize("lines", range(42, 50))
def test_a_heading_never_stands_alone_at_the_foot_of_a_sheet(lines):
    out = io.BytesIO()
    canvas = Canvas(out, pagesize=(210 * MM, 297 * MM))
    story = [words(f"line {n}") for n in range(lines)] + [words("Lay out", size=14.5, bold=True), words("clamps")]
    sheets = flow(canvas, story, (210.0, 297.0), foot=lambda c: None)
    canvas.save()
    with pdfplumber.open(io.BytesIO(out.getvalue())) as made:
        texts = [p.extract_text() for p in made.pages]
    assert sheets == len(texts) and not any(t.rstrip().endswith("Lay out") for t in texts)
    assert "Lay out\nclamps" in texts[-1]


def test_a_few_strips_of_a_full_section_are_numbered():
    rib = plan(EXAMPLES[4].job, SHOP)
    numbers = re.findall(r'class="note on-wood"[^>]*>(\d+)<', str(sections_svg(rib.prepared, "mm")))
    first = rib.prepared.cut.boards[0].lengths[0]
    assert len(first.sawn) == 24 and numbers[:4] == ["1", "7", "13", "19"]
