"""A piece measured by heights, gaps or angle on the page: kept, learnt from; what is wrong is said beside its field."""

from __future__ import annotations

import pytest

from bright_willow.core.measuring.ends_and_heights import straightened
from bright_willow.core.shape.arc import face_offset_mm
from tests.web.test_runs import Shop

JOB = 1


@pytest.fixture
def shop(store):
    made = Shop(store)
    yield made
    made.app.state.reader.stop()


def form(shop):
    with shop.store.connected():
        return shop.store.forms.find(JOB)[-1]


def post(shop, **fields):
    plain = {"label": "w1", "day": "2026-11-24", "face": "inner", "mishap": "", "chord": "", "rise": ""}
    return shop.client.post(f"/jobs/{JOB}/pieces", data=plain | fields)


def test_heights_come_to_the_chord_and_rise_that_belong_to_them(shop):
    built = form(shop).built
    bent = built.bent_by(1.3)
    along, high = straightened(bent.parallel(face_offset_mm("inner", built.thickness_mm)))
    rows = "\n".join(f"{along[i]:.1f}, {high[i]:.1f}" for i in (len(along) // 5, len(along) // 2, 4 * len(along) // 5))
    assert post(shop, by="heights", heights=rows).status_code == 200
    piece = next(p for p in form(shop).pieces if p.label == "w1")
    chord, rise, _ = built.on_face(bent, "inner")
    assert (piece.measurements[0].chord_mm, piece.measurements[0].rise_mm) == (
        pytest.approx(chord, abs=1),
        pytest.approx(rise, abs=1),
    )
    assert piece.note == "by 3 heights along a straightedge"
    with shop.store.connected():
        assert any(piece_id == piece.id for _, piece_id, _ in shop.store.training.by_piece())


def test_gaps_and_angle_are_kept_too(shop):
    assert post(shop, by="gaps", gap_left="1/2 in", gap_right="12").status_code == 200
    turn = 40.0
    page = post(shop, by="angle", between=f"{turn}", label="w2")
    assert page.status_code in (200, 422)
    assert [p.note for p in form(shop).pieces if p.label == "w1"] == ["by its gap to the form"]


@pytest.mark.parametrize(
    ("fields", "fault"),
    [
        ({"by": "heights", "heights": ""}, "p-heights-fault"),
        ({"by": "heights", "heights": "100"}, "p-heights-fault"),
        ({"by": "heights", "heights": "high, low"}, "p-heights-fault"),
        ({"by": "heights", "heights": "99999, 5"}, "p-heights-fault"),
        ({"by": "gaps"}, "p-gap_left-fault"),
        ({"by": "gaps", "gap_left": "wide"}, "p-gap_left-fault"),
        ({"by": "angle", "between": "square"}, "p-between-fault"),
        ({"by": "angle", "between": "9999"}, "p-between-fault"),
        ({"by": "luck"}, "p-chord-fault"),
    ],
)
def test_what_is_wrong_is_said_beside_its_field_and_nothing_is_lost(shop, fields, fault):
    before = len(form(shop).pieces)
    page = post(shop, note="mine", **fields)
    assert page.status_code == 422 and f'id="{fault}"' in page.text and 'value="mine"' in page.text
    assert len(form(shop).pieces) == before
    if fields["by"] != "luck":
        assert f'value="{fields["by"]}" checked' in page.text


def test_a_piece_that_failed_needs_no_reading(shop):
    assert post(shop, by="heights", mishap="broke").status_code == 200
    assert next(p for p in form(shop).pieces if p.label == "w1").measurements == ()


def judged(shop, piece, **said):
    return shop.client.post(f"/pieces/{piece}/verdict", params=said)


def test_a_piece_is_kept_rejected_or_left_undecided(shop):
    with shop.store.connected():
        kept = shop.store.forms.find(JOB)[-1]
        piece, built = kept.pieces[0], kept.built
        before = shop.store.training.learned().made[built.way, built.group]
    page = judged(shop, piece.id, choice="keep", how="keep").text
    assert f"Decision for piece {piece.label}: kept" in page
    page = judged(shop, piece.id, choice="reject", how="reject").text
    assert f"Decision for piece {piece.label}: rejected" in page
    with shop.store.connected():
        good, failed = shop.store.training.learned().made[built.way, built.group]
        assert (good, failed) == (before[0] - 1, before[1] + 1)  # it counts towards the spares of the next job
        assert shop.store.pieces.get(piece.id)[1].has_failed
    assert piece.label in shop.client.get("/book", params={"outcome": "failed"}).text
    judged(shop, piece.id, choice="nonsense", how="x")
    with shop.store.connected():
        assert (
            shop.store.pieces.get(piece.id)[1].verdict == ""
            and shop.store.training.learned().made[built.way, built.group] == before
        )


def test_a_piece_is_bent_again_as_a_job_of_its_own(shop):
    job = 14
    with shop.store.connected():
        form = shop.store.forms.find(job)[-1]
        piece = form.pieces[0]
        chord, rise, _ = form.built.on_face(form.built.bent_by(2.5), "mid")
        shop.store.logbook.measure_again(piece.id, day=piece.measurements[0].day, chord_mm=chord, rise_mm=rise, face="mid", error_mm=0.5)  # fmt: skip
    assert "Re-bend it" in shop.client.get(f"/jobs/{job}/measure").text
    answer = judged(shop, piece.id, choice="correct", how="again")
    assert answer.status_code == 200 and "again" in answer.text
    with shop.store.connected():
        made = shop.store.pieces.get(piece.id)[1].corrected_in
        other = shop.store.jobs.get(made).job
    assert other.part.count == 1 and 0 < other.heat.start_share < 1
    judged(shop, piece.id, choice="correct", how="again")  # asked for twice it is one job
    with shop.store.connected():
        assert shop.store.pieces.get(piece.id)[1].corrected_in == made
    assert f'href="/jobs/{made}"' in shop.client.get(f"/jobs/{job}/measure").text
    with shop.store.connected():
        glued = shop.store.forms.find(JOB)[-1].pieces[0]
    refused = judged(shop, glued.id, choice="correct", how="again")
    assert refused.status_code == 422 and "cannot be re-bent" in refused.text
    assert judged(shop, 10**6, choice="keep", how="keep").status_code == 404


def test_ends_by_distance_and_by_square(shop):
    built = form(shop).built
    face = built.bent_by_halves(1.6, 0.9).parallel(face_offset_mm("inner", built.thickness_mm))
    a, b = face.points_mm[0], face.points_mm[-1]
    opening = ((b - a) @ (b - a)) ** 0.5
    left, right = (face.anchor_y_mm - p[1] for p in (a, b))
    page = post(shop, by="ends", opening=f"{opening:.1f}", square_left=f"{left:.1f}", square_right=f"{right:.1f}")
    assert page.status_code == 200 and "by its ends" in page.text
    assert post(shop, by="ends", opening=f"{opening / 25.4:.3f} in", label="w2").status_code == 200  # one is enough
    for fields, at in (({}, "opening"), ({"opening": "wide"}, "opening"), ({"square_left": "1e9"}, "square_left")):
        wrong = post(shop, by="ends", label="w3", **fields)
        assert wrong.status_code == 422 and f'id="p-{at}-fault"' in wrong.text
    piece = next(p for p in form(shop).pieces if p.label == "w1")
    chord, _, _ = built.on_face(built.bent_by(1.25), "inner")
    assert piece.measurements[0].chord_mm == pytest.approx(chord, abs=2)


def test_what_was_read_is_kept_and_shown_for_each_half(shop):
    assert post(shop, by="gaps", gap_left="16", gap_right="9").status_code == 200
    with shop.store.connected():
        piece = next(p for p in shop.store.forms.find(JOB)[-1].pieces if p.label == "w1")
    assert "left_mm" in piece.measurements[0].readings
    page = shop.client.get(f"/jobs/{JOB}/measure").text
    assert "Each half, measured ÷ calculated" in page and "Piece w1: one end sprang back more than the other" in page
