"""Job bundles and shop books that are sent: read and checked by a process of its own, then kept.

Run as `python -m bright_willow.services.importing` it is that process; bright_willow.working says how it is asked.
"""

from __future__ import annotations

from typing import Literal

from ..core.common.errors import PlanError
from ..core.wood.species import OwnWood
from ..drawing.picture_files import sized
from ..store.bundle import ReadBundle, read_bundle
from ..store.bundle_file import NO_ZIP, is_bundle
from ..store.shared_logbook import ReadBook, read_book
from ..working import serve
from .worker import TookTooLong, TookTooMuch, Worker

MEMORY_BYTES, SECONDS = 1_500 * 2**20, 90
TOO_LONG = f"Reading that file took more than {SECONDS} seconds, so it was stopped."
TOO_MUCH = "Reading that file takes too much memory, so it was stopped."
MODULE = "bright_willow.services.importing"


class Importer(Worker):
    """Reads one file after another."""

    def __init__(self, seconds: float = SECONDS) -> None:
        super().__init__(MODULE, seconds)

    def bundle(self, raw: bytes, woods: tuple[OwnWood, ...]) -> ReadBundle:
        """A job with all that hangs on it. Raises: PlanError, JobFaulty."""
        return self._read("bundle", raw, woods)  # type: ignore[return-value]

    def book(self, raw: bytes, woods: tuple[OwnWood, ...]) -> ReadBook:
        """Another shop's book. Raises: PlanError."""
        return self._read("book", raw, woods)  # type: ignore[return-value]

    def _read(self, what: Literal["bundle", "book"], raw: bytes, woods: tuple[OwnWood, ...]) -> object:
        if not is_bundle(raw):  # known without a process that reads it
            raise PlanError("file", NO_ZIP)
        try:
            answer: object = self.ask(what, raw, woods)
            return answer
        except TookTooLong:
            raise PlanError("file", TOO_LONG) from None
        except TookTooMuch:
            raise PlanError("file", TOO_MUCH) from None
        finally:
            self.stop()  # files are brought in seldom, and it takes memory


def _read(what: Literal["bundle", "book"], raw: bytes, woods: tuple[OwnWood, ...]) -> ReadBundle | ReadBook:
    return read_bundle(raw, sized, woods) if what == "bundle" else read_book(raw, woods)


if __name__ == "__main__":
    serve(_read, memory_bytes=MEMORY_BYTES, seconds=SECONDS)
