"""What drawings are made on: the window in mm, words and lines in it, and where there is room for more of them."""

from __future__ import annotations

import math
from collections.abc import Iterable
from dataclasses import dataclass, field
from html import escape

import numpy as np

from ..core.common.arrays import Array
from .svg import num, point, polyline, tag

WIDTH_PX = 780.0  # what a drawing is laid out for; the page scales it
LEAST_PX, MOST_PX = 240.0, 2_400.0  # of a board, either way
CELL_PX = 4.0
MOST_DOTS = 4_000  # along one line
LETTER = 0.53  # width of a letter over its height, about
ANCHORS = {"start": 0.0, "middle": 0.5, "end": 1.0}


@dataclass
class Frame:
    """The window of the drawing in mm (y upwards), so many layout pixels wide, and how many mm one of these shows."""

    left: float
    top: float
    width: float
    height: float
    wide_px: float = WIDTH_PX

    @property
    def px(self) -> float:
        return self.width / self.wide_px

    @classmethod
    def parse(cls, text: str) -> Frame | None:
        """A frame as `written`, or None when it is not one (a drawing then finds its own)."""
        try:
            numbers = [float(n) for n in text.split()]
        except ValueError:
            return None
        if len(numbers) not in (4, 5) or not all(np.isfinite(numbers)) or max(map(abs, numbers)) > 1e6:
            return None
        if min(numbers[2:]) <= 0 or (numbers[4:] and not LEAST_PX <= numbers[4] <= MOST_PX):
            return None
        return cls(numbers[0], -numbers[1], *numbers[2:])

    @classmethod
    def around(
        cls,
        points: Array,
        *,
        height_px: float,
        margin_px: tuple[float, float, float, float] = (30, 30, 30, 30),
        wide_px: float = WIDTH_PX,
    ) -> Frame:
        """The window that holds points (n, 2) with margins above, right, below and left, all of it in the middle."""
        above, right, below, left = margin_px
        (x0, y0), (x1, y1) = points.min(axis=0), points.max(axis=0)
        px = max((x1 - x0) / (wide_px - left - right), (y1 - y0) / (height_px - above - below), 1e-6)
        spare_x = wide_px * px - (x1 - x0) - (left + right) * px
        spare_y = height_px * px - (y1 - y0) - (above + below) * px
        x, y = float(x0 - left * px - spare_x / 2), float(y1 + above * px + spare_y / 2)
        return cls(x, y, wide_px * px, height_px * px, wide_px)

    @property
    def sent(self) -> str:
        """The window with its layout pixels, as a page sends it back while a handle is dragged; `parse` reads it."""
        return f"{self.written} {num(self.wide_px)}"

    @property
    def written(self) -> str:
        return f"{num(self.left)} {num(-self.top)} {num(self.width)} {num(self.height)}"


@dataclass(frozen=True, slots=True)
class Box:
    """A rectangle of the drawing in layout pixels from its upper left corner."""

    x0: float
    y0: float
    x1: float
    y1: float


class FreeSpace:
    """Which places of a drawing are taken, in cells of a few pixels."""

    def __init__(self, frame: Frame) -> None:
        self.frame = frame
        self.high, self.wide = frame.height / frame.px, frame.wide_px
        self.cells = np.zeros((math.ceil(self.high / CELL_PX) + 1, math.ceil(self.wide / CELL_PX) + 1), dtype=bool)

    def at(self, points: Array) -> Array:
        """Points (n, 2) of the drawing, mm, in layout pixels."""
        f = self.frame
        return np.stack(((points[:, 0] - f.left) / f.px, (f.top - points[:, 1]) / f.px), axis=1)

    def take_line(self, points: Array, half_mm: float = 0.0, *, gap_px: float = 3.0) -> None:
        """A line through points (n, 2), mm, so thick to either side, takes its place."""
        if len(points) < 2:
            return
        seen = self.at(points)
        steps = np.diff(seen, axis=0)
        along = np.concatenate(([0.0], np.cumsum(np.hypot(steps[:, 0], steps[:, 1]))))
        spots = np.linspace(0.0, along[-1], min(MOST_DOTS, math.ceil(along[-1] / CELL_PX) + 2))
        i = (np.interp(spots, along, seen[:, 1]) / CELL_PX).astype(int)
        j = (np.interp(spots, along, seen[:, 0]) / CELL_PX).astype(int)
        rows, columns = self.cells.shape
        inside = (i >= 0) & (i < rows) & (j >= 0) & (j < columns)
        if not inside.any():
            return
        i, j = i[inside], j[inside]
        n = math.ceil((half_mm / self.frame.px + gap_px) / CELL_PX)
        top, left = max(0, int(i.min()) - n), max(0, int(j.min()) - n)  # only round the line is anything taken
        part = self.cells[top : int(i.max()) + n + 1, left : int(j.max()) + n + 1]
        here = np.zeros(part.shape, dtype=bool)
        here[i - top, j - left] = True
        thick = here.copy()
        for k in range(1, n + 1):  # as far up and down, then as far to either side
            thick[k:] |= here[:-k]
            thick[:-k] |= here[k:]
        part |= thick
        for k in range(1, n + 1):
            part[:, k:] |= thick[:, :-k]
            part[:, :-k] |= thick[:, k:]

    def take_area(self, outline: Array) -> None:
        """All inside a closed outline (n, 2), mm, takes its place."""
        dots = self.at(outline)
        x0, y0, x1, y1 = *dots.T, *np.roll(dots, -1, axis=0).T
        rows, columns = self.cells.shape
        for i in range(max(0, int(y0.min() / CELL_PX)), min(rows, int(y0.max() / CELL_PX) + 1)):
            y = (i + 0.5) * CELL_PX
            cut = (y0 > y) != (y1 > y)
            across = np.sort(x0[cut] + (y - y0[cut]) / (y1[cut] - y0[cut]) * (x1[cut] - x0[cut])) / CELL_PX
            for a, b in zip(across[::2], across[1::2], strict=False):
                self.cells[i, max(0, int(a)) : min(columns, int(b) + 1)] = True

    def take(self, box: Box) -> None:
        """A rectangle takes its place."""
        self.cells[self._rows(box), self._columns(box)] = True

    def overlap(self, box: Box) -> float:
        """How much of a rectangle is taken or lies outside, from 0 to 1."""
        seen = self.cells[self._rows(box), self._columns(box)]
        whole = max(1.0, (box.x1 - box.x0) * (box.y1 - box.y0))
        inside = max(0.0, min(box.x1, self.wide) - max(box.x0, 0.0)) * max(
            0.0, min(box.y1, self.high) - max(box.y0, 0.0)
        )
        return (1.0 - inside / whole) * 4 + (np.count_nonzero(seen) / seen.size if seen.size else 1.0)

    def free(self, wide_px: float, high_px: float) -> Array:
        """(n, 2) upper left corners, px, at which a rectangle so large lies wholly inside and touches nothing."""
        rows, columns = math.ceil(high_px / CELL_PX) + 1, math.ceil(wide_px / CELL_PX) + 1
        if rows >= self.cells.shape[0] or columns >= self.cells.shape[1]:
            return np.zeros((0, 2))
        high, wide = self.cells.shape
        whole = np.zeros((high + 1, wide + 1), dtype=np.int32)  # cells taken above and left of each corner
        np.cumsum(self.cells, axis=0, dtype=np.int32, out=whole[1:, 1:])
        np.cumsum(whole[1:, 1:], axis=1, out=whole[1:, 1:])
        seen = whole[rows:, columns:] - whole[:-rows, columns:] - whole[rows:, :-columns] + whole[:-rows, :-columns]
        inside = np.argwhere(seen == 0) * CELL_PX
        fits = (inside[:, 0] + high_px <= self.high) & (inside[:, 1] + wide_px <= self.wide)
        return np.asarray(inside[fits][:, ::-1], dtype=float)

    def nearest(self, wide_px: float, high_px: float, x: float, y: float) -> Box | None:
        """The free rectangle so large whose middle lies nearest to a place, mm; none where there is no room."""
        corners = self.free(wide_px, high_px)
        if not len(corners):
            return None
        wanted = self.at(np.array([[x, y]]))[0] - np.array([wide_px, high_px]) / 2
        left, top = corners[int(np.argmin(np.hypot(*(corners - wanted).T)))]
        return Box(float(left), float(top), float(left) + wide_px, float(top) + high_px)

    def best(self, boxes: Iterable[Box]) -> int:
        """Which of some rectangles has most room: the first that is free, else the least taken."""
        taken = list[float]()
        for i, box in enumerate(boxes):
            taken.append(self.overlap(box))
            if taken[-1] <= 1e-6:
                return i
        return int(np.argmin(taken))

    def _rows(self, box: Box) -> slice:
        return slice(max(0, int(box.y0 / CELL_PX)), max(0, math.ceil(box.y1 / CELL_PX)))

    def _columns(self, box: Box) -> slice:
        return slice(max(0, int(box.x0 / CELL_PX)), max(0, math.ceil(box.x1 / CELL_PX)))


@dataclass
class Canvas:
    """Collects the parts of a drawing. Coordinates mm, y upwards; sizes of words in layout pixels."""

    frame: Frame
    parts: list[str] = field(default_factory=list)

    def __post_init__(self) -> None:
        self.space = FreeSpace(self.frame)

    @property
    def px(self) -> float:
        """Mm one layout pixel shows."""
        return self.frame.px

    def text(
        self,
        x: float,
        y: float,
        text: str,
        class_: str = "note",
        anchor: str = "middle",
        size: float = 13,
        exact: str = "",
    ) -> str:
        """Words with their foot at a place, which they take. exact: all there is to say, for whoever points at them."""
        self.space.take(self.box(x, y, text, anchor, size))
        return tag(
            "text",
            escape(text) + (tag("title", escape(exact)) if exact else ""),
            x=num(x),
            y=num(-y),
            class_=class_,
            text__anchor=anchor,
            font__size=num(size * self.px),
        )

    def label(
        self,
        places: Iterable[tuple[float, float, str]],
        text: str,
        class_: str = "note",
        size: float = 13,
        exact: str = "",
    ) -> str:
        """Words at the first of some places (x, y, anchor) where there is room for them, else where there is most."""
        spots = list(places)
        at = self.space.best(self.box(x, y, text, anchor, size) for x, y, anchor in spots)
        x, y, anchor = spots[at]
        return self.text(x, y, text, class_, anchor, size, exact)

    def around(self, x: float, y: float, *, away: float = 9.0, size: float = 13) -> list[tuple[float, float, str]]:
        """Places for words round a point, near ones first: right, left, above, below, then further off."""
        made = []
        for r in (away, away + 14, away + 30, away + 52, away + 84):
            d, low = r * self.px, -size * 0.35 * self.px
            made += [
                (x + d, y + low, "start"),
                (x - d, y + low, "end"),
                (x, y + d, "middle"),
                (x, y - d - size * 0.75 * self.px, "middle"),
                (x + d * 0.8, y + d * 0.8, "start"),
                (x - d * 0.8, y + d * 0.8, "end"),
                (x + d * 0.8, y - d * 0.8 - size * 0.7 * self.px, "start"),
                (x - d * 0.8, y - d * 0.8 - size * 0.7 * self.px, "end"),
            ]
        return made

    def place(self, x_px: float, y_px: float) -> tuple[float, float]:
        """A place of the drawing, mm, told in layout pixels from its upper left corner."""
        return self.frame.left + x_px * self.px, self.frame.top - y_px * self.px

    def box(self, x: float, y: float, text: str, anchor: str, size: float) -> Box:
        """The rectangle some words take."""
        wide = len(text) * LETTER * size + 4
        left = (x - self.frame.left) / self.px - wide * ANCHORS[anchor]
        foot = (self.frame.top - y) / self.px
        return Box(left, foot - size * 0.95, left + wide, foot + size * 0.35)

    def line(self, x1: float, y1: float, x2: float, y2: float, class_: str) -> str:
        return tag("path", d=f"M{point(x1, y1)}L{point(x2, y2)}", class_=class_)

    def arrows(self, x1: float, y1: float, x2: float, y2: float, both: bool = True, class_: str = "dimension") -> str:
        """A line with a head at its end, or at both."""
        px = self.px
        x1, y1, x2, y2 = float(x1), float(y1), float(x2), float(y2)
        self.space.take_line(np.array([[x1, y1], [x2, y2]]))
        length = max(1e-9, math.hypot(x2 - x1, y2 - y1))
        ux, uy = (x2 - x1) / length * px, (y2 - y1) / length * px
        heads = []
        for x, y, sense in ((x2, y2, -9), (x1, y1, 9))[: 2 if both else 1]:
            bx, by = x + sense * ux, y + sense * uy
            heads.append(polyline([(bx - 3 * uy, by + 3 * ux), (x, y), (bx + 3 * uy, by - 3 * ux)]) + "Z")
        return self.line(x1, y1, x2, y2, class_) + tag("path", d="".join(heads), class_="arrow")

    def drawn(self, title: str, class_: str, **more: object) -> str:
        """The whole drawing."""
        return tag(
            "svg",
            tag("title", escape(title)) + "".join(self.parts),
            class_=class_,
            viewBox=self.frame.written,
            xmlns="http://www.w3.org/2000/svg",
            preserveAspectRatio="xMidYMid meet",
            **more,
        )
