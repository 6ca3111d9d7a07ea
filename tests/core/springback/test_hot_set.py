"""Springback of hot wood: by hand, by law, and against a section cut in layers that yields by itself."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from bright_willow.core.common.errors import PlanError
from bright_willow.core.springback.hot_set import YIELD_STRAIN, HotSetLaw, hot_start, recovered_curvature
from tests.searching import examples

SIZES = {"thickness_mm": 20.0, "yield_strain": 0.0035}
LIMIT = 2 * 0.0035 / 20  # the curvature at which the skin yields


def layered_recovery(change: float, thickness: float, yields: float, layers: int = 20_001) -> float:
    """Independent: every layer stretched by κ y, its stress cut at the yield strain, the moment summed and let go
    elastically: the curvature it takes back is M / (E I)."""
    y = (np.arange(layers) + 0.5) / layers * thickness - thickness / 2
    stress = np.clip(change * y, -yields, yields)  # over E
    return float((stress * y).sum() / (y * y).sum())


@pytest.mark.parametrize("x", [0.2, 0.999, 1.001, 1.5, 4.0, 40.0])
def test_what_is_taken_back_against_a_section_cut_in_layers(x):
    for change in (x * LIMIT, -x * LIMIT):
        m = float(recovered_curvature(np.array([change]), **SIZES)[0])
        assert m == pytest.approx(layered_recovery(change, 20.0, 0.0035), rel=1e-4)


def test_its_limits_by_hand():
    """Elastic all of it, at yielding κ_y, far beyond it one and a half times κ_y, and the same both ways."""
    m = recovered_curvature(np.array([1e-9, LIMIT, 1e3 * LIMIT, -LIMIT, 0.0]), **SIZES)
    assert m == pytest.approx([1e-9, LIMIT, 1.5 * LIMIT, -LIMIT, 0.0], rel=1e-6)
    rising = recovered_curvature(np.linspace(0, 20 * LIMIT, 500), **SIZES)
    assert (np.diff(rising) >= 0).all() and (np.diff(rising, 2) <= 1e-12).all()  # less and less for each more of bend


bends = st.one_of(st.just(0.0), st.floats(-0.02, 0.02).filter(lambda k: abs(k) > 1e-5))


@settings(max_examples=examples(60))
@given(st.lists(bends, min_size=1, max_size=12), st.floats(1, 60), st.floats(0.05, 0.98), st.floats(0.3, 2.5))
def test_release_undoes_its_inverse_whatever_the_signs(target, thickness, left, ratio):
    law, wanted = HotSetLaw(thickness, 0.0042, left), np.array(target)
    form = law.form_curvature_for(wanted, loss_ratio=ratio)
    assert law.release(form, loss_ratio=ratio) == pytest.approx(wanted, abs=1e-11)
    assert (np.abs(form) >= np.abs(wanted)).all() and (form[wanted == 0] == 0).all()


@pytest.mark.parametrize("left", [0.08, 0.5, 0.98])
def test_a_tighter_form_never_gives_a_gentler_piece(left):
    law = HotSetLaw(20.0, 0.0035, left)
    forms = np.linspace(0, 0.02, 2000)
    released = law.release(forms)
    assert (np.diff(released) >= -1e-15).all() and (released <= forms).all() and (released >= 0).all()
    share = 1 - released[1:] / forms[1:]
    assert share[0] == pytest.approx(left) and share[-1] < 0.06  # a gentle bend loses ρ of it, a tight one little


def test_a_ratio_beyond_one_still_has_its_form():
    """Where a shop's pieces lose more than all of a gentle bend, a form that is tight enough still gives it."""
    law = HotSetLaw(20.0, 0.0035, 0.98)
    wanted = np.array([1e-5, 1e-3])
    form = law.form_curvature_for(wanted, loss_ratio=2.0)
    assert law.release(form, loss_ratio=2.0) == pytest.approx(wanted) and form[0] > LIMIT
    assert law.release(np.array([0.5 * LIMIT]), loss_ratio=2.0)[0] == 0  # kept at the start, never bent back past it


def test_from_a_curvature_it_already_has():
    law = HotSetLaw(20.0, 0.0035, 0.6, np.array([1 / 200, 1 / 200]))
    released = law.release(np.array([1 / 150, 1 / 200]))
    change = 1 / 150 - 1 / 200
    assert released[0] == pytest.approx(1 / 150 - 0.6 * LIMIT * (1.5 - 0.5 * (LIMIT / change) ** 2))
    assert released[1] == 1 / 200 and law.over(np.array([1])).start == pytest.approx([1 / 200])
    back = law.form_curvature_for(np.zeros(2))  # straightened: bent past straight the other way
    assert (back < 0).all() and law.release(back) == pytest.approx(np.zeros(2), abs=1e-12)


def test_strips_keep_what_their_own_share_leaves():
    own, thick = np.full((3, 2), 0.01), np.array([5.0, 2.0, 0.0])
    kept = hot_start(own, thick, yield_strain=0.0042, share_left=np.array([0.5, 0.2, 0.9]))
    for i, (t, left) in enumerate(((5.0, 0.5), (2.0, 0.2))):
        assert kept[i] == pytest.approx(0.01 - left * layered_recovery(0.01, t, 0.0042), rel=1e-4)
    assert (kept[2] == 0).all()  # a strip that is not there


def test_what_is_no_section_is_refused():
    for thickness, yields, left in ((0.0, 0.004, 0.5), (20.0, 0.0, 0.5), (20.0, 0.004, 1.1), (20.0, 0.004, -0.1)):
        with pytest.raises(PlanError):
            HotSetLaw(thickness, yields, left)
    with pytest.raises(PlanError):
        HotSetLaw(20.0, 0.004, 0.5).form_curvature_for(np.array([0.01]), loss_ratio=-1)
    assert YIELD_STRAIN["strap"] < YIELD_STRAIN["dry"] < YIELD_STRAIN["free"]
