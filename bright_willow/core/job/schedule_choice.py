"""What the maker decides about days: whether the job is in the shop's week, from when, by when, what is pinned."""

from __future__ import annotations

from typing import Annotated

from pydantic import Field

from ..common.document import Document
from ..shop.week import Day

Moment = Annotated[str, Field(pattern=r"^\d{4}-\d{2}-\d{2}T([01]\d|2[0-3]):[0-5]\d$")]


class Pinned(Document):
    """An operation of a piece or load (from 0; −1: of the job) that is to begin at a time by the shop's clock."""

    key: str = Field(min_length=1, max_length=40)
    number: int = Field(ge=-1, le=1_000)
    at: Moment


class Days(Document):
    """in_week: whether its work is laid into the shop's days with that of the others. begin_day: none for at once;
    due_day: its last piece is wanted by the end of that day, none for when it is done."""

    in_week: bool = False
    begin_day: Day | None = None
    due_day: Day | None = None
    pins: tuple[Pinned, ...] = Field(default=(), max_length=200, strict=False)
