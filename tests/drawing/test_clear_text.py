"""No word of a template lies on a line or on another word, and no text of a paper on another."""

import numpy as np
import pypdfium2
import pytest
import shapely
from shapely.geometry import LineString

from bright_willow.core.common.errors import PlanError
from bright_willow.core.plan.plan import plan
from bright_willow.demo.marrow_lane import EXAMPLES, SHOP
from bright_willow.drawing.clear_text import LEAST_HIGH_MM, cleared, text_box
from bright_willow.drawing.form_on_paper import FormOnPaper
from bright_willow.drawing.job_pack import pack_papers
from bright_willow.drawing.template import form_template
from bright_willow.drawing.template_lines import Chain, Template, TemplateText
from bright_willow.drawing.tiling import laid_out

JOBS = [e.job for e in EXAMPLES]


def planned(job, unit):
    return plan(job, SHOP.model_copy(update={"units": unit}))


@pytest.mark.parametrize("unit", ["mm", "in"])
@pytest.mark.parametrize("job", JOBS, ids=lambda j: j.name)
def test_no_word_of_a_form_lies_on_a_line_or_a_word(job, unit):
    made = planned(job, unit)
    try:
        template = form_template(made.job, made, made.shop.rule)
    except PlanError:
        return
    lines = shapely.STRtree([LineString(chain.dense(2.0)) for chain in template.chains])
    boxes = [text_box(text) for text in template.words]
    assert [t.text for t, b in zip(template.words, boxes, strict=True) if lines.query(b, "intersects").size] == []
    assert [i for i, b in enumerate(boxes) if any(b.intersects(other) for other in boxes[:i])] == []
    assert all(t.height_mm >= LEAST_HIGH_MM for t in template.words) and any(job.name in t.text for t in template.words)


def test_text_stays_where_it_is_clear_and_moves_together_where_it_is_not():
    frame = [Chain.line("BODY", (-150, -100), (150, -100), (150, 100), (-150, 100), (-150, -100))]
    block = [TemplateText(0, 0, "Gate arch"), TemplateText(0, -9, "this face to the wood")]
    assert cleared(Template("", list(frame), list(block))).words == block
    crossed = cleared(Template("", [*frame, Chain.line("MARKS", (-60, -4), (60, -4))], list(block))).words
    moved = {(round(b.x - a.x, 6), round(b.y - a.y, 6)) for a, b in zip(block, crossed, strict=True)}
    assert len(moved) == 1 and 3.9 < np.hypot(*next(iter(moved))) <= 20
    assert [t.height_mm for t in crossed] == [6.0, 6.0]
    narrow = [Chain.line("MARKS", (-180, y), (180, y)) for y in np.arange(-130, 131, 5.9)]
    small = cleared(Template("", [*frame, *narrow], list(block))).words
    lines = shapely.STRtree([LineString(chain.dense(2.0)) for chain in narrow])
    assert not any(lines.query(text_box(t), "intersects").size for t in small)


@pytest.mark.parametrize("job", JOBS[1::3], ids=lambda j: j.name)
def test_every_word_of_a_form_is_whole_on_one_sheet_and_still_clear(job):
    made = planned(job, "mm")
    try:
        template, sheets = laid_out(form_template(made.job, made, made.shop.rule), "a4")
    except PlanError:
        return
    whole = cleared(template, sheets.windows)
    (wide, high), boxes = sheets.tile, [text_box(text) for text in whole.words]
    tiles = [shapely.box(x, y, x + wide, y + high) for x, y in (sheets.corner(*s) for s in sheets.used)]
    assert [t.text for t, b in zip(whole.words, boxes, strict=True) if not any(x.contains(b) for x in tiles)] == []
    lines = shapely.STRtree([LineString(chain.dense(2.0)) for chain in whole.chains])
    assert not any(lines.query(b, "intersects").size for b in boxes)
    assert sorted(t.text for t in whole.words) == sorted(t.text for t in template.words)


@pytest.mark.parametrize("unit", ["mm", "in"])
def test_the_figures_of_the_form_stand_on_its_drawing_and_measure_what_they_say(unit):
    """A trellis bow, by hand: each line, back to full size, is as long as its text says; no text lies on a line."""
    made = planned(next(j for j in JOBS if j.name == "Trellis bow for the espaliers"), unit)
    picture, of_mm = FormOnPaper(made, 190.0, 92.0, made.shop.rule), 25.4 if unit == "in" else 1.0
    figures = {f.text.split()[0]: f for f in picture.figures}
    assert list(figures) == ["chord", "rise", "form"] and picture.missing == []
    face = made.face_figures
    for name, mm in (("chord", face.chord_mm), ("rise", face.rise_mm)):
        (x0, y0), (x1, y1) = figures[name].line
        assert np.hypot(x1 - x0, y1 - y0) / picture.scale == pytest.approx(mm, rel=1e-3), name
    shown = figures["rise"].text.removeprefix("rise ").removesuffix(f" {unit}").replace(" ", "+").replace("/", "/1.0/")
    assert eval(shown) * of_mm == pytest.approx(face.rise_mm, abs=0.8)
    edges = [LineString(np.vstack((p, p[:1]))) for p in (picture.body, picture.blank)]
    for n, figure in enumerate(picture.figures):
        others = [f for m, f in enumerate(picture.figures) if m != n]
        assert not any(figure.box.intersects(edge) for edge in edges), figure.text
        assert not any(figure.box.intersects(f.box) or figure.box.intersects(LineString(f.line)) for f in others)
    assert picture.size_mm[0] == 190.0 and np.ptp(picture.blank[:, 0]) > 0.6 * 190


@pytest.mark.parametrize("paper", ["a4", "letter"])
@pytest.mark.parametrize("job", JOBS[::3], ids=lambda j: j.name)
def test_no_text_of_a_paper_lies_on_another_or_off_the_page(job, paper):
    made = planned(job, "in" if paper == "letter" else "mm")
    for key, pages in (
        ("sheet", None),
        ("form", 1),
        ("cutlist", None),
        ("labels", None),
    ):  # of a form the first page: the rest is clipped
        for body in pack_papers(made, [key], paper=paper, unit=made.shop.rule)[0]:
            document = pypdfium2.PdfDocument(body)
            for n in range(len(document) if pages is None else pages):
                text, (wide, high) = document[n].get_textpage(), document[n].get_size()
                boxes = [text.get_rect(i) for i in range(text.count_rects())]
                for i, (left, low, right, top) in enumerate(boxes):
                    assert left >= 0 and right <= wide and low >= 0 and top <= high, (key, n)
                    for other in boxes[:i]:
                        across = min(right, other[2]) - max(left, other[0])
                        up = min(top, other[3]) - max(low, other[1])
                        assert across <= 1 or up <= 0.3 * min(top - low, other[3] - other[1]), (key, n)
            document.close()
