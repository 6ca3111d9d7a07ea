"""What is sawn, strip by strip, and as CSV."""

from __future__ import annotations

import csv
import io
from collections.abc import Iterator
from dataclasses import dataclass

from ..core.common.errors import PlanError
from ..core.shop.labels import PAPERS_MM
from ..core.stock.prepared_stock import Prepared

HOWS = {
    "rip": "ripped",
    "resaw": "resawn",
    "joined": "ripped in two widths, edge to edge in a strip",
}
RESERVE, WASTE = "reserve", "waste strip, outside"


@dataclass(frozen=True)
class CutStrip:
    """One strip: its number, the piece it is for, which hand, which layer from the inside, its kind."""

    label: str
    piece: int
    hand: str
    layer: str
    kind: int


def cut_strips(ready: Prepared) -> Iterator[CutStrip]:
    """Every strip, piece by piece from the inside out; what is left over last. Valid where boards are sawn."""
    cut = ready.cut
    assert cut is not None
    kinds = dict(zip(cut.labels, cut.kinds, strict=True))
    left = dict(kinds)
    for piece in ready.pieces:
        for layer, label in enumerate(piece.strips, 1):
            last = ready.has_waste_strip and layer == len(piece.strips)
            yield CutStrip(label, piece.number, piece.hand, WASTE if last else str(layer), left.pop(label))
        for label in piece.reserve:
            yield CutStrip(label, piece.number, piece.hand, RESERVE, left.pop(label))
    for label, kind in left.items():
        yield CutStrip(label, 0, "", ready.strips.kinds[kind].name or "left over", kind)


def strips_csv(ready: Prepared) -> str:
    """One row a strip: its piece and place in it from the inside out, hand, rough size in mm."""
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\r\n")
    writer.writerow(["strip", "piece", "hand", "layer_from_inside", "thick_mm", "wide_mm", "long_mm"])
    for s in cut_strips(ready):
        kind = ready.strips.kinds[s.kind]
        size = [f"{v:.2f}" for v in (kind.thick_mm, ready.strips.wide_mm, kind.long_mm)]
        writer.writerow([s.label, s.piece or "", s.hand, s.layer, *size])
    return out.getvalue()


def paper_mm(paper: str) -> tuple[float, float]:
    """The size of a paper, mm. Raises: PlanError for one that is not known."""
    if paper not in PAPERS_MM:
        raise PlanError("paper", f"Paper is one of {', '.join(PAPERS_MM)}.")
    return PAPERS_MM[paper]
