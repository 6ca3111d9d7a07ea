"""Half of a symmetric template, to be drawn round, turned over on its centre line, and drawn round again."""

from __future__ import annotations

import numpy as np

from ..core.common.arrays import Array
from ..core.common.errors import PlanError
from .template_lines import Chain, Template, TemplateText

SAME_MM = 0.15
STEP_MM = 0.5
FORM_LINES = ("FACE", "RIB", "BODY", "SKIN", "HOLES")


def is_symmetric(template: Template) -> bool:
    """Whether every line of the form has its mirror image in the upright through x = 0."""
    lines = [c.dense(2.0) for c in template.chains if c.layer in FORM_LINES]
    if not lines:
        return False
    points = np.vstack(lines)
    mirrored = points * np.array([-1.0, 1.0])
    order = np.lexsort((points[:, 1].round(1), points[:, 0].round(1)))
    other = np.lexsort((mirrored[:, 1].round(1), mirrored[:, 0].round(1)))
    if np.abs(points[order][:, 0] - mirrored[other][:, 0]).max() > 2.5:
        return False
    return all(_near(p, points) for p in mirrored[:: max(1, len(mirrored) // 160)])


def _near(place: Array, points: Array) -> bool:
    """Whether a place lies on the lines through points that are 2 mm apart."""
    apart = np.hypot(*(points - place).T)
    first, second = np.argsort(apart)[:2]
    a, b = points[first], points[second]
    along = (b - a) / max(1e-9, float(np.hypot(*(b - a))))
    return bool(abs(along[0] * (place - a)[1] - along[1] * (place - a)[0]) < SAME_MM and apart[first] < 4.0)


def half_template(template: Template) -> Template:
    """The left half and the centre line. Raises: PlanError for a template that is not its own mirror image."""
    if not is_symmetric(template):
        raise PlanError("half", "Only a form that is the same from both ends can be printed as a half.")
    made = Template(f"{template.name}, half")
    for chain in template.chains:
        made.chains += _left_of(chain)
    made.words = [w for w in template.words if w.x <= 2.0]
    on_line = np.vstack([c.points for c in made.chains if c.layer in FORM_LINES])
    heights = on_line[np.abs(on_line[:, 0]) < 1e-6][:, 1]  # where the form itself crosses the centre line
    bottom, top = (float(heights.min()), float(heights.max())) if heights.size else made.bounds()[1::2]
    made.chains.append(Chain.line("MARKS", (0.0, bottom - 5.0), (0.0, top + 5.0)))
    message = "center: trace it, flip it on this line, trace again"
    made.words.append(TemplateText(-4.0, (bottom + top) / 2, message, 4.5, 90.0))
    return made


def _left_of(chain: Chain) -> list[Chain]:
    """What of a chain lies left of the centre line, in steps of half a millimetre."""
    points = chain.dense(STEP_MM)
    inside = points[:, 0] <= 1e-6
    edges = np.flatnonzero(np.diff(np.concatenate(([0], inside.astype(int), [0]))))
    made = []
    for start, end in edges.reshape(-1, 2):
        run = points[start:end]
        if start > 0:
            run = np.vstack((_crossing(points[start - 1], points[start]), run))
        if end < len(points):
            run = np.vstack((run, _crossing(points[end - 1], points[end])))
        if len(run) > 1:
            made.append(Chain(chain.layer, run, np.zeros(len(run) - 1), False, chain.dashed))
    return made


def _crossing(a: Array, b: Array) -> Array:
    """Where the way from one point to the next crosses the centre line."""
    share = a[0] / (a[0] - b[0]) if abs(a[0] - b[0]) > 1e-12 else 0.0
    return np.asarray((a + (b - a) * share)[None, :])
