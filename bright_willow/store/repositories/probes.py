"""Probes and their readings in the store."""

from __future__ import annotations

import hashlib
import secrets
from collections.abc import Iterable
from dataclasses import dataclass

from ..database import finite, now
from ..records import NotFound
from ..tables import ProbeRow
from .repository import Repository

THINNED = ((3600.0, 10.0), (86_400.0, 60.0), (30 * 86_400.0, 600.0))  # older than: one reading in so many seconds


@dataclass(frozen=True)
class Probe:
    """A probe that is registered."""

    id: int
    name: str
    kind: str


def _hash(key: str) -> str:
    return hashlib.sha256(key.encode()).hexdigest()


class ProbeRepository(Repository):
    """Probes and readings."""

    def add(self, name: str, kind: str) -> tuple[int, str]:
        """A new probe. Returns its number and its key, which is nowhere kept and shown but once. Raises: NotKept."""
        key = secrets.token_urlsafe(18)
        with self.database.writing():
            made = ProbeRow.create(name=name, kind=kind, key_hash=_hash(key), at=now())
        return int(made.id), key

    def find(self) -> list[Probe]:
        """Every probe that may send, the first registered first."""
        rows = ProbeRow.select().where(ProbeRow.gone.is_null()).order_by(ProbeRow.id)
        return [Probe(r.id, r.name, r.kind) for r in rows]

    def by_key_hash(self) -> dict[str, Probe]:
        """What the key of each probe hashes to (SHA-256, in hexadecimal)."""
        rows = ProbeRow.select().where(ProbeRow.gone.is_null())
        return {r.key_hash: Probe(r.id, r.name, r.kind) for r in rows}

    def remove(self, probe_id: int) -> None:
        """It may send no more; what it sent stays. Raises: NotFound, NotKept."""
        with self.database.writing():
            if not ProbeRow.update(gone=now()).where((ProbeRow.id == probe_id) & ProbeRow.gone.is_null()).execute():
                raise NotFound("There is no such sensor.")

    # -- readings --------------------------------------------------------------------------------------------------
    def add_readings(self, rows: Iterable[tuple[int, float, float]]) -> None:
        """Readings: probe, seconds since 1970, value; the later of two at one moment stands. Raises: NotKept."""
        made = list(rows)
        finite(*(v for _, at, value in made for v in (at, value)))
        with self.database.writing():
            self.database.db.connection().executemany(
                "insert or replace into reading (probe, at, value) values (?, ?, ?)", made
            )

    def readings(self, probe_id: int, from_s: float, to_s: float) -> list[tuple[float, float]]:
        """Readings of a probe between two times, in their order: seconds since 1970, value."""
        rows = self.database.db.execute_sql(
            "select at, value from reading where probe = ? and at between ? and ? order by at", (probe_id, from_s, to_s)
        )
        return [(at, value) for at, value in rows.fetchall()]

    def readings_in_steps(self, probe_id: int, from_s: float, to_s: float, step_s: float) -> list[tuple[float, float]]:
        """The mean of a probe's readings in every step of time, with the time of the last in it."""
        rows = self.database.db.execute_sql(
            "select max(at), avg(value) from reading where probe = ? and at between ? and ?"
            " group by cast(at / ? as integer) order by 1",
            (probe_id, from_s, to_s, step_s),
        )
        return [(at, value) for at, value in rows.fetchall()]

    def last_reading(self, probe_id: int) -> tuple[float, float] | None:
        """The latest reading of a probe."""
        row = self.database.db.execute_sql(
            "select at, value from reading where probe = ? order by at desc limit 1", (probe_id,)
        ).fetchone()
        return (row[0], row[1]) if row else None

    def thin_readings(self, now_s: float) -> int:
        """Of old readings only one in so many seconds is left: the first. Returns how many went. Raises: NotKept."""
        gone = 0
        with self.database.writing():
            for older, each in THINNED:
                gone += self.database.db.execute_sql(
                    "delete from reading where at < ? and exists (select 1 from reading r where r.probe = reading.probe"
                    " and r.at >= cast(reading.at / ? as integer) * ? and r.at < reading.at)",
                    (now_s - older, each, each),
                ).rowcount
        return gone
