"""What a job of the demo is: how far it has got, and how its made-up pieces came out."""

from __future__ import annotations

import datetime as dt
from collections.abc import Sequence
from dataclasses import dataclass

from ..core.job.job import Job


@dataclass(frozen=True)
class ExampleOutcome:
    """How a made-up piece came out: springback over mechanics, days after the form, and what went wrong."""

    over_mechanics: float
    day: dt.date
    mishap: str = ""
    note: str = ""
    later: dt.date | None = None


@dataclass(frozen=True)
class Example:
    """One job of the demo, how far it has got, and the pieces that came off its form."""

    job: Job
    settled: tuple[str, ...]
    came: Sequence[ExampleOutcome] = ()
    form_built: bool = False


def day_of(month: int, day: int) -> dt.date:
    return dt.date(2026, month, day)
