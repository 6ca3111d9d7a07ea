"""Strip options: the dozen layups worth showing, and the one that is recommended."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from .workpiece import LayupOption

MOST_ROWS = 12
FIRST_ROWS = 4  # shown at once, the others on asking
ALIKE_MM = 0.1  # strips that differ less read alike
THICKER_WEIGH = 2  # a row of thicker strips counts as so much further from the recommended one: fewer of them are shown


@dataclass(frozen=True, slots=True)
class StripOptions:
    """Rows to choose from, by count; the recommended one, None where none bends without breaking; and why it is.

    first: the rows to show at once: those next to the recommended one, and the chosen one.
    """

    rows: tuple[LayupOption, ...]
    first: tuple[LayupOption, ...]
    recommended: LayupOption | None
    reason: str


def strip_options(every: Sequence[LayupOption], *, thinnest_mm: float = 0.0) -> StripOptions:
    """Return the rows of every layup that was calculated that are worth showing, at most MOST_ROWS and the chosen one.

    The fewest strips of the good ones are recommended, for each strip is ripped, planed and glued; where none is good,
    those bent least of the ones that hold and are no thinner than thinnest_mm, which the shop can still cut.
    Valid: any rows, also none. Source: docs/model.md#cold-lamination.
    """
    rows = _unlike(every)
    best = _recommended(rows, thinnest_mm)
    if len(rows) > MOST_ROWS:
        middle = rows.index(best) if best else 0
        near = sorted(range(len(rows)), key=lambda i: (i - middle) if i >= middle else THICKER_WEIGH * (middle - i))
        keep = set(near[:MOST_ROWS]) | {i for i, r in enumerate(rows) if r.chosen}
        rows = [r for i, r in enumerate(rows) if i in keep]
    from_row = max(0, min(rows.index(best) - 1, len(rows) - FIRST_ROWS)) if best else 0
    near_it = rows[from_row : from_row + FIRST_ROWS]
    if not any(r.chosen for r in near_it):
        near_it = [*near_it[:-1], *(r for r in rows if r.chosen)]
    return StripOptions(tuple(rows), tuple(r for r in rows if r in near_it), best, _reason(best))


def _recommended(rows: Sequence[LayupOption], thinnest_mm: float) -> LayupOption | None:
    good = [r for r in rows if r.good]
    if good:
        return min(good, key=lambda r: (r.laminae, r.lamina_mm is not None))
    holding = [r for r in rows if r.level != "stop"]
    cut = [r for r in holding if min(r.thickness_mm, r.last_mm) >= thinnest_mm - 1e-9]
    if not cut:  # all too thin for this shop: those that are so the least
        return max(holding, key=lambda r: min(r.thickness_mm, r.last_mm), default=None)
    return min(cut, key=lambda r: r.use_of_strain)


def _reason(best: LayupOption | None) -> str:
    if best is None:
        return "No row bends without breaking: choose another method, a gentler curve or a thinner part."
    if best.good:
        return "The fewest strips that bend easily, hold their shape and can be cut here."
    return "No row is good in every way; this one comes nearest."


def _unlike(every: Sequence[LayupOption]) -> list[LayupOption]:
    """Rows that read differently: of two alike the chosen one, else the one of equal strips."""
    made: list[LayupOption] = []
    for r in sorted(every, key=lambda r: (r.laminae, not r.chosen, r.lamina_mm is not None, -r.thickness_mm)):
        alike = (
            x.laminae == r.laminae
            and abs(x.thickness_mm - r.thickness_mm) < ALIKE_MM
            and abs(x.last_mm - r.last_mm) < ALIKE_MM
            for x in made
        )
        if not any(alike):
            made.append(r)
    return sorted(made, key=lambda r: (r.laminae, -r.thickness_mm))
