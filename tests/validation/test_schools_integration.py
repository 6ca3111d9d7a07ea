"""The released shape of every school, worked out anew: stresses over the section, then headings and ends by quadrature.

Nothing of the product's curve or lay-up is used: each lamina is integrated fibre by fibre, the glued stack is freed by
taking the moment away, and the mid-line is walked in small steps.
"""

import math

import numpy as np
import pytest

from bright_willow.core.learning.belief import Belief, LearnedFigures
from bright_willow.core.plan.plan import plan
from bright_willow.core.plan.read_job import read_job
from bright_willow.core.shape.curve_figures import CurveFigures
from bright_willow.core.shop.shop import Shop

T, N, E = 24.0, 6, 12_000.0
JOB = {
    "name": "Crook",
    "shape": {"kind": "hook", "face": "mid", "start_mm": 260, "radius_mm": 320, "angle_deg": 75, "end_mm": 140},
    "part": {"thickness_mm": T, "width_mm": 40, "trim_mm": 25},
    "stock": {"species": "ash_white"},
    "build_up": {"laminae": N, "adhesive": "uf_liquid"},
}
KNOWN = LearnedFigures({}, {("cold_lamination", "ash_white|rigid"): Belief(0.0, 1e-6, 5)}, 5, 0)


def freed(k_form: float) -> float:
    """Curvature after release: the moment of the free laminae, by fibres, over the stiffness of the whole by fibres."""
    moment = stiff = 0.0
    each = T / N
    for i in range(N):
        low = -T / 2 + i * each
        own = k_form / (1 + k_form * (low + each / 2))
        fibres = low + (np.arange(4000) + 0.5) * each / 4000
        moment += (E * own * (fibres - low - each / 2) ** 2).sum() * each / 4000
        stiff += (E * fibres**2).sum() * each / 4000
    return k_form - moment / stiff


def walked(lengths, curvatures, steps=20_000):
    """Both ends seen from the middle of the length, level there, by midpoint steps."""
    total = sum(lengths)
    edges = np.concatenate(([0.0], np.cumsum(lengths)))
    s = (np.arange(steps) + 0.5) * total / steps
    k = np.array(curvatures)[np.clip(np.searchsorted(edges, s) - 1, 0, len(lengths) - 1)]
    ds = total / steps
    heading = -np.cumsum(k) * ds + k * ds / 2
    half = steps // 2
    heading -= (heading[half - 1] + heading[half]) / 2
    x, y = np.cumsum(np.cos(heading)) * ds, np.cumsum(np.sin(heading)) * ds
    at = ((x[half - 1]), (y[half - 1]))
    return np.array([[-at[0], -at[1]], [x[-1] - at[0], y[-1] - at[1]]])


@pytest.mark.parametrize(
    "form",
    [
        {"school": "computed"},
        {"school": "to_size"},
        {"school": "by_angle", "left_deg": 0, "right_deg": 7},
        {"school": "by_distance", "left_mm": 5, "right_mm": 22},
        {"school": "own_record"},
    ],
    ids=lambda f: f["school"],
)
def test_the_released_shape_of_each_school(form):
    made = plan(read_job({**JOB, "form": form}), Shop(), KNOWN)
    on_form, released, target = (
        CurveFigures(made.bend.on_form),
        CurveFigures(made.bend.likely),
        CurveFigures(made.bend.target),
    )
    assert released.curve.lengths_mm == pytest.approx(on_form.curve.lengths_mm)
    for k_form, k_free in zip(on_form.curve.curvature, released.curve.curvature, strict=True):
        assert k_free == pytest.approx(freed(k_form), rel=2e-4, abs=1e-12)
    ours = walked(released.curve.lengths_mm, [freed(k) for k in on_form.curve.curvature])
    wanted = walked(target.curve.lengths_mm, target.curve.curvature)
    missed = float(np.hypot(*(ours - wanted).T).max())
    assert made.bend.opens.missed_tip_mm.value == pytest.approx(missed, abs=0.15)
    if form["school"] in ("computed", "own_record"):
        assert missed < 0.15
    if form["school"] == "by_distance":
        bent = walked(on_form.curve.lengths_mm, on_form.curve.curvature)
        assert np.hypot(*(bent - wanted).T) == pytest.approx([5, 22], abs=0.15)
    if form["school"] == "by_angle":
        assert math.degrees(sum(np.array(on_form.curve.lengths_mm) * on_form.curve.curvature)) == pytest.approx(
            82, abs=0.01
        )
