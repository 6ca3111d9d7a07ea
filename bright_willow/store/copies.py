"""Copies of the shop's whole file: to take along, to bring back, and those made by themselves."""

from __future__ import annotations

import datetime as dt
import os
import shutil
import sqlite3
import tempfile
from collections.abc import Iterator
from contextlib import closing, contextmanager
from pathlib import Path

from peewee import SqliteDatabase

from .opening import FILE, check, made_ready, migrate
from .records import CannotOpen

FOLDER, KEPT = "copies", 14


def copied(path: Path, to: Path) -> None:
    """A whole copy of a database, also while it is in use: all of one moment. Raises: CannotOpen, `to` untouched."""
    try:
        handle, name = tempfile.mkstemp(prefix=".copy-", dir=to.parent)
    except OSError as error:
        raise CannotOpen(f"{to.parent} cannot be written: {error.strerror}.") from None
    os.close(handle)
    try:
        with closing(sqlite3.connect(path, timeout=5)) as source, closing(sqlite3.connect(name)) as made:
            source.backup(made)
            made.execute("pragma journal_mode = delete")
            if made.execute("pragma quick_check(1)").fetchone()[0] != "ok":
                raise CannotOpen(f"{path} is damaged: no copy of it was made.")
        Path(name).replace(to)
    except (sqlite3.DatabaseError, OSError) as error:
        raise CannotOpen(f"The copy could not be written: {error}.") from None
    finally:
        Path(name).unlink(missing_ok=True)


@contextmanager
def checked(file: Path) -> Iterator[Path]:
    """A file to bring back, checked and brought up to date in a copy of its own. Raises: CannotOpen."""
    if not file.is_file():
        raise CannotOpen(f"There is no file {file}.")
    with tempfile.TemporaryDirectory(prefix="bright-willow-") as folder:
        mine = Path(folder) / FILE
        try:
            shutil.copyfile(file, mine)
        except OSError:
            raise CannotOpen(f"{file} cannot be read.") from None
        if not mine.stat().st_size:
            raise CannotOpen(f"{file} is empty.")
        try:
            check(mine)
        except CannotOpen as error:
            raise CannotOpen(str(error).replace(str(mine), str(file)).partition(" Bring back a copy")[0]) from None
        db = SqliteDatabase(str(mine), pragmas={"foreign_keys": 1})
        with db.connection_context():
            migrate(db)
        yield mine


def stamp() -> str:
    """Now, as part of a file name."""
    return dt.datetime.now().strftime("%Y-%m-%d-%H%M%S-%f")


def put_by(path: Path, kind: str, name: str) -> Path | None:
    """A copy kept in the folder of copies, the oldest of its kind beyond fourteen let go; None where nothing is yet."""
    if not path.exists() or not path.stat().st_size:
        return None
    folder = path.parent / FOLDER
    folder.mkdir(mode=0o700, exist_ok=True)
    to = folder / f"{kind}-{name}.sqlite3"
    copied(path, to)
    others = [p for p in folder.glob(f"{kind}-*.sqlite3") if p != to]  # a clock that was ahead names no copy older
    for old in sorted(others, key=lambda p: (p.stat().st_mtime, p.name))[: max(0, len(others) - KEPT + 1)]:
        old.unlink()
    return to


def nightly(path: Path, today: dt.date) -> Path | None:
    """The copy of the day, where it is not made yet."""
    name = today.isoformat()
    if (path.parent / FOLDER / f"nightly-{name}.sqlite3").exists():
        return None
    return put_by(path, "nightly", name)


def restored(folder: Path, file: Path) -> Path | None:
    """Put a checked file in the place of the shop's own, which is kept aside; returns where. Raises: CannotOpen.

    For a folder no program has open.
    """
    with checked(file) as mine:
        path = made_ready(folder)
        aside = None
        if path.stat().st_size:
            try:
                aside = put_by(path, "before-restore", stamp())
            except CannotOpen:  # damaged: kept as it is
                (folder / FOLDER).mkdir(mode=0o700, exist_ok=True)
                aside = folder / FOLDER / f"before-restore-{stamp()}.damaged"
                shutil.copyfile(path, aside)
        fresh = path.with_suffix(".fresh")
        copied(mine, fresh)
        for tail in ("-wal", "-shm"):
            path.with_name(path.name + tail).unlink(missing_ok=True)
        fresh.replace(path)
        path.chmod(0o600)
    return aside


def restored_live(path: Path, file: Path) -> Path | None:
    """The same while the program has the file open: its pages are written anew in one go. Raises: CannotOpen."""
    with checked(file) as mine:
        aside = put_by(path, "before-restore", stamp())
        try:
            with closing(sqlite3.connect(mine)) as source, closing(sqlite3.connect(path, timeout=5)) as live:
                source.backup(live)
        except sqlite3.DatabaseError as error:
            raise CannotOpen(f"It could not be brought back: {error}. The shop is as it was.") from None
    return aside
