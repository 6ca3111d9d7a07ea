"""What the maker decides about preparing the stock: boards and how they are sawn. Part of the Job document."""

from __future__ import annotations

from typing import Literal

from pydantic import Field

from ..ground.document import Document, Length


class Flaw(Document):
    """A stretch of one of the boards, counted from 1, that no strip may hold: a knot, a check, wild grain."""

    board: int = Field(default=1, ge=1, le=200)
    start_mm: Length = Field(default=0.0, ge=0, le=20_000)
    end_mm: Length = Field(default=100.0, ge=0, le=20_000)


class Prepare(Document):
    """The boards at hand, where the stock is from no lot of the rack, all of one size; 0 of them: as many as it takes.
    Flaws along them; how they are sawn: off the edge (`rip`), off the face (`resaw`), or the way that gives most."""

    saw: Literal["auto", "rip", "resaw"] = "auto"
    thickness_mm: Length = Field(default=52.0, ge=1, le=500)
    width_mm: Length = Field(default=150.0, ge=5, le=2_000)
    length_mm: Length = Field(default=2_400.0, ge=50, le=20_000)
    boards: int = Field(default=0, ge=0, le=200)
    flaws: tuple[Flaw, ...] = Field(default=(), max_length=60, strict=False)
