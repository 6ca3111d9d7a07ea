"""Labels on a sheet of them: rows, columns and margins, as the shop has typed them once."""

from __future__ import annotations

from ..common.errors import PlanError
from .shop import Shop

PAPERS_MM: dict[str, tuple[float, float]] = {"a4": (210.0, 297.0), "letter": (215.9, 279.4)}
EDGE_MM = 0.5


def label_places(shop: Shop) -> tuple[tuple[float, float], ...]:
    """The upper left corner of each label, mm from the upper left of the sheet, row by row.

    Raises: PlanError where labels run off the paper or over one another. Source: geometry.

    >>> places = label_places(Shop())
    >>> len(places), places[0], places[4]
    (24, (8.0, 13.5), (74.0, 47.5))
    """
    wide, high = PAPERS_MM[shop.label_paper]
    right = shop.label_left_mm + (shop.label_columns - 1) * shop.label_across_mm + shop.label_wide_mm
    low = shop.label_top_mm + (shop.label_rows - 1) * shop.label_down_mm + shop.label_high_mm
    if right > wide + EDGE_MM:
        raise PlanError(
            "label_columns",
            "These columns end {right} from the left; the paper is {paper} wide.",
            lengths_mm={"right": right, "paper": wide},
        )
    if low > high + EDGE_MM:
        raise PlanError(
            "label_rows",
            "These rows end {low} from the top; the paper is {paper} high.",
            lengths_mm={"low": low, "paper": high},
        )
    if shop.label_columns > 1 and shop.label_across_mm < shop.label_wide_mm - EDGE_MM:
        raise PlanError("label_across_mm", "Labels overlap: the spacing is less than a label is wide.")
    if shop.label_rows > 1 and shop.label_down_mm < shop.label_high_mm - EDGE_MM:
        raise PlanError("label_down_mm", "Labels overlap: the spacing is less than a label is high.")
    return tuple(
        (shop.label_left_mm + column * shop.label_across_mm, shop.label_top_mm + row * shop.label_down_mm)
        for row in range(shop.label_rows)
        for column in range(shop.label_columns)
    )
