"""Probes and their readings in the store; tablets that have joined."""

from __future__ import annotations

import datetime as dt
import hashlib
import secrets
from collections.abc import Iterable
from dataclasses import dataclass

from .base import Opened, finite, now
from .records import NotThere
from .tables import GuestRow, ProbeRow

THINNED = ((3600.0, 10.0), (86_400.0, 60.0), (30 * 86_400.0, 600.0))  # older than: one reading in so many seconds


@dataclass(frozen=True)
class Probe:
    """A probe that is registered."""

    id: int
    name: str
    kind: str


@dataclass(frozen=True)
class Guest:
    """A tablet that has joined: its name, when it joined, when it was last seen; put_out: whether it was sent away."""

    id: int
    token: str
    name: str
    at: dt.datetime
    seen: dt.datetime
    is_out: bool


def _hash(key: str) -> str:
    return hashlib.sha256(key.encode()).hexdigest()


class Probes(Opened):
    """Probes, readings and guests."""

    def add_probe(self, name: str, kind: str) -> tuple[int, str]:
        """A new probe. Returns its number and its key, which is nowhere kept and shown but once. Raises: NotKept."""
        key = secrets.token_urlsafe(18)
        with self.writing():
            made = ProbeRow.create(name=name, kind=kind, key_hash=_hash(key), at=now())
        return int(made.id), key

    def probes(self) -> list[Probe]:
        """Every probe that may send, the first registered first."""
        rows = ProbeRow.select().where(ProbeRow.gone.is_null()).order_by(ProbeRow.id)
        return [Probe(r.id, r.name, r.kind) for r in rows]

    def probe_keys(self) -> dict[str, Probe]:
        """What the key of each probe hashes to (SHA-256, in hexadecimal)."""
        rows = ProbeRow.select().where(ProbeRow.gone.is_null())
        return {r.key_hash: Probe(r.id, r.name, r.kind) for r in rows}

    def remove_probe(self, probe_id: int) -> None:
        """It may send no more; what it sent stays. Raises: NotThere, NotKept."""
        with self.writing():
            if not ProbeRow.update(gone=now()).where((ProbeRow.id == probe_id) & ProbeRow.gone.is_null()).execute():
                raise NotThere("There is no such probe.")

    # -- readings --------------------------------------------------------------------------------------------------
    def add_readings(self, rows: Iterable[tuple[int, float, float]]) -> None:
        """Readings: probe, seconds since 1970, value; the later of two at one moment stands. Raises: NotKept."""
        made = list(rows)
        finite(*(v for _, at, value in made for v in (at, value)))
        with self.writing():
            self.db.connection().executemany("insert or replace into reading (probe, at, value) values (?, ?, ?)", made)

    def readings(self, probe_id: int, from_s: float, to_s: float) -> list[tuple[float, float]]:
        """Readings of a probe between two times, in their order: seconds since 1970, value."""
        rows = self.db.execute_sql(
            "select at, value from reading where probe = ? and at between ? and ? order by at", (probe_id, from_s, to_s)
        )
        return [(at, value) for at, value in rows.fetchall()]

    def readings_in_steps(self, probe_id: int, from_s: float, to_s: float, step_s: float) -> list[tuple[float, float]]:
        """The mean of a probe's readings in every step of time, with the time of the last in it."""
        rows = self.db.execute_sql(
            "select max(at), avg(value) from reading where probe = ? and at between ? and ?"
            " group by cast(at / ? as integer) order by 1",
            (probe_id, from_s, to_s, step_s),
        )
        return [(at, value) for at, value in rows.fetchall()]

    def last_reading(self, probe_id: int) -> tuple[float, float] | None:
        """The latest reading of a probe."""
        row = self.db.execute_sql(
            "select at, value from reading where probe = ? order by at desc limit 1", (probe_id,)
        ).fetchone()
        return (row[0], row[1]) if row else None

    def thin_readings(self, now_s: float) -> int:
        """Of old readings only one in so many seconds is left: the first. Returns how many went. Raises: NotKept."""
        gone = 0
        with self.writing():
            for older, each in THINNED:
                gone += self.db.execute_sql(
                    "delete from reading where at < ? and exists (select 1 from reading r where r.probe = reading.probe"
                    " and r.at >= cast(reading.at / ? as integer) * ? and r.at < reading.at)",
                    (now_s - older, each, each),
                ).rowcount
        return gone

    # -- tablets ---------------------------------------------------------------------------------------------------
    def let_in(self, name: str) -> str:
        """A tablet has joined. Returns what it is known by from now on. Raises: NotKept."""
        token = secrets.token_urlsafe(24)
        with self.writing():
            GuestRow.create(token=token, name=name, at=now(), seen=now())
        return token

    def guests(self) -> list[Guest]:
        """Every tablet that has joined, the last first."""
        rows = GuestRow.select().order_by(GuestRow.id.desc()).limit(50)
        return [Guest(r.id, r.token, r.name, r.at, r.seen, r.put_out is not None) for r in rows]

    def guest(self, token: str) -> Guest | None:
        """Who is known by a token; none for one of nobody."""
        r = GuestRow.get_or_none(GuestRow.token == token)
        return Guest(r.id, r.token, r.name, r.at, r.seen, r.put_out is not None) if r else None

    def guest_seen(self, guest_id: int) -> None:
        """It is still there. Raises: NotKept."""
        with self.writing():
            GuestRow.update(seen=now()).where(GuestRow.id == guest_id).execute()

    def put_out(self, guest_id: int) -> None:
        """It is sent away, and must join anew. Raises: NotThere, NotKept."""
        with self.writing():
            if not GuestRow.update(put_out=now()).where(GuestRow.id == guest_id).execute():
                raise NotThere("No such tablet has joined.")
