"""The log of a data folder: what a Reference on an error page points into."""

from __future__ import annotations

import logging
from logging.handlers import RotatingFileHandler
from pathlib import Path

FILE, MOST_BYTES, KEPT = "bright-willow.log", 1_000_000, 3


class _Closed(RotatingFileHandler):
    """A rotating file that only its owner may read."""

    def _open(self):  # type: ignore[no-untyped-def]
        stream = super()._open()
        Path(self.baseFilename).chmod(0o600)
        return stream


def log_to(folder: Path) -> None:
    """Write what goes wrong into the folder; where that cannot be, to the terminal."""
    log = logging.getLogger("bright_willow")
    try:
        handler: logging.Handler = _Closed(folder / FILE, maxBytes=MOST_BYTES, backupCount=KEPT, encoding="utf-8")
    except OSError:
        handler = logging.StreamHandler()
    handler.setFormatter(logging.Formatter("%(asctime)s %(levelname)s %(message)s"))
    log.addHandler(handler)
    log.setLevel(logging.INFO)
    log.propagate = False
