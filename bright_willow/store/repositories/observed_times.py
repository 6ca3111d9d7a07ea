"""What runs at the bench have shown: how long moves took, minutes in the steam, and how much of a turn stayed."""

from __future__ import annotations

from collections.abc import Iterable
from typing import TypeVar

from pydantic import TypeAdapter, ValidationError

from ...core.learning.durations import ObservedTime
from ...core.learning.kept_turn import EasedSample
from ...core.learning.steam_times import SteamedSample
from ..tables import MetaRow
from .repository import Repository

TIMES: TypeAdapter[list[ObservedTime]] = TypeAdapter(list[ObservedTime])
STEAMED: TypeAdapter[list[SteamedSample]] = TypeAdapter(list[SteamedSample])
EASED: TypeAdapter[list[EasedSample]] = TypeAdapter(list[EasedSample])
TIMES_OF, STEAMED_IN, EASED_IN = (
    "times of run ",
    "steamed in run ",
    "eased in run ",
)  # keys in the file, before the number of the run
T = TypeVar("T")


def observed_times() -> list[ObservedTime]:
    """Return every time that was seen in any run."""
    return _read_all(TIMES_OF, TIMES)


class ObservedTimeRepository(Repository):
    """Times and steamed pieces, by run."""

    def save_times(self, run_id: int, seen: Iterable[ObservedTime]) -> None:
        """Save anew the times seen in a run; what is worked out from them becomes old. Raises: NotKept."""
        body, key = TIMES.dump_json(list(seen)).decode(), f"{TIMES_OF}{run_id}"
        if body != (self.database.fact(key) or "[]"):
            with self.database.writing():
                MetaRow.replace(key=key, value=body).execute()
                self.database.count_up("times")

    def save_steamed(self, run_id: int, pieces: Iterable[SteamedSample]) -> None:
        """Save anew the pieces steamed in a run. Raises: NotKept."""
        body, key = STEAMED.dump_json(list(pieces)).decode(), f"{STEAMED_IN}{run_id}"
        if body != (self.database.fact(key) or "[]"):
            self.database.note(key, body)

    def save_eased(self, run_id: int, turns: Iterable[EasedSample]) -> None:
        """Save anew the turns of a run that told how much of them stayed. Raises: NotKept."""
        body, key = EASED.dump_json(list(turns)).decode(), f"{EASED_IN}{run_id}"
        if body != (self.database.fact(key) or "[]"):
            self.database.note(key, body)

    def eased(self) -> list[EasedSample]:
        """Return every turn of any run that told how much of it stayed."""
        return _read_all(EASED_IN, EASED)

    def steamed(self) -> list[SteamedSample]:
        """Return every piece that was steamed in any run."""
        return _read_all(STEAMED_IN, STEAMED)

    def times(self) -> list[ObservedTime]:
        """Return every time that was seen in any run."""
        return observed_times()


def _read_all(prefix: str, of: TypeAdapter[list[T]]) -> list[T]:
    """Return what all runs have shown of one kind; what cannot be read is passed over."""
    found: list[T] = []
    for row in MetaRow.select().where(MetaRow.key.startswith(prefix)).order_by(MetaRow.key):
        try:
            found += of.validate_json(row.value)
        except ValidationError:
            continue
    return found
