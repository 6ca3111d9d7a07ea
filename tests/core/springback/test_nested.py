"""Two lay-ups nested with tape between: what they release to together and alone, glue, and where it is said."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from bright_willow.core.plan.plan import plan
from bright_willow.core.springback.layup import Layup
from tests.core.methods.jobs import job_for


def layup(n, inner):
    return Layup(np.full(n, 2.5), np.full(n, 12_000.0), np.zeros(n), inner)


@given(n=st.integers(2, 16), share=st.floats(0.05, 0.95), radius=st.floats(400, 5000))
def test_nested_springs_back_between_one_piece_and_loose_laminae(n, share, radius):
    inner = min(n - 1, max(1, round(share * n)))
    form = np.array([1 / radius])
    one, two = layup(n, 0).release(form)[0], layup(n, inner).release(form)[0]
    assert two < one or n == 2
    assert layup(n, inner).release(form)[0] == pytest.approx(layup(n, n - inner).release(form)[0])
    a, b = layup(n, inner).nested
    assert len(a.thickness_mm) == inner and float(a.stiffness + b.stiffness) == pytest.approx(
        float(layup(n, inner).stiffness)
    )


def test_equal_halves_lose_four_times_as_much_and_hardly_stand_off():
    """1/n² of n = 5 against n = 10."""
    form, length = np.array([1 / 2000]), np.array([1200.0])
    whole, halves = layup(10, 0), layup(10, 5)
    lost = [float(form[0] - x.release(form)[0]) for x in (whole, halves)]
    assert lost[1] == pytest.approx(4 * lost[0], rel=1e-3)
    assert max(halves.off_alone_mm(length, form)) < 0.1 < max(layup(10, 2).off_alone_mm(length, form))
    assert whole.off_alone_mm(length, form) == ()


def test_the_tape_reaches_glue_race_steps_and_form():
    one, two = (plan(job_for("cold_lamination", build_up={"laminae": 10, "tape_after": t})) for t in (0, 4))
    assert two.laid_up.glue_g.value == pytest.approx(one.laid_up.glue_g.value * 8 / 9)
    assert len(two.glued_up.race.bars) == 8 and len(two.laid_up.laminae) == 10
    assert any("Tape and no glue between ply 4 and 5" in s for o in two.operations for s in o.steps)
    assert two.bend.opens.tip_mm.likely > 3 * one.bend.opens.tip_mm.likely
    released = two.bend.likely.chord_and_rise_mm()
    assert released == pytest.approx(one.bend.likely.chord_and_rise_mm(), rel=1e-6)  # its form makes up for it
