"""The track record: by hand, over simulated shops, and on its page."""

import math
import re

import numpy as np
import pytest

from bright_willow.core.common.errors import PlanError
from bright_willow.core.common.estimate import Estimate
from bright_willow.core.measuring.built_form import BuiltForm, compare
from bright_willow.core.measuring.track_record import TrackedPiece, classes, is_biased, is_too_narrow, judged
from bright_willow.core.plan.plan import sketch
from tests.core.methods.jobs import job_for
from tests.core.shape.test_shapes import job_of
from tests.sample import fill


def piece(over, inside=True, *, thickness=16.0, counts=True, way="steam_strap"):
    return TrackedPiece(way, thickness, Estimate(80.0, 100.0, 120.0, "allowance"), 100.0 * (1 + over), inside, counts)


@pytest.mark.parametrize("way", ["cold_lamination", "steam_free", "steam_strap", "dry_heat"])
def test_a_piece_as_predicted_stands_on_the_diagonal_and_one_beyond_its_range_is_outside(way):
    built = BuiltForm.of(sketch(job_for(way)))
    low, likely, high = (built.mid_line(k) for k in (built.expected_low, built.expected, built.expected_high))

    def seen(curve):
        chord, rise, _ = built.on_face(curve, "inner")
        came = compare(built, chord_mm=chord, rise_mm=rise, face="inner", error_mm=0.5)
        return judged(built, came, counts=True)

    on = seen(likely)
    assert on.measured_mm == pytest.approx(on.predicted.likely, rel=1e-3) and on.is_inside
    ends = sorted(seen(c).measured_mm for c in (low, high))
    assert ends == pytest.approx([on.predicted.low, on.predicted.high], rel=1e-3)
    k = 2 * np.array(built.expected_high) - np.array(built.expected)
    assert not seen(built.mid_line(tuple(k))).is_inside


def test_counts_by_hand():
    rows = [piece(o, o < 0.25) for o in (0.1, 0.2, 0.3, 0.2, 0.2, 0.2)]
    rows += [piece(0.9, False, counts=False), piece(0.0, thickness=2.9), piece(0.0, way="dry_heat", thickness=3.0)]
    dry, thin, thick = classes(rows)
    assert (dry.way, dry.low_mm, dry.high_mm, dry.pieces) == ("dry_heat", 3.0, 8.0, 1) and not dry.is_biased
    assert (thin.low_mm, thin.high_mm, thin.pieces) == (0.0, 3.0, 1)
    assert (thick.pieces, thick.inside, thick.of_ten) == (6, 5, 8) and thick.bias == pytest.approx(0.2)
    assert thick.is_biased and not thick.is_too_narrow


def test_bias_and_a_narrow_range_are_told_when_they_are_there_and_rarely_else():
    """By hand: t of (0.1, 0.2, 0.3, 0.2, 0.2) is 0.2 / (0.0707 / √5) = 6.3 > 2.78. Then 2,000 shops without a bias."""
    assert is_biased(np.array([0.1, 0.2, 0.3, 0.2, 0.2])) and not is_biased(np.array([0.1, 0.2, 0.3, 0.2]))
    assert not is_biased(np.array([0.3, -0.2, 0.4, 0.1, -0.1])) and not is_biased(np.full(9, 0.04))
    assert is_biased(np.full(9, -0.3))
    rng = np.random.default_rng(5)
    false = np.mean([is_biased(rng.normal(0, 0.2, 12)) for _ in range(2000)])
    assert 0.02 < false < 0.06
    # five pieces: at most 1 inside has a chance of 0.0067, at most 2 of 0.058
    assert is_too_narrow(1, 5) and not is_too_narrow(2, 5) and not is_too_narrow(0, 4)
    assert math.isclose(sum(math.comb(5, i) * 0.8**i * 0.2 ** (5 - i) for i in range(2)), 0.00672, rel_tol=1e-3)


def test_what_cannot_open_has_no_place_in_it():
    built = BuiltForm.of(sketch(job_of("ring", "outer", part={"thickness_mm": 18, "width_mm": 30})))
    straight = BuiltForm.of(sketch(job_for("cold_lamination")))
    chord, rise, _ = straight.on_face(straight.bent_by(1.0), "inner")
    seen = compare(straight, chord_mm=chord, rise_mm=rise, face="inner", error_mm=0.5)
    with pytest.raises(PlanError):
        judged(built.model_copy(update={"expected": built.form_curvature}), seen, counts=True)


def test_the_page_counts_the_sample_shop_s_pieces_in_both_units(client):
    assert "No piece is measured yet" in client.get("/book/track-record").text
    store = client.app.state.store
    with store.connected():
        fill(store)
        pieces = [
            (f, p) for f, p in store.logbook.all_pieces() if p.measurements and not p.left_out and f.built.can_open
        ]
        inside = sum(f.compared(p, p.measurements[0]).within_band for f, p in pieces)
    text = client.get("/book/track-record").text
    assert f"{inside} of {len(pieces)} measured pieces" in text
    counts = re.findall(r'<th scope="row">[^<]+</th><td>[^<]+</td><td>(\d+)</td><td>(\d+)</td>', text)
    assert sum(int(a) for a, _ in counts) == len(pieces) and sum(int(b) for _, b in counts) == inside
    assert text.count('class="inside') + text.count('class="outside') >= len(pieces)
    assert "/logbook/track-record" in client.get("/book").text
    with store.connected():
        store.shop_settings.save(store.shop_settings.get().model_copy(update={"units": "in"}))
    inch = client.get("/book/track-record").text.partition("<main")[2].partition("</main>")[0]
    assert '"tick"' in inch and " mm<" not in inch
