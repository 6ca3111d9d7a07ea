"""Pictures of jobs and pieces: kept small and without their place; measured on; turned into a shape; refused in words."""

from __future__ import annotations

import io
from functools import cache

import numpy as np
import pytest
from PIL import Image

from bright_willow.core.measuring.built_form import BuiltForm
from bright_willow.core.measuring.profile_readings import read
from bright_willow.drawing.picture_files import KEPT_BYTES
from bright_willow.store.store import Store
from tests.web.test_runs import Shop
from tools.pictured import Laid, jpeg

JOB, K = 2, 1.25
PARTS = {"x-parts": "yes"}


@pytest.fixture
def shop(store):
    made = Shop(store)
    yield made
    made.app.state.reader.stop()


@cache
def taken(built: BuiltForm) -> tuple[Laid, bytes]:
    laid = Laid.of(built, K, "outer")
    return laid, laid.photo()


def built_of(shop) -> BuiltForm:
    with shop.store.connected():
        return shop.store.forms.find(JOB)[-1].built


def added(shop, body: bytes) -> int:
    answer = shop.client.post(f"/jobs/{JOB}/photo?measure=yes", files={"photo": ("a.jpg", body)}, follow_redirects=False)  # fmt: skip
    assert answer.status_code == 303, answer.text
    return int(answer.headers["location"].rsplit("/", 1)[1])


def put(shop, picture: int, spot, **more):
    return shop.client.post(f"/pictures/{picture}/mark", params={"x": spot[0], "y": spot[1], **more}, headers=PARTS)


def marked(shop) -> tuple[int, Laid]:
    """A picture of a piece of the job, its sheet and its outer face marked by a hand that is off by some dots."""
    laid, body = taken(built_of(shop))
    picture, dice = added(shop, body), np.random.default_rng(2)
    for spot in (*laid.camera.px(laid.sheet), *laid.camera.px(laid.face)):
        answer = put(shop, picture, spot + dice.uniform(-4, 4, 2))
        assert answer.status_code == 200
    return picture, laid


def test_a_piece_is_measured_on_a_picture_and_written_down(shop):
    picture, laid = marked(shop)
    with shop.store.connected():
        marks = shop.store.pictures.get(picture).marks
    assert np.abs(np.array(marks.corners) - laid.camera.px(laid.sheet)).max() < 1  # drawn to the corners
    page = shop.client.get(f"/pictures/{picture}").text
    assert "measured ÷ calculated" in page and "More points are better" in page
    answer = shop.client.post(f"/pictures/{picture}/piece", data={"label": "p9", "day": "2026-11-20", "face": "outer"})
    assert answer.status_code == 200 and "p9" in answer.text and "by 11 points on a picture" in answer.text
    with shop.store.connected():
        form = shop.store.forms.find(JOB)[-1]
        piece = next(p for p in form.pieces if p.label == "p9")
        assert shop.store.pictures.get(picture).piece_id == piece.id
        taught = {p: bend for _, p, bend in shop.store.training.by_piece()}
    m = piece.measurements[0]
    chord, rise, _ = form.built.on_face(form.built.bent_by(K), "outer")
    assert (m.chord_mm, m.rise_mm) == (pytest.approx(chord, abs=0.5), pytest.approx(rise, abs=0.5))
    assert piece.id in taught and len(read(m.readings).by.points_mm) == 11
    again = shop.client.post(f"/pictures/{picture}/piece", data={"again": str(piece.id), "day": "2026-11-25", "face": "outer"})  # fmt: skip
    assert again.status_code == 200
    with shop.store.connected():
        assert len(shop.store.pieces.get(piece.id)[1].measurements) == 2


def test_it_becomes_the_shape_of_the_job_and_is_undone(shop):
    picture, _ = marked(shop)
    with shop.store.connected():
        before = shop.store.jobs.get(JOB).job
    answer = shop.client.post(f"/pictures/{picture}/shape", data={"face": "outer"})
    assert answer.status_code == 200
    with shop.store.connected():
        job = shop.store.jobs.get(JOB).job
        built = shop.store.forms.find(JOB)[-1].built
    assert job.shape.kind == "outline" and job.shape.face == "outer" and len(job.shape.points_mm) == 11
    chord, rise = job.shape.face_curve().chord_and_rise_mm()
    want_chord, want_rise, _ = built.on_face(built.bent_by(K), "outer")
    assert (chord, rise) == (pytest.approx(want_chord, abs=1), pytest.approx(want_rise, abs=1))
    shop.client.post(f"/jobs/{JOB}/shape/undo")
    with shop.store.connected():
        assert shop.store.jobs.get(JOB).job == before


def test_marks_are_moved_taken_out_and_stay(shop):
    picture, laid = marked(shop)
    there = laid.camera.px(laid.face)[3]
    put(shop, picture, there + np.array([6.0, 1.0]), name="point-3", snap="no")
    with shop.store.connected():
        exact = shop.store.pictures.get(picture).marks.points[3]
    assert exact == pytest.approx(tuple(there + np.array([6.0, 1.0])))  # as it was put, drawn nowhere
    for path, left in (("?name=point-3", (4, 10)), ("", (4, 9)), ("?everything=points", (4, 0)), ("?everything=yes", (0, 0))):  # fmt: skip
        assert shop.client.post(f"/pictures/{picture}/unmark{path}", headers=PARTS).status_code == 200
        with shop.store.connected():
            marks = shop.store.pictures.get(picture).marks
        assert (len(marks.corners), len(marks.points)) == left
    assert shop.client.post(f"/pictures/{picture}/unmark", headers=PARTS).status_code == 200  # nothing left to take out
    put(shop, picture, (-50.0, 99_000.0), snap="no")
    with shop.store.connected():
        kept = shop.store.pictures.get(picture)
    assert kept.marks.corners == ((0.0, float(kept.high)),)  # on the picture


def test_the_wrong_face_is_found_out(shop):
    picture, _ = marked(shop)
    page = shop.client.get(f"/pictures/{picture}?face=inner").text
    assert "but that face of the piece is" in page and "Save measurement" not in page
    answer = shop.client.post(f"/pictures/{picture}/piece", data={"label": "x", "day": "2026-11-20", "face": "inner"})
    assert answer.status_code == 422


@pytest.mark.parametrize(
    ("size", "name", "message"),
    [
        ({"across": "nine", "up": "210"}, "across", "ph-across-fault"),
        ({"across": "297", "up": "-3"}, "up", "ph-up-fault"),
        ({"across": "40 m", "up": "210"}, "across", "ph-across-fault"),
    ],
)
def test_a_size_that_is_none_is_said_and_kept_in_its_field(shop, size, name, message):
    picture = added(shop, jpeg(Image.new("RGB", (640, 480), "white")))
    answer = shop.client.post(f"/pictures/{picture}/size", data={"by": "rectangle", **size}, headers=PARTS)
    assert answer.status_code == 422 and f'id="{message}"' in answer.text and f'value="{size[name]}"' in answer.text
    with shop.store.connected():
        assert shop.store.pictures.get(picture).marks is None
    inches = {"by": "bar", "across": "1 in", "up": ""}
    assert shop.client.post(f"/pictures/{picture}/size", data=inches, headers=PARTS).status_code == 200
    with shop.store.connected():
        assert (shop.store.pictures.get(picture).marks.by, shop.store.pictures.get(picture).marks.across_mm) == (
            "bar",
            25.4,
        )


def test_the_sheet_is_the_shop_s_paper_and_is_not_rounded_away(shop):
    picture = added(shop, jpeg(Image.new("RGB", (640, 480), "white")))
    assert 'value="297"' in shop.client.get(f"/pictures/{picture}").text
    shop.client.post("/units?to=in")
    assert 'value="11"' in (page := shop.client.get(f"/pictures/{picture}").text) and 'value="8 1/2"' in page
    shop.client.post(f"/pictures/{picture}/size", data={"by": "rectangle", "across": "297.3 mm", "up": "8 1/2"})
    page = shop.client.get(f"/pictures/{picture}").text
    shown = page.split('name="across"')[1].split('value="')[1].split('"')[0]
    shop.client.post(f"/pictures/{picture}/size", data={"by": "rectangle", "across": shown, "up": "8 1/2"})
    with shop.store.connected():
        marks = shop.store.pictures.get(picture).marks
    assert (marks.across_mm, marks.up_mm) == (pytest.approx(297.3), pytest.approx(215.9))


def test_three_corners_in_a_line_are_said(shop):
    picture = added(shop, jpeg(Image.new("RGB", (640, 480), "white")))
    for spot in ((100, 100), (300, 101), (500, 100), (300, 400)):
        answer = put(shop, picture, spot)
    assert "are in a line" in answer.text
    put(shop, picture, (320, 200))
    data = {"label": "x", "day": "2026-11-20", "face": "outer"}
    for what in ("piece", "shape"):
        answer = shop.client.post(f"/pictures/{picture}/{what}", data=data)
        assert answer.status_code == 422 and "are in a line" in answer.text


def pixels(size, kind, **more) -> bytes:
    out = io.BytesIO()
    Image.new("RGB", size, "white").save(out, kind, **more)
    return out.getvalue()


@pytest.mark.parametrize(
    ("body", "message"),
    [
        (lambda: b"", "Choose a picture"),
        (lambda: b"\xff\xd8\xff\xe0 a text called .jpg", "not a readable JPEG or PNG"),
        (lambda: pixels((200, 100), "GIF"), "not a readable JPEG or PNG"),
        (lambda: pixels((200, 100), "PNG")[:90], "not a readable JPEG or PNG"),
        (lambda: pixels((40_000, 40), "PNG"), "too many pixels"),
        (lambda: pixels((9_000, 8_000), "PNG"), "too many pixels"),
        (lambda: pixels((4, 4), "PNG"), "too small"),
        (lambda: bytes(20_000_001), "20 MB"),
    ],
    ids=["nothing", "lies", "gif", "cut", "40,000 across", "72 million", "tiny", "heavy"],
)
def test_what_is_no_picture_is_said_beside_the_field(shop, body, message):
    answer = shop.client.post(f"/jobs/{JOB}/photo", files={"photo": ("a.jpg", body())})
    assert answer.status_code == 422 and 'id="pic-photo-fault"' in answer.text and message in answer.text
    with shop.store.connected():
        assert not shop.store.pictures.of_job(JOB)


def test_it_is_kept_upright_small_and_tells_no_place(shop):
    exif = Image.Exif()
    exif[0x0112] = 6
    exif.get_ifd(0x8825)[1] = "N"
    noisy = Image.fromarray(np.random.default_rng(1).integers(0, 255, (2448, 3264, 3), dtype=np.uint8))
    picture = added(shop, jpeg(noisy, exif=exif))
    kept = shop.client.get(f"/pictures/{picture}/body").content
    with Image.open(io.BytesIO(kept)) as opened:
        assert opened.height > opened.width and not opened.getexif() and len(kept) <= KEPT_BYTES
    _, body = taken(built_of(shop))
    with Image.open(io.BytesIO(shop.client.get(f"/pictures/{added(shop, body)}/body").content)) as opened:
        assert opened.size == (3264, 2448)  # 8 million dots stay
    small = shop.client.get(f"/pictures/{picture}/body?small=yes")
    assert len(small.content) < 60_000
    assert f"/pictures/{picture}" in shop.client.get(f"/jobs/{JOB}/pictures").text
    assert shop.client.post(f"/pictures/{picture}/remove").status_code == 200
    assert shop.client.get(f"/pictures/{picture}").status_code == 404
    assert shop.client.get(f"/pictures/{picture}/body").status_code == 404


def test_a_picture_of_a_piece_is_shown_with_it(shop):
    with shop.store.connected():
        piece = shop.store.forms.find(JOB)[-1].pieces[1]
    body = jpeg(Image.new("RGB", (640, 480), "white"))
    for said, of in ((str(piece.id), piece.id), ("99999", None), ("one", None)):
        shop.client.post(f"/jobs/{JOB}/photo", files={"photo": ("a.jpg", body)}, data={"piece": said})
        with shop.store.connected():
            assert shop.store.pictures.of_job(JOB)[0].piece_id == of
    page = shop.client.get(f"/jobs/{JOB}/pictures").text
    assert page.count(f"piece {piece.label}, ") == 1 and page.count("<img") >= 3


def test_another_picture_is_never_taken_for_one_that_was_removed(shop):
    laid, body = taken(built_of(shop))
    first = added(shop, jpeg(Image.new("RGB", (3264, 2448), "white")))
    put(shop, first, laid.camera.px(laid.sheet)[0] + 3)  # nothing to be drawn to on it
    shop.client.post(f"/pictures/{first}/remove")
    second = added(shop, body)
    assert second != first
    put(shop, second, laid.camera.px(laid.sheet)[0] + 3)
    with shop.store.connected():
        assert shop.store.pictures.get(second).marks.corners[0] == pytest.approx(
            tuple(laid.camera.px(laid.sheet)[0]), abs=1
        )


def test_a_picture_outlives_its_piece_and_the_program(shop, tmp_path):
    picture, _ = marked(shop)
    shop.client.post(f"/pictures/{picture}/piece", data={"label": "p9", "day": "2026-11-20", "face": "outer"})
    with shop.store.connected():
        piece = next(p for p in shop.store.forms.find(JOB)[-1].pieces if p.label == "p9")
    shop.client.post(f"/pieces/{piece.id}/remove")
    shop.store.close()
    opened = Store(shop.store.path.parent)
    with opened.connected():
        kept = opened.pictures.get(picture)
    assert kept.piece_id is None and len(kept.marks.points) == 11
