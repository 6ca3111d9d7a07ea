"""Copies of the shop's whole file: to take along, to bring back, and those made by themselves."""

from __future__ import annotations

import datetime as dt
import errno
import os
import shutil
import sqlite3
import tempfile
import time
from collections.abc import Iterator
from contextlib import closing, contextmanager, suppress
from dataclasses import dataclass
from pathlib import Path

from filelock import FileLock, Timeout

from .open_folder import FILE, check, made_ready
from .records import CannotOpen
from .restore import NO_ROOM, rebuilt

FOLDER, KEPT = "copies", 14
IN_USE = "in-use.lock"
UNFINISHED_S = 300.0  # after which a temporary folder that nothing was written in is taken for left behind


TEMPORARY = "bright-willow-"  # how names of our own folders for temporary files begin
SECRETS = ("delete from guest", "delete from meta where key like 'lan %'")  # of earlier versions: now beside the file


def copied(path: Path, to: Path) -> None:
    """A whole copy of a database, also while it is in use: all of one moment, without secrets of the shop's network.

    Raises: CannotOpen, `to` untouched.
    """
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
            _without_secrets(made)
        Path(name).replace(to)
    except (sqlite3.DatabaseError, OSError) as error:
        raise CannotOpen(f"The copy could not be written: {error}.") from None
    finally:
        for tail in ("", "-journal"):
            Path(name + tail).unlink(missing_ok=True)


def _without_secrets(db: sqlite3.Connection) -> None:
    """Take the secrets of the shop's network out of a copy, so that nothing of them stays in its free pages either."""
    db.execute("pragma secure_delete = on")
    gone = 0
    for statement in SECRETS:
        with suppress(sqlite3.OperationalError):  # an early version has no such table
            gone += db.execute(statement).rowcount
    db.commit()
    if gone:
        db.execute("vacuum")


@dataclass(frozen=True)
class RestoreResult:
    """What restoring did: where the shop that stood there before is kept, None where there was none; what of the file
    did not fit, in sentences."""

    aside: Path | None
    left_out: tuple[str, ...]


@contextmanager
def checked(file: Path, like: Path | None = None) -> Iterator[tuple[Path, tuple[str, ...]]]:
    """A file to restore, its rows copied into a new database of the present version; and what of it did not fit.

    like: a database whose page size the new one takes. Raises: CannotOpen.
    """
    if not file.is_file():
        raise CannotOpen(f"There is no file {file}.")
    with temporary_folder() as folder:
        mine, fresh = folder / f"as-given-{FILE}", folder / FILE
        try:
            shutil.copyfile(file, mine)
        except OSError as error:
            raise CannotOpen(NO_ROOM if error.errno == errno.ENOSPC else f"{file} cannot be read.") from None
        if not mine.stat().st_size:
            raise CannotOpen(f"{file} is empty.")
        try:
            check(mine)
            left = rebuilt(mine, fresh, page_size=_page_size(like))
        except CannotOpen as error:
            raise CannotOpen(str(error).replace(str(mine), str(file)).partition(" Restore a backup")[0]) from None
        yield fresh, tuple(str(one) for one in left)


def _page_size(path: Path | None) -> int:
    """Of a database, bytes; as usual where there is none that can be read."""
    if path is None or not path.is_file() or not path.stat().st_size:
        return 4096
    try:
        with closing(sqlite3.connect(path, timeout=5)) as db:
            return int(db.execute("pragma page_size").fetchone()[0])
    except sqlite3.DatabaseError:
        return 4096


def clear_unfinished(folder: Path) -> None:
    """Remove what a program that was killed while it copied or restored left behind, in the data folder and among the
    temporary files. Only for a folder no other program has open."""
    for pattern in (".copy-*", f"{FOLDER}/.copy-*", "*.fresh", "*.fresh-*"):
        for path in folder.glob(pattern):
            path.unlink(missing_ok=True)
    for path in Path(tempfile.gettempdir()).glob(f"{TEMPORARY}*"):
        with suppress(OSError, Timeout):
            if path.is_dir() and path.stat().st_uid == made_ready(folder).stat().st_uid and _is_left(path):
                shutil.rmtree(path, ignore_errors=True)


def _is_left(path: Path) -> bool:
    """Whether nobody works in a temporary folder of ours. Raises: Timeout where somebody does."""
    lock = path / IN_USE
    if lock.exists():
        with FileLock(lock, timeout=0):
            return True
    return time.time() - path.stat().st_mtime > UNFINISHED_S  # of an earlier version, or just being made


@contextmanager
def temporary_folder() -> Iterator[Path]:
    """A folder for temporary files, held while it is used, so that one left behind by a killed program is known."""
    made = tempfile.TemporaryDirectory(prefix=TEMPORARY, ignore_cleanup_errors=True)
    with made as name, FileLock(Path(name) / IN_USE):
        yield Path(name)


def stamp() -> str:
    """Now, as part of a file name."""
    return dt.datetime.now().strftime("%Y-%m-%d-%H%M%S-%f")


def archive_copy(path: Path, kind: str, name: str) -> Path | None:
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
    return archive_copy(path, "nightly", name)


def restored(folder: Path, file: Path) -> RestoreResult:
    """Put a checked file in the place of the shop's own, which is kept aside. Raises: CannotOpen, the shop as it was.

    For a folder no program has open.
    """
    path = made_ready(folder)
    with checked(file, path) as (mine, left):
        aside = None
        fresh = path.with_suffix(".fresh")
        try:
            if path.stat().st_size:
                try:
                    aside = archive_copy(path, "before-restore", stamp())
                    _settle(path)
                except CannotOpen:  # damaged: kept as it is
                    aside = _damaged_put_by(path)
            copied(mine, fresh)
            for tail in ("-wal", "-shm"):  # empty by now, or kept aside with the damaged file
                path.with_name(path.name + tail).unlink(missing_ok=True)
            fresh.replace(path)
            path.chmod(0o600)
        except OSError as error:
            why = "the disk is full" if error.errno == errno.ENOSPC else error.strerror or "it cannot be written"
            raise CannotOpen(f"{folder}: {why}. The shop is as it was.") from None
        finally:
            fresh.unlink(missing_ok=True)
    return RestoreResult(aside, left)


def _settle(path: Path) -> None:
    """Write what still stands in a database's log into the file itself, so that the file alone is all of it."""
    try:
        with closing(sqlite3.connect(path, timeout=5)) as db:
            db.execute("pragma wal_checkpoint(truncate)")
            db.execute("pragma journal_mode = delete")
    except sqlite3.DatabaseError as error:
        raise CannotOpen(f"{path} is damaged: {error}.") from None


def _damaged_put_by(path: Path) -> Path:
    """A damaged shop kept as it is, with its log."""
    (path.parent / FOLDER).mkdir(mode=0o700, exist_ok=True)
    aside = path.parent / FOLDER / f"before-restore-{stamp()}.damaged"
    shutil.copyfile(path, aside)
    log = path.with_name(path.name + "-wal")
    if log.is_file():
        shutil.copyfile(log, aside.with_name(aside.name + "-wal"))
    return aside


def restored_live(path: Path, file: Path) -> RestoreResult:
    """The same while the program has the file open: its pages are written anew in one go. Raises: CannotOpen."""
    with checked(file, path) as (mine, left):
        aside = archive_copy(path, "before-restore", stamp())
        put_in_place(path, mine)
    return RestoreResult(aside, left)


def put_in_place(path: Path, whole: Path) -> None:
    """Write all pages of a sound database over those of one that is open, all or none. Raises: CannotOpen."""
    try:
        with closing(sqlite3.connect(whole)) as source, closing(sqlite3.connect(path, timeout=5)) as live:
            source.backup(live)
    except sqlite3.DatabaseError as error:
        raise CannotOpen(f"It could not be restored: {error}. The shop is as it was.") from None
