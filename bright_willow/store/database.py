"""The open database: connections that stay, what they remember, and transactions that fail with a sentence."""

from __future__ import annotations

import datetime as dt
import errno
import math
import shutil
import threading
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Any

from peewee import DatabaseError, OperationalError, SqliteDatabase

from .records import NotKept
from .tables import ALL, MetaRow, database

PATIENCE_S = 1.2  # how long a change waits for another program that holds the file
NEARLY_FULL_BYTES = 1_000_000
FULL = "The disk is full, so this was not saved. Free some space; the program tries again."
GONE = "The shop's folder {} is gone, so this was not saved. Put it back and start the program again."
PRAGMAS = {
    "journal_mode": "wal",
    "foreign_keys": 1,
    "busy_timeout": int(PATIENCE_S * 1000),
    "synchronous": "full",
    "recursive_triggers": 1,  # so that what may only be added is not replaced either
}


def now() -> dt.datetime:
    """The time that is written down: UTC, without its zone."""
    return dt.datetime.now(dt.UTC).replace(tzinfo=None)


def why_not(error: Exception, folder: Path) -> str:
    """A sentence for what the database in a folder, or its disk, says of itself."""
    message = str(error).lower()
    if not folder.is_dir():
        return GONE.format(folder)
    if "locked" in message or "busy" in message:
        return "Another program is using the shop's file, so this was not saved. The program tries again."
    # a full disk is not always called so: a file that cannot be made longer is another kind of trouble to it
    if is_full(error) or "full" in message or _is_nearly_full(folder):
        return FULL
    if "readonly" in message or "read-only" in message:
        return "The shop's file is read-only, so this was not saved. Allow this program to write its data folder."
    if "malformed" in message or "not a database" in message:
        return "The shop's file is damaged, so this was not saved. Close the program and restore a backup."
    return "The shop's file could not be written, so this was not saved."


def is_full(error: Exception) -> bool:
    """Whether an error of the system says that a disk, or one's share of it, is full."""
    return isinstance(error, OSError) and error.errno in (errno.ENOSPC, errno.EDQUOT)


def _is_nearly_full(folder: Path) -> bool:
    try:
        return shutil.disk_usage(folder).free < NEARLY_FULL_BYTES
    except OSError:
        return False


def finite(*values: float) -> None:
    """Raises: NotKept for a number that is none; such a thing is never written."""
    if not all(math.isfinite(v) for v in values):
        raise NotKept("A figure here is not a number, so it was not saved.")


class _Staying(threading.local):
    """Of each thread: whether its connection stays open, and what it remembers of its reads."""

    stays = False
    seen_version = 0
    mark: tuple[Any, ...] = ()

    def __init__(self) -> None:
        self.memory: dict[tuple[Any, ...], Any] = {}


class Database:
    """A database file that is open. Every call needs `connected()`."""

    def __init__(self, path: Path) -> None:
        self.path = path
        self.db = SqliteDatabase(str(path), pragmas=PRAGMAS)
        database.initialize(self.db)
        self.db.bind(ALL)
        self._mine = _Staying()
        self._writer = threading.RLock()
        self._held_until = 0.0
        self._inode = path.stat().st_ino

    @contextmanager
    def connected(self) -> Iterator[None]:
        """A connection on this thread for the length of a with block.

        A thread that answers small questions all the time (`stay_connected`) keeps its own open.
        """
        if self._mine.stays:
            self.db.connect(reuse_if_open=True)
            self._mine.seen_version = self.db.execute_sql("pragma data_version").fetchone()[0]
            yield
        else:
            with self.db.connection_context():
                yield

    def stay_connected(self) -> None:
        """From now on this thread's connection stays open, and what it reads is remembered until anything changes."""
        self._mine.stays = True

    def close(self) -> None:
        """Close this thread's connection."""
        if not self.db.is_closed():
            self.db.close()
        self._mine.stays = False

    @contextmanager
    def writing(self) -> Iterator[None]:
        """All of a change or none of it; one at a time, so that one held up does not hold up the others' reading.

        Raises: NotKept, with the reason, when it could not be written.
        """
        patience = PATIENCE_S if time.monotonic() > self._held_until else 0.05
        if not self._writer.acquire(timeout=patience):
            raise NotKept(why_not(OperationalError("database is locked"), self.path.parent))
        try:
            self._check_there()
            with self.db.atomic("IMMEDIATE"):
                yield
        except DatabaseError as error:
            if "locked" in str(error).lower():
                self._held_until = time.monotonic() + PATIENCE_S
            raise NotKept(why_not(error, self.path.parent)) from error
        finally:
            self._writer.release()

    def _check_there(self) -> None:
        """Raises: NotKept where the file was taken away meanwhile: what a connection wrote then would be nowhere."""
        try:
            stays = self.path.stat().st_ino == self._inode
        except OSError:
            stays = False
        if not stays:
            raise NotKept(GONE.format(self.path.parent))

    def remembered(self, key: tuple[Any, ...], read: Callable[[], Any]) -> Any:
        """What a read found, from memory while neither this connection nor another has written since."""
        mine = self._mine
        if not mine.stays:
            return read()
        mark = (mine.seen_version, self.db.connection().total_changes)
        if mark != mine.mark:
            mine.memory, mine.mark = {}, mark
        if key not in mine.memory:
            mine.memory[key] = read()
        return mine.memory[key]

    def fact(self, key: str) -> str:
        """A small fact of the whole; empty where it was never written."""
        row = MetaRow.get_or_none(MetaRow.key == key)
        return row.value if row else ""

    def known_fact(self, key: str) -> str:
        """The same, from memory while nothing was written."""
        known: str = self.remembered(("fact", key), lambda: self.fact(key))
        return known

    def note(self, key: str, value: str) -> None:
        """Write a small fact down."""
        with self.writing():
            MetaRow.replace(key=key, value=value).execute()

    def count_up(self, key: str) -> None:
        """One more change of something that others are worked out from."""
        MetaRow.replace(key=key, value=str(int(self.fact(key) or 0) + 1)).execute()
