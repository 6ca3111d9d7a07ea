"""The sample shop for tests: filled once for each day it is laid out from, then copied."""

import datetime as dt
import sqlite3
import tempfile
from contextlib import closing
from functools import cache
from pathlib import Path

from bright_willow.demo import marrow_lane
from bright_willow.services import summaries
from bright_willow.store.store import Store
from bright_willow.store.tables import ALL, database


@cache
def _filled(today: dt.date | None) -> tuple[tempfile.TemporaryDirectory[str], Path]:
    """Its folder, which lasts as long as the process, and its file."""
    folder = tempfile.TemporaryDirectory(prefix="marrow-lane-")
    store = Store(Path(folder.name))
    with store.connected():
        marrow_lane.fill(store, today)
        summaries.refresh_summaries(store, list(store.summaries.outdated(50)), 60)
    store.close()
    return folder, store.path


def fill(store: Store, today: dt.date | None = None) -> None:
    """Put the sample shop into an empty store, with what its list shows worked out. Needs a connection."""
    _, path = _filled(today)
    database.initialize(store.db)  # the tables belong to the store that was opened last
    store.db.bind(ALL)
    with closing(sqlite3.connect(path)) as filled:
        filled.backup(store.db.connection())
    store.taken_over()
