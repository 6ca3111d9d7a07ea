"""The process that reads outline files: kept warm, watched, and killed when it takes too long or too much."""

from __future__ import annotations

from ..core.common.errors import PlanError
from ..drawing.outline_files import FIELD, FileOutline
from ..drawing.reading import SECONDS, TOO_MUCH, outline_of
from .worker import TookTooLong, TookTooMuch, Worker

TOO_LONG = (
    f"Reading this file took more than {SECONDS} seconds, so it was stopped. Save only the outline and try again."
)


class Reader(Worker):
    """Reads one outline file after another."""

    def __init__(self, seconds: float = SECONDS) -> None:
        super().__init__("bright_willow.drawing.reading", seconds)

    def read(self, raw: bytes, name: str, which: int) -> tuple[FileOutline, int, str]:
        """The outline asked for, how many there are (longest first) and the unit the file states.

        Raises: PlanError with a sentence, also when reading takes too long or too much.
        """
        try:
            return outline_of(self.ask(raw, name, which))
        except TookTooLong:
            raise PlanError(FIELD, TOO_LONG) from None
        except TookTooMuch:
            raise PlanError(FIELD, TOO_MUCH) from None
