"""A copy of the shop's file each day it is open."""

from __future__ import annotations

import datetime as dt
import logging
import threading
from collections.abc import Callable
from pathlib import Path

from .backup import nightly
from .records import CannotOpen, NotKept

log = logging.getLogger("bright_willow")
EVERY_S, AFTER_START_S = 1800.0, 5.0


class NightlyBackup:
    """Looks every half hour whether the copy of the day is made, and makes it. today: the day it is in the shop."""

    def __init__(self, path: Path, today: Callable[[], dt.date]) -> None:
        self.path, self.today = path, today
        self._ends = threading.Event()

    def start(self) -> None:
        self._ends.clear()
        threading.Thread(target=self._run, name="copies", daemon=True).start()

    def stop(self) -> None:
        self._ends.set()

    def _run(self) -> None:
        wait = AFTER_START_S
        while not self._ends.wait(wait):
            wait = EVERY_S
            try:
                nightly(self.path, self.today())
            except (CannotOpen, NotKept, OSError) as error:
                log.warning("no copy of the day: %s", error)
