"""What a job of the demo is: how far it has got, and how its made-up pieces came out. Each is a file of `jobs/`."""

from __future__ import annotations

import datetime as dt
from dataclasses import dataclass
from functools import cache
from importlib.resources import files

from pydantic import TypeAdapter

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
    came: tuple[ExampleOutcome, ...] = ()
    form_built: bool = False


@cache
def examples() -> tuple[Example, ...]:
    """Return every job of the demo, in the order of their files. What a file leaves out is as in a new job."""
    reader: TypeAdapter[Example] = TypeAdapter(Example)
    found = [f for f in files(__package__).joinpath("jobs").iterdir() if f.name.endswith(".json")]
    return tuple(reader.validate_json(f.read_bytes()) for f in sorted(found, key=lambda f: f.name))
