"""What the maker decides about preparing the stock: boards, how they are sawn, a profile. Part of the Job document."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field, StringConstraints

from ..common.document import Document, Length
from ..shape.shape_registry import Point


class Flaw(Document):
    """A stretch of one of the boards, counted from 1, that no strip may hold: a knot, a check, wild grain."""

    board: int = Field(default=1, ge=1, le=200)
    start_mm: Length = Field(default=0.0, ge=0, le=20_000)
    end_mm: Length = Field(default=100.0, ge=0, le=20_000)


class MoreBoards(Document):
    """Boards of another size beside the first."""

    thickness_mm: Length = Field(default=52.0, ge=1, le=500)
    width_mm: Length = Field(default=150.0, ge=5, le=2_000)
    length_mm: Length = Field(default=2_400.0, ge=50, le=20_000)
    count: int = Field(default=1, ge=1, le=200)


MatchedSet = Annotated[str, StringConstraints(strip_whitespace=True, max_length=12)]


class InspectedBoard(Document):
    """One of the boards as it was looked at: kept or rejected, the set it matches in color and grain, a note."""

    board: int = Field(default=1, ge=1, le=200)
    verdict: Literal["keep", "reject"] = "keep"
    matched: MatchedSet = ""
    note: str = Field(default="", max_length=80)


class Profile(Document):
    """A profile that must survive being ripped, bent and glued up again: its section, across the thickness of the part
    and up its width. A plain section of a size, or a closed outline of points from the lower corner of the inner face.
    blanks: how many mouldings it is ripped out of, 0 for as many as lose nothing."""

    kind: Literal["none", "round_over", "cove", "chamfer", "bead", "points"] = "none"
    size_mm: Length = Field(default=12.0, ge=0.5, le=300)
    points_mm: tuple[Point, ...] = Field(default=(), max_length=400, strict=False)
    blanks: int = Field(default=0, ge=0, le=8)
    source: str = Field(default="", max_length=200)


class Prepare(Document):
    """The boards at hand, where the stock is from no lot of the rack; 0 of them: as many as it takes. Boards of other
    sizes, boards left out, flaws along them; how they are sawn: off the edge (`rip`), off the face (`resaw`), or the
    way that gives most.

    inspected: boards as they were looked at; a rejected one is left out, and pieces are made of one matched set where
    it has strips enough. abreast: pieces side by side on the form; as: each of its own strips, or out of one wide blank
    sawn apart after.
    leaf_mm: width of the veneer leaves, none where they are wide enough; show: the face that shows.
    """

    saw: Literal["auto", "rip", "resaw"] = "auto"
    thickness_mm: Length = Field(default=52.0, ge=1, le=500)
    width_mm: Length = Field(default=150.0, ge=5, le=2_000)
    length_mm: Length = Field(default=2_400.0, ge=50, le=20_000)
    boards: int = Field(default=0, ge=0, le=200)
    more: tuple[MoreBoards, ...] = Field(default=(), max_length=30, strict=False)
    left_out: tuple[int, ...] = Field(default=(), max_length=200, strict=False)
    flaws: tuple[Flaw, ...] = Field(default=(), max_length=60, strict=False)
    inspected: tuple[InspectedBoard, ...] = Field(default=(), max_length=60, strict=False)
    abreast: int = Field(default=1, ge=1, le=12)
    abreast_as: Literal["strips", "wide"] = "strips"
    leaf_mm: Length | None = Field(default=None, ge=10, le=2_000)
    show: Literal["none", "inner", "outer"] = "none"
    profile: Profile = Profile()
