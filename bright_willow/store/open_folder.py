"""Opening a data folder: what stands in the way is said in a sentence, with a way out. One program at a time."""

from __future__ import annotations

import os
import sqlite3
from collections.abc import Iterator
from contextlib import closing, contextmanager, suppress
from pathlib import Path

from filelock import FileLock, Timeout
from peewee import SqliteDatabase
from playhouse.migrations import Runner

from .records import CannotOpen

MIGRATIONS = Path(__file__).parent / "migrations"
FILE = "bright-willow.sqlite3"
LOCK, ADDRESS = "in-use.lock", "in-use.address"
HEAD = b"SQLite format 3\x00"
FIRST_TABLES = {"shop", "job", "revision", "built_form", "piece", "measurement"}  # of the first version
WAY_OUT = "Restore a backup with “bright-willow restore FILE”; backups are in the folder “copies” beside it."


def made_ready(folder: Path) -> Path:
    """The folder, there and writable, closed to others; returns where the database lies. Raises: CannotOpen."""
    try:
        if folder.exists() and not folder.is_dir():
            raise CannotOpen(f"{folder} is a file. Give a folder: --data FOLDER.")
        folder.mkdir(mode=0o700, parents=True, exist_ok=True)
        path = folder / FILE
        if path.is_dir():
            raise CannotOpen(
                f"{path} is a folder, where the shop's file should be. Move it away, or give another --data."
            )
        if path.exists() or not any(folder.iterdir()):
            folder.chmod(0o700)
        if not path.exists():
            os.close(os.open(path, os.O_CREAT | os.O_RDWR, 0o600))
        for each in (path, *(p for p in folder.glob(f"{FILE}-*"))):
            each.chmod(0o600)
        return path
    except PermissionError:
        raise CannotOpen(f"You may not write in {folder}. Allow it, or give another folder: --data FOLDER.") from None
    except OSError as error:
        why = "the disk is full" if error.errno == 28 else error.strerror or "it cannot be used"
        raise CannotOpen(f"{folder}: {why}. Fix that, or give another folder: --data FOLDER.") from None


def check(path: Path) -> None:
    """Refuse what is no shop's file, is damaged, or was written by a newer program. Raises: CannotOpen."""
    with path.open("rb") as file:
        head = file.read(16)
    if not head:
        return
    if head != HEAD:
        raise CannotOpen(f"{path} is not a shop's file. It was left as it is. {WAY_OUT}")
    try:
        with closing(sqlite3.connect(path, timeout=1.5)) as plain:
            found = plain.execute("pragma quick_check(1)").fetchone()[0]
            if found != "ok":
                raise CannotOpen(f"{path} is damaged. It was left as it is. {WAY_OUT}")
            names = plain_tables(plain)
            done = _applied(plain, names)
            plain.execute("begin immediate")
            plain.rollback()
    except sqlite3.DatabaseError as error:
        raise CannotOpen(_cannot(path, str(error).lower())) from None
    ours = {p.stem for p in MIGRATIONS.glob("0*.py")}
    if done - ours:
        raise CannotOpen(f"{path} was written by a newer Bright Willow. It was left as it is: open it with that one.")
    if done and (missing := sorted(FIRST_TABLES - names)):
        raise CannotOpen(f"{path} is not a whole shop's file: “{missing[0]}” is missing in it. {WAY_OUT}")


def plain_tables(db: sqlite3.Connection) -> set[str]:
    """The tables of a database that are kept in it: no views, and none that other code makes up."""
    rows = db.execute("select name, sql from sqlite_master where type = 'table'")
    return {str(name) for name, sql in rows if str(sql).lstrip().upper().startswith("CREATE TABLE")}


def applied_in(path: Path) -> set[str]:
    """Names of the migrations a file says it has had. Raises: sqlite3.DatabaseError."""
    with closing(sqlite3.connect(path, timeout=1.5)) as plain:
        return _applied(plain, plain_tables(plain))


def _applied(db: sqlite3.Connection, tables: set[str]) -> set[str]:
    """The same of an open file. Raises: sqlite3.DatabaseError where it has other tables and no such record."""
    if "schema_migration" in tables:
        return {str(row[0]) for row in db.execute("select name from schema_migration limit 1000")}
    if db.execute("select 1 from sqlite_master limit 1").fetchone():
        raise sqlite3.DatabaseError("no such table: schema_migration")
    return set()


def _cannot(path: Path, message: str) -> str:
    if "locked" in message or "busy" in message:
        return f"{path} is held by another program. Close that, and try again."
    if "readonly" in message or "read-only" in message or "unable to open" in message:
        return f"{path} may not be written. Allow it, or give another folder: --data FOLDER."
    if "full" in message:
        return f"The disk of {path.parent} is full. Free some space and try again."
    if "no such table" in message:
        return f"{path} is a database, but not a shop's. It was left as it is; give another folder: --data FOLDER."
    return f"{path} is damaged. It was left as it is. {WAY_OUT}"


def filled_by(path: Path) -> str:
    """Who filled a database: “demo”, or nobody that is known."""
    try:
        with closing(sqlite3.connect(path, timeout=1.5)) as plain:
            row = plain.execute("select value from meta where key = 'filled by'").fetchone()
    except sqlite3.DatabaseError:
        return ""
    return str(row[0]) if row else ""


def pending(db: SqliteDatabase) -> list[str]:
    """Migrations a database has not had yet, where it has had some."""
    runner = Runner(db, directory=str(MIGRATIONS))
    rows = runner.status()
    return [m.name for m in rows if not m.applied] if any(m.applied for m in rows) else []


def migrate(db: SqliteDatabase) -> None:
    """Bring a database up to date."""
    Runner(db, directory=str(MIGRATIONS)).up()


@contextmanager
def only_one(folder: Path) -> Iterator[Path]:
    """Hold a data folder for this program alone; yields where to write its address. Raises: CannotOpen."""
    made_ready(folder)
    lock, address = FileLock(folder / LOCK, timeout=0, mode=0o600), folder / ADDRESS
    try:
        lock.acquire()
    except Timeout:
        with suppress(OSError):
            if at := address.read_text("utf-8").strip():
                raise CannotOpen(f"This shop is open already, at {at}: use that, or close it first.") from None
        raise CannotOpen("This shop is open already in another Bright Willow: use that, or close it first.") from None
    except OSError:
        raise CannotOpen(f"You may not write in {folder}. Allow it, or give another folder: --data FOLDER.") from None
    try:
        address.write_text("", "utf-8")
        address.chmod(0o600)
        yield address
    finally:
        with suppress(OSError):
            address.unlink()
        lock.release()
