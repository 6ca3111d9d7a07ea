"""What is true of a shop and the same for all its jobs."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from ..common.document import Document, Length
from ..common.fineness import rule_of
from ..common.units import Unit
from ..wood.sheets import OwnSheet
from ..wood.species import OwnWood
from .week import Week


class OwnClamps(Document):
    """So many clamps of a kind, and how wide they open."""

    kind: Literal["spring", "one_hand", "f_clamp", "parallel", "g_clamp", "pipe"] = "f_clamp"
    count: int = Field(default=0, ge=0, le=1_000)
    opening_mm: Length = Field(default=300.0, ge=20, le=3_000)


class OwnTime(Document):
    """How long one move takes in this shop, seconds: in place of the allowance of the table of times."""

    key: str = Field(min_length=1, max_length=40)
    seconds: float = Field(ge=0, le=86_400, allow_inf_nan=False)


class LearntTimeOf(OwnTime):
    """How long one move takes as this shop's runs teach it: stands where the shop has no figure of its own."""

    low_s: float = Field(default=0, ge=0, le=86_400, allow_inf_nan=False)
    high_s: float = Field(default=0, ge=0, le=86_400, allow_inf_nan=False)
    seen: float = Field(default=0, ge=0, le=1e6, allow_inf_nan=False)


class OtherShop(Document):
    """A shop whose book was brought in, and how much its bends count beside this one's own: 0 for not at all."""

    name: str = Field(min_length=1, max_length=80)
    share: float = Field(default=1.0, ge=0, le=1, allow_inf_nan=False)


LearntKind = Literal["springback", "settling", "yields", "times", "steam_times"]


class Shop(Document):
    """The shop's own figures, all of them allowances that it can change."""

    name: str = Field(default="My shop", min_length=1, max_length=80, pattern=r"\S")
    units: Unit = "mm"
    rule_in: Literal["16", "32", "64"] = Field(default="16", description="finest mark of its rule, parts of an inch")
    rule_mm: Literal["0.5", "0.1"] = Field(default="0.1", description="finest mark of its rule, mm")
    kerf_mm: float = Field(default=3.0, ge=0, le=15, allow_inf_nan=False, description="width of the saw cut")
    planing_mm: float = Field(
        default=1.0, ge=0, le=20, allow_inf_nan=False, description="planed off each strip, in all"
    )
    clean_up_mm: float = Field(default=6.0, ge=0, le=50, allow_inf_nan=False, description="extra width to clean up")
    thinnest_mm: float = Field(
        default=2.0, ge=0.3, le=50, allow_inf_nan=False, description="thinnest strip the shop cuts well"
    )
    glue_waste_pct: float = Field(
        default=15.0, ge=0, le=300, allow_inf_nan=False, description="glue left in pot and roller, of that used"
    )
    altitude_m: float = Field(default=0.0, ge=-500, le=5_000, allow_inf_nan=False, description="above the sea")
    temperature_c: float = Field(default=21.0, ge=-20, le=50, allow_inf_nan=False, description="where the glue cures")
    thicknesses_mm: tuple[Annotated[Length, Field(ge=0.3, le=100)], ...] = Field(
        default=(),
        max_length=12,
        strict=False,
        description="strip thicknesses the shop makes or buys ready, besides equal ones",
    )
    sheet_long_mm: float = Field(
        default=2440.0, ge=300, le=6_000, allow_inf_nan=False, description="of the sheets that forms are cut from"
    )
    sheet_short_mm: float = Field(default=1220.0, ge=200, le=3_000, allow_inf_nan=False)
    clamps: tuple[OwnClamps, ...] = Field(default=(), max_length=40, strict=False, description="at hand, by kind")
    woods: tuple[OwnWood, ...] = Field(
        default=(), max_length=200, strict=False, description="woods of its own, and corrections to the table"
    )
    sheets: tuple[OwnSheet, ...] = Field(
        default=(), max_length=100, strict=False, description="sheets of its own, besides those of the table"
    )
    measuring_error_mm: float = Field(
        default=0.5, ge=0.05, le=20, allow_inf_nan=False, description="of a chord or a rise, one standard deviation"
    )
    label_paper: Literal["a4", "letter"] = Field(default="a4", description="sheets of labels")
    label_columns: int = Field(default=3, ge=1, le=20)
    label_rows: int = Field(default=8, ge=1, le=60)
    label_left_mm: Length = Field(default=8.0, ge=0, le=100, description="from the edge of the sheet")
    label_top_mm: Length = Field(default=13.5, ge=0, le=100)
    label_across_mm: Length = Field(default=66.0, ge=5, le=300, description="from one label to the next")
    label_down_mm: Length = Field(default=34.0, ge=5, le=300)
    label_wide_mm: Length = Field(default=62.0, ge=5, le=300)
    label_high_mm: Length = Field(default=32.0, ge=5, le=300)
    times: tuple[OwnTime, ...] = Field(
        default=(), max_length=80, strict=False, description="its own seconds for steps, in place of the table's"
    )
    learnt_times: tuple[LearntTimeOf, ...] = Field(
        default=(), max_length=80, strict=False, exclude=True, description="seconds its runs teach; never kept with it"
    )
    others: tuple[OtherShop, ...] = Field(
        default=(), max_length=100, strict=False, description="shops whose logbooks were imported"
    )
    by_allowance: tuple[LearntKind, ...] = Field(
        default=(), max_length=8, strict=False, description="what goes by the rule of thumb, not by the logbook"
    )
    week: Week = Week()

    @property
    def rule(self) -> Unit:
        """The unit lengths are read in, with the finest mark of the maker's rule."""
        return rule_of(self.units, mm=float(self.rule_mm), inch=int(self.rule_in))

    @property
    def owned(self) -> dict[str, int]:
        """How many of each resource there is only so much of, by its key in common.operation; clamps where counted."""
        counted = {"clamps": sum(c.count for c in self.clamps)} if self.clamps else {}
        week = self.week
        limited = {"chamber": week.places, "bag": week.bags, "frame": week.frames}
        return {"saw": 1, "iron": 1, "oven": 1} | limited | counted
