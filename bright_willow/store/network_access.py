"""Who may come in over the shop's network: the passphrase's hash, the secret of sessions, tablets that have joined.

In a file of its own beside the shop's file, closed to others, and in no copy of the shop: whoever gets a copy cannot
come in with it, and a shop that is restored does not bring its passphrase.
"""

from __future__ import annotations

import datetime as dt
import hashlib
import logging
import os
import secrets
import sqlite3
import threading
from contextlib import closing, suppress
from pathlib import Path

from pydantic import BaseModel, Field, ValidationError

from .database import now, why_not
from .records import CannotOpen, NotFound, NotKept

FILE = "network-access.json"
MOST_TABLETS = 50
log = logging.getLogger("bright_willow")


class Tablet(BaseModel):
    """A tablet that has joined. token_hash: of what it is known by, SHA-256; put_out: whether it was sent away. UTC."""

    id: int
    token_hash: str
    name: str
    at: dt.datetime
    seen: dt.datetime
    is_out: bool = False


class _Kept(BaseModel):
    """What stands in the file."""

    passphrase_hash: str = ""
    secret: str = Field(default_factory=lambda: secrets.token_hex(32))
    next_id: int = 1
    tablets: list[Tablet] = Field(default_factory=list)


def _hash(token: str) -> str:
    return hashlib.sha256(token.encode()).hexdigest()


class NetworkAccess:
    """The file, read once and written whole at every change. Any thread may ask."""

    def __init__(self, folder: Path) -> None:
        self.path = folder / FILE
        self._lock = threading.Lock()
        self._kept = self._read()

    def _read(self) -> _Kept:
        try:
            return _Kept.model_validate_json(self.path.read_bytes())
        except FileNotFoundError:
            return _Kept()
        except (OSError, ValidationError):
            log.warning("%s cannot be read: choose the passphrase for tablets again", self.path)
            return _Kept()

    def _write(self) -> None:
        """Raises: NotKept, the file as it was."""
        fresh = self.path.with_suffix(".fresh")
        try:
            handle = os.open(fresh, os.O_CREAT | os.O_WRONLY | os.O_TRUNC, 0o600)
            with os.fdopen(handle, "w", encoding="utf-8") as file:
                file.write(self._kept.model_dump_json(indent=1))
                file.flush()
                os.fsync(file.fileno())
            fresh.replace(self.path)
        except OSError as error:
            with suppress(OSError):
                fresh.unlink(missing_ok=True)
            raise NotKept(why_not(error, self.path.parent)) from None

    @property
    def passphrase_hash(self) -> str:
        """What the passphrase hashes to; empty where none was chosen."""
        return self._kept.passphrase_hash

    @property
    def secret(self) -> str:
        """What sessions are signed with."""
        return self._kept.secret

    def choose_passphrase(self, hashed: str) -> None:
        """Another passphrase, by its hash; whoever has joined must join again. Raises: NotKept."""
        with self._lock:
            self._kept = _Kept(passphrase_hash=hashed, next_id=self._kept.next_id)
            self._write()

    def let_in(self, name: str) -> str:
        """A tablet has joined. Returns what it is known by from now on, which is kept as its hash. Raises: NotKept."""
        token = secrets.token_urlsafe(24)
        with self._lock:
            made = Tablet(id=self._kept.next_id, token_hash=_hash(token), name=name, at=now(), seen=now())
            self._kept.next_id += 1
            self._kept.tablets = [*self._kept.tablets, made][-MOST_TABLETS:]
            self._write()
        return token

    def tablets(self) -> list[Tablet]:
        """Every tablet that has joined, the last first."""
        with self._lock:
            return [t.model_copy() for t in reversed(self._kept.tablets)]

    def tablet(self, token: str) -> Tablet | None:
        """Which tablet is known by a token; None for one of nobody."""
        with self._lock:
            return next((t.model_copy() for t in self._kept.tablets if t.token_hash == _hash(token)), None)

    def seen(self, tablet_id: int) -> None:
        """It is still there. Raises: NotKept."""
        with self._lock:
            self._of(tablet_id).seen = now()
            self._write()

    def put_out(self, tablet_id: int) -> None:
        """It is sent away, and must join again. Raises: NotFound, NotKept."""
        with self._lock:
            self._of(tablet_id).is_out = True
            self._write()

    def _of(self, tablet_id: int) -> Tablet:
        found = next((t for t in self._kept.tablets if t.id == tablet_id), None)
        if found is None:
            raise NotFound("No such tablet has joined.")
        return found


def move_secrets(path: Path) -> None:
    """Take what earlier versions kept of the network in the shop's own file out of it, and leave nothing of it in its
    free pages. The passphrase goes on; tablets join again, for what they are known by may stand in old copies.

    Raises: CannotOpen.
    """
    try:
        with closing(sqlite3.connect(path, timeout=1.5)) as db:
            tables = {row[0] for row in db.execute("select name from sqlite_master where type = 'table'")}
            if "meta" not in tables:
                return
            rows = dict(db.execute("select key, value from meta where key like 'lan %'").fetchall())
            joined = "guest" in tables and db.execute("select 1 from guest").fetchone()
            if not rows and not joined:
                return
            access = NetworkAccess(path.parent)
            if not access.passphrase_hash and rows.get("lan passphrase"):
                access.choose_passphrase(str(rows["lan passphrase"]))
            db.execute("pragma secure_delete = on")
            db.execute("delete from meta where key like 'lan %'")
            if joined:
                db.execute("delete from guest")
            db.commit()
            db.execute("pragma wal_checkpoint(truncate)")
    except sqlite3.DatabaseError as error:
        raise CannotOpen(f"{path} could not be opened: {why_not(error, path.parent)}") from None
    except NotKept as error:
        raise CannotOpen(str(error)) from None
