"""How the book does: a trial's answer, a picture of eight million dots marked and read, settling of many pieces."""

from __future__ import annotations

import io
from collections.abc import Callable

import numpy as np
from PIL import Image

from bright_willow.core.learning.settling import Remeasurement, learn_settling
from bright_willow.core.measuring.built_form import BuiltForm
from bright_willow.core.measuring.edge_finding import NEAR_PX, drawn_to, drawn_to_corner
from bright_willow.core.measuring.photo_measurement import MOST_POINTS, PhotoMarks, Plane
from bright_willow.core.measuring.traced import Traced, traced
from bright_willow.core.plan.plan import sketch
from bright_willow.core.trials.threshold import TrialOutcome, answer
from bright_willow.demo.marrow_lane import EXAMPLES, SHOP
from tools.pictured import Laid
from tools.timing import median_ms

Line = Callable[[str, str, str, bool], None]


def book(line: Line) -> None:
    """Everything of the book against its aims."""
    tried = [TrialOutcome(float(s), s > 11) for s in range(4, 34)]
    taken = median_ms(lambda: answer(tried, published=15.0, sense=1, over=(4.0, 34.0)), 9)
    line("a trial of thirty pieces answered", f"{taken:.1f} ms", "≤ 50 ms", taken <= 50)
    _picture(line)
    dice = np.random.default_rng(3)
    pieces = [("rigid", [Remeasurement(float(d), 0.01, 0.004) for d in dice.uniform(2, 90, 3)]) for _ in range(1_000)]
    taken = median_ms(lambda: learn_settling(pieces), 3)
    line("settling of 1,000 pieces measured again", f"{taken:.0f} ms", "told, no aim", True)


def _picture(line: Line) -> None:
    built = BuiltForm.of(sketch(EXAMPLES[1].job, SHOP))
    laid = Laid.of(built, 1.25, "outer", MOST_POINTS)
    body = laid.photo()
    taken = median_ms(lambda: np.asarray(Image.open(io.BytesIO(body)).convert("L")), 5)
    line("a picture of 8 million dots read in", f"{taken:.0f} ms", "told, no aim", True)
    grey = np.asarray(Image.open(io.BytesIO(body)).convert("L"))
    corners, places = laid.camera.px(laid.sheet), laid.camera.px(laid.face)

    def snapped() -> PhotoMarks:
        marks = [drawn_to_corner(grey, tuple(c + 3), NEAR_PX) or tuple(c) for c in corners]
        one = drawn_to(grey, tuple(places[20] + 3), NEAR_PX, is_end=False) or tuple(places[20])
        return PhotoMarks(corners=tuple(marks), points=(one,))

    def placed() -> np.ndarray:
        plane = Plane.by(snapped())
        return plane.errors_mm(places)

    taken = median_ms(placed, 9)
    line("four corners and a point drawn to, sixty points placed", f"{taken:.1f} ms", "≤ 200 ms", taken <= 200)
    plane = Plane.by(snapped())
    off = float(np.hypot(*(plane.mm(places) - (laid.face - laid.sheet[3])).T).max())
    line("places on it against the known pose, 600 mm piece", f"{off:.2f} mm", "≤ 0.5 mm", off <= 0.5)
    edge = Traced(plane.mm(places), plane.errors_mm(places), "outer")
    taken = median_ms(lambda: traced(built, edge), 5)
    line("a piece fitted to sixty points, both halves too", f"{taken:.0f} ms", "≤ 200 ms", taken <= 200)
