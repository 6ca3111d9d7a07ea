"""Rows of a shop's file copied one by one, each checked, into a new database: nothing else of the file comes along.

A copy to restore may be damaged, made by hand or made to do harm. So no view, trigger, index or unknown table of it is
ever run or kept: the rows of known tables are read, their types and values checked, and written to a database that this
program made itself, with the tables of the version the copy is of. That database is then brought up to date.
"""

from __future__ import annotations

import datetime as dt
import math
import sqlite3
from collections import Counter
from collections.abc import Callable, Iterable, Iterator
from contextlib import closing
from dataclasses import dataclass
from pathlib import Path
from typing import Any, get_args

from peewee import DatabaseError, SqliteDatabase
from playhouse.migrations import MigrationError, Runner

from ..core.execution.events import KINDS
from ..core.measuring.built_form import MISHAPS
from ..core.shape.arc import FACES
from .open_folder import MIGRATIONS, applied_in, migrate, plain_tables
from .records import CannotOpen
from .repositories.runs import LATEST_S, Kind

ROWS_AT_ONCE = 500
NO_ROOM = "The disk is full, so the backup cannot be read. Free some space and try again."
FIRST, LAST = dt.datetime(1970, 1, 1), dt.datetime(2200, 1, 1)  # between which a time can lie
NOT_COPIED = ("schema_migration", "job_line", "guest")  # our own record; worked out anew; tablets join anew
PROBE_KINDS = ("chamber", "wood", "vacuum", "moisture")
VERDICTS = ("", "keep", "correct", "reject")


Rule = tuple[str, str]  # a column, and what must be true of it, in SQL


def _json(*columns: str) -> tuple[Rule, ...]:
    return tuple((c, f"{c} = '' or json_valid({c})" if c in MAY_BE_EMPTY else f"json_valid({c})") for c in columns)


def _one_of(column: str, words: Iterable[str]) -> Rule:
    return column, f"{column} in ({', '.join(repr(w) for w in words)})"


def _between(low: float, column: str, high: float) -> Rule:
    return column, f"{column} between {low!r} and {high!r}"


MAY_BE_EMPTY = ("later", "built")
RULES: dict[str, tuple[Rule, ...]] = {
    "shop": _json("body"),
    "revision": _json("body"),
    "built_form": _json("body"),
    "lot": _json("body"),
    "cut": _json("body"),
    "trial": _json("body"),
    "brief": _json("body"),
    "taught": _json("body", "later", "built"),
    "piece": (_one_of("mishap", MISHAPS), _one_of("verdict", VERDICTS)),
    "measurement": (
        _one_of("face", FACES),
        ("chord_mm", "chord_mm > 0 and chord_mm <= 100000"),
        _between(-100_000, "rise_mm", 100_000),
        ("error_mm", "error_mm > 0 and error_mm <= 1000"),
    ),
    "run": (_one_of("kind", get_args(Kind)), _between(0, "watched", LATEST_S)),
    "event": (
        _one_of("kind", KINDS),
        _between(-1e6, "at_s", LATEST_S),
        _between(0, "wall_s", LATEST_S),
        ("body", "case when json_valid(body) then json_type(body) = 'object' else body = '' end"),
    ),
    "probe": (_one_of("kind", PROBE_KINDS),),
    "reading": (_between(0, "at", LATEST_S),),
    "picture": (_between(1, "wide", 30_000), _between(1, "high", 30_000)),
    "meta": (("value", "key not in ('book', 'shop', 'times') or value = cast(cast(value as integer) as text)"),),
}
"""What must be true of each row besides the types of its columns; a rule about a column that an earlier version did not
have yet is left out there."""


NAMES = {
    "shop": "The shop's figures",
    "lot": "Lots on the rack",
    "job": "Jobs",
    "revision": "Versions of jobs",
    "built_form": "Forms",
    "piece": "Pieces",
    "measurement": "Measurements",
    "cut": "Boards that were cut",
    "done": "Marks of what is done",
    "taught": "Predictions, which are recalculated",
    "run": "Runs at the bench",
    "brief": "Plans of runs",
    "event": "What happened at the bench",
    "photo": "Photos from the bench",
    "picture": "Pictures",
    "trial": "Test bends",
    "probe": "Sensors",
    "reading": "Readings of sensors",
    "meta": "Small facts of the shop",
}


@dataclass(frozen=True)
class SkippedRows:
    """Rows of one table that did not fit, and why the first of them did not."""

    table: str
    rows: int
    why: str

    def __str__(self) -> str:
        return f"{NAMES.get(self.table, self.table)}: {self.rows} left out, for {self.why} (table “{self.table}”)."


def rebuilt(source: Path, to: Path, *, page_size: int = 4096) -> tuple[SkippedRows, ...]:
    """Write a new database of the present version with the rows of a shop's file that fit; say which did not.

    page_size: of the new file, bytes. Raises: CannotOpen where the file is no whole shop's.
    """
    done = sorted(applied_in(source))
    ours = sorted(p.stem for p in MIGRATIONS.glob("0*.py"))
    if not done or done != ours[: len(done)]:
        raise CannotOpen(f"{source} was not written by Bright Willow: its record of versions has gaps.")
    _empty(to, done[-1], page_size)
    try:
        with closing(_reading(source)) as old, closing(sqlite3.connect(to, isolation_level=None)) as new:
            left = _copied_rows(old, new, source)
        db = SqliteDatabase(str(to), pragmas={"foreign_keys": 1})
        with db.connection_context():
            migrate(db)
    except (sqlite3.DatabaseError, DatabaseError, MigrationError) as error:
        if "disk is full" in str(error):
            raise CannotOpen(NO_ROOM) from None
        raise CannotOpen(f"{source} cannot be read: {error}.") from None
    return left


def _empty(path: Path, level: str, page_size: int) -> None:
    """A new database with the tables of a version."""
    path.unlink(missing_ok=True)
    db = SqliteDatabase(str(path), pragmas={"page_size": page_size, "foreign_keys": 1})
    with db.connection_context():
        Runner(db, directory=str(MIGRATIONS)).up(level)


def _reading(path: Path) -> sqlite3.Connection:
    """A connection that trusts nothing of a file: no function or virtual table of its schema is run."""
    made = sqlite3.connect(path, timeout=1.5)
    made.execute("pragma trusted_schema = off")
    made.execute("pragma cell_size_check = on")
    made.text_factory = _text
    return made


def _text(raw: bytes) -> Any:
    """Text of a row; what is no text stays bytes, and so does not fit where text must stand."""
    try:
        return raw.decode("utf-8")
    except UnicodeDecodeError:
        return raw


def _copied_rows(old: sqlite3.Connection, new: sqlite3.Connection, source: Path) -> tuple[SkippedRows, ...]:
    tables = [t for t in sorted(plain_tables(new)) if t not in NOT_COPIED and not t.startswith("sqlite_")]
    there = plain_tables(old)
    if missing := [t for t in tables if t not in there]:
        raise CannotOpen(f"{source} is not a whole shop's file: “{missing[0]}” is missing in it.")
    left: list[SkippedRows] = []
    triggers = new.execute("select name, sql from sqlite_master where type = 'trigger'").fetchall()
    new.execute("begin")
    for name, _ in triggers:  # they forbid to delete what does not fit
        new.execute(f'drop trigger "{name}"')
    for table in tables:
        left += _copied_table(old, new, table, source)
    left += _without_parents(new)
    for _, sql in triggers:
        new.execute(sql)
    new.execute("commit")
    return tuple(left)


@dataclass(frozen=True)
class _Column:
    """A column as this program declares it. fits: whether a value can stand in it."""

    name: str
    fits: Callable[[Any], bool]


def _columns(db: sqlite3.Connection, table: str) -> list[_Column]:
    made = []
    for _, name, kind, must, _, is_key in db.execute(f'pragma table_info("{table}")'):
        made.append(_Column(name, _fitting(kind.upper(), may_miss=not must and not is_key)))
    return made


def _fitting(kind: str, *, may_miss: bool) -> Callable[[Any], bool]:
    check = next((f for word, f in _KINDS.items() if kind.startswith(word)), _is_text)
    return lambda value: may_miss if value is None else check(value)


def _is_text(value: Any) -> bool:
    return isinstance(value, str) and "\x00" not in value


def _is_number(value: Any) -> bool:
    return isinstance(value, int | float) and math.isfinite(value)


def _is_time(value: Any) -> bool:
    try:
        return isinstance(value, str) and FIRST <= dt.datetime.fromisoformat(value) <= LAST
    except (ValueError, TypeError):  # no time, or one with a zone
        return False


def _is_day(value: Any) -> bool:
    try:
        return isinstance(value, str) and len(value) == 10 and 1900 <= dt.date.fromisoformat(value).year <= 2200
    except ValueError:
        return False


_KINDS: dict[str, Callable[[Any], bool]] = {
    "INTEGER": lambda v: isinstance(v, int),
    "SMALLINT": lambda v: isinstance(v, int) and v in (0, 1),
    "BOOL": lambda v: isinstance(v, int) and v in (0, 1),
    "REAL": _is_number,
    "DATETIME": _is_time,
    "DATE": _is_day,
    "BLOB": lambda v: isinstance(v, bytes),
}


def _copied_table(old: sqlite3.Connection, new: sqlite3.Connection, table: str, source: Path) -> list[SkippedRows]:
    """Copy the rows of one table that fit."""
    columns = _columns(new, table)
    stored = {row[1] for row in old.execute(f'pragma table_xinfo("{table}")') if row[6] == 0}
    if missing := [c.name for c in columns if c.name not in stored]:
        raise CannotOpen(f"{source} is not a whole shop's file: “{missing[0]}” is missing in “{table}”.")
    names = ", ".join(f'"{c.name}"' for c in columns)
    insert = f'insert into "{table}" ({names}) values ({", ".join("?" * len(columns))})'
    whys: Counter[str] = Counter()
    for row in _rows(old, f'select {names} from "{table}"'):
        wrong = next((c for c, v in zip(columns, row, strict=True) if not c.fits(v)), None)
        if wrong is None and not (table == "meta" and str(row[0]).startswith("lan ")):
            try:
                new.execute(insert, row)
            except sqlite3.IntegrityError:
                whys["there is another of the same name or number"] += 1
        elif wrong is not None:
            whys[f"“{wrong.name}” is not valid"] += 1
    has = {c.name for c in columns}
    for column, rule in RULES.get(table, ()):
        if column in has:
            gone = new.execute(f'delete from "{table}" where not coalesce(({rule}), 0)').rowcount
            if gone:
                whys[f"“{column}” is not valid"] += gone
    return [SkippedRows(table, sum(whys.values()), whys.most_common(1)[0][0])] if whys else []


def _rows(old: sqlite3.Connection, select: str) -> Iterator[tuple[Any, ...]]:
    rows = old.execute(select)
    while some := rows.fetchmany(ROWS_AT_ONCE):
        yield from some


def _without_parents(new: sqlite3.Connection) -> list[SkippedRows]:
    """Leave out what belongs to something that is not there, until all that is left belongs together."""
    gone: Counter[str] = Counter()
    while orphans := new.execute("pragma foreign_key_check").fetchall():
        for table, row, _, which in orphans:
            key = next(k for k in new.execute(f'pragma foreign_key_list("{table}")') if k[0] == which)
            if key[6] == "SET NULL":
                new.execute(f'update "{table}" set "{key[3]}" = null where rowid = ?', (row,))
            else:
                gone[table] += new.execute(f'delete from "{table}" where rowid = ?', (row,)).rowcount
    return [SkippedRows(t, n, "what they belong to is missing") for t, n in gone.items()]
