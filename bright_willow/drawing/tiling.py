"""How a full-size drawing falls on sheets of paper: turned and shifted so that it takes the fewest."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np
from shapely.geometry import Polygon, box

from ..core.common.arrays import Array
from .template_lines import Template

PAPERS: dict[str, tuple[float, float]] = {"a4": (210.0, 297.0), "letter": (215.9, 279.4), "a3": (297.0, 420.0)}
MARGIN_MM, FOOT_MM, OVERLAP_MM = 10.0, 14.0, 15.0
TURN_STEP_DEG = 7.5
MANY = 80  # sheets
LOOKED_AT = 8  # of the most promising ways to lay it
SHIFTS = (0.5, 0.1, 0.9)  # of the room to spare: the middle first
CORNER_MM = 30.0  # of body alone, so short that no sheet is printed for it
FEW = 60  # places a corner may have
EDGE_MM, INSIDE_MM = 6.0, 1.0
COARSE_MM, COARSE_PLACES, FINE_MM = 15.0, 600, 1.0


@dataclass(frozen=True)
class Tiling:
    """How a drawing falls on sheets. tile: what one sheet shows; step: from one sheet to the next.

    turned_deg: how far the drawing was turned first, anticlockwise. cropped: whether corners of the body are left out.
    """

    page: tuple[float, float]
    columns: int
    rows: int
    left: float
    top: float
    used: tuple[tuple[int, int], ...]
    turned_deg: float = 0.0
    cropped: bool = False

    @property
    def tile(self) -> tuple[float, float]:
        return self.page[0] - 2 * MARGIN_MM, self.page[1] - 2 * MARGIN_MM - FOOT_MM

    @property
    def step(self) -> tuple[float, float]:
        return self.tile[0] - OVERLAP_MM, self.tile[1] - OVERLAP_MM

    def corner(self, column: int, row: int) -> tuple[float, float]:
        """Left and bottom of a sheet's window on the drawing."""
        return self.left + column * self.step[0], self.top - row * self.step[1] - self.tile[1]

    @property
    def windows(self) -> tuple[Polygon, ...]:
        """What each printed sheet shows of the drawing, clear of its dashed edge."""
        corners = (self.corner(*sheet) for sheet in self.used)
        return tuple(
            box(x + INSIDE_MM, y + INSIDE_MM, x + self.tile[0] - INSIDE_MM, y + self.tile[1] - INSIDE_MM)
            for x, y in corners
        )


@dataclass(frozen=True)
class PaperPoints:
    """What must be on paper: points (n, 2), and which of them are the body of the form and no more."""

    points: Array
    is_body: Array

    @classmethod
    def of(cls, template: Template, spacing_mm: float) -> PaperPoints:
        """Lines and words of a template; no sheet is printed for a base line alone."""
        chains = [c for c in template.chains if not c.dashed]
        lines = [c.dense(spacing_mm) for c in chains]
        spots = np.array([[w.x, w.y] for w in template.words if w.beside_line]).reshape(-1, 2)
        body = [np.full(len(p), c.layer == "BODY") for p, c in zip(lines, chains, strict=True)]
        return cls(np.vstack((*lines, spots)), np.concatenate((*body, np.zeros(len(spots), dtype=bool))))

    def turned(self, degrees: float) -> PaperPoints:
        angle = np.radians(degrees)
        turn = np.array([[np.cos(angle), -np.sin(angle)], [np.sin(angle), np.cos(angle)]])
        return replace(self, points=self.points @ turn.T) if degrees else self


def sheet_name(column: int, row: int) -> str:
    """A1 top left; letters run across, numbers down."""
    letters = ""
    column += 1
    while column:
        column, rest = divmod(column - 1, 26)
        letters = chr(65 + rest) + letters
    return f"{letters}{row + 1}"


def laid_out(template: Template, paper: str) -> tuple[Template, Tiling]:
    """A template turned as it is best printed, and the fewest sheets of this paper for it."""
    width, height = PAPERS[paper]
    left, bottom, right, top = template.bounds()
    coarse = PaperPoints.of(template, max(COARSE_MM, (right - left + top - bottom) / COARSE_PLACES))
    found = []
    many = len(tiling_on((width, height), coarse, (0.5, 0.5)).used) > MANY  # a few more or less hardly count
    step, shifts_tried = (4 * TURN_STEP_DEG, SHIFTS[:1]) if many else (TURN_STEP_DEG, SHIFTS)
    for degrees in sorted(np.arange(-90 + step, 90.1, step), key=abs):
        turned = coarse.turned(float(degrees))
        for page in ((width, height), (height, width)):
            for shift in shifts_tried:
                made = tiling_on(page, turned, (shift, shift))
                found.append((len(made.used), float(degrees), page, (shift, shift)))
    best = None  # the first of the best: turned least; looked at closely, as they stand and a few of the others
    fine = PaperPoints.of(template, FINE_MM)
    for _, degrees, page, shifts in [found[0], *sorted(found, key=lambda f: f[0])[: 2 if many else LOOKED_AT]]:
        sheets = replace(tiling_on(page, fine.turned(degrees), shifts), turned_deg=degrees)
        if best is None or len(sheets.used) < len(best.used):
            best = sheets
    assert best is not None
    return template.turned(best.turned_deg), best


def tiling_on(page: tuple[float, float], places: PaperPoints, shifts: tuple[float, float]) -> Tiling:
    """The sheets of one page a drawing takes where it stands. shifts: 0 to 1, how the room to spare is shared out."""
    points = places.points
    (left, bottom), (right, top) = points.min(axis=0) - EDGE_MM, points.max(axis=0) + EDGE_MM
    trial = Tiling(page, 1, 1, 0, 0, ())
    columns, rows = (
        max(1, int(np.ceil((extent - OVERLAP_MM) / step)))
        for extent, step in zip((right - left, top - bottom), trial.step, strict=True)
    )
    spare_x = columns * trial.step[0] + OVERLAP_MM - (right - left)
    spare_y = rows * trial.step[1] + OVERLAP_MM - (top - bottom)
    made = Tiling(page, columns, rows, float(left - spare_x * shifts[0]), float(top + spare_y * shifts[1]), ())
    on = _shown(made, points)
    used, cropped = _needed(on, places)
    order = sorted(((int(n) % columns, int(n) // columns) for n in used), key=lambda s: s[::-1])
    return replace(made, used=tuple(order), cropped=cropped)


def _shown(made: Tiling, points: Array) -> Array:
    """(n, 4) numbers of the sheets each place falls on, row by row; −1 where there are fewer: sheets overlap."""
    across = _over(points[:, 0] - made.left, made.step[0], made.tile[0], made.columns)
    down = _over(made.top - points[:, 1], made.step[1], made.tile[1], made.rows)
    pairs = [np.where((c >= 0) & (r >= 0), r * made.columns + c, -1) for c in across for r in down]
    return np.stack(pairs, axis=1)


def _over(at: Array, step: float, tile: float, count: int) -> tuple[Array, Array]:
    """The two sheets a place may fall on along one way. −1 where there is none."""
    last = np.floor(at / step).astype(int)
    before = np.where(at - (last - 1) * step <= tile, last - 1, -1)
    return tuple(np.where((n >= 0) & (n < count), n, -1) for n in (last, before))  # type: ignore[return-value]


def _needed(on: Array, places: PaperPoints) -> tuple[list[int], bool]:
    """Sheets that show something no other kept sheet shows; and whether a corner of the body alone was let go."""
    numbers, counts = np.unique(on[on >= 0], return_counts=True)
    kept, cropped = set(numbers.tolist()), False
    times = (on >= 0).sum(axis=1)
    own = np.bincount(on[times == 1].max(axis=1), minlength=int(numbers.max()) + 1)[numbers]
    doubtful = numbers[own <= FEW]  # the others show too much that no other does
    order = np.argsort(counts[own <= FEW], kind="stable")
    for number in doubtful[order].tolist():
        here = (on == number).any(axis=1)
        alone = here & (times == 1)
        corner = bool(alone.any()) and bool(places.is_body[alone].all())
        corner = corner and float(np.ptp(places.points[alone], axis=0).max()) < CORNER_MM
        if not alone.any() or (corner and len(kept) > 1):
            kept.discard(number)
            times = times - here
            cropped |= corner
    return sorted(kept), cropped
