"""Boards cut for a job: off the rack when they are sawn, off-cuts back to it, and all of it taken back."""

from __future__ import annotations

import datetime as dt
import json
from dataclasses import asdict, dataclass

from ...core.wood.lot import Lot
from ..database import now
from ..records import NotFound
from ..tables import CutRow, JobRow, LotRow
from .repository import Repository


@dataclass(frozen=True)
class KeptCut:
    """What a job's sawing took: boards of which lot, the lot as it was, and off-cuts as lots with how many of each."""

    at: dt.datetime
    lot: str
    boards: int
    before: str
    off_cuts: tuple[tuple[str, int], ...]


class BoardCutRepository(Repository):
    """Cuts in the store."""

    def of_job(self, job_id: int) -> KeptCut | None:
        """The cut of a job that stands."""
        row = self._standing(job_id)
        if row is None:
            return None
        data = json.loads(row.body)
        return KeptCut(row.at, data["lot"], data["boards"], data["before"], tuple((n, c) for n, c in data["off_cuts"]))

    @staticmethod
    def _standing(job_id: int) -> CutRow | None:
        rows = CutRow.select().where((CutRow.job == job_id) & CutRow.taken_back.is_null())
        return rows.order_by(CutRow.id.desc()).first()  # type: ignore[no-any-return]

    def add(self, job_id: int, lot: str, boards: int, off_cuts: list[Lot]) -> str:
        """Take boards of a lot for a job and put off-cuts back as lots of their own. Returns why not, or nothing.

        Raises: NotFound, NotKept.
        """
        with self.database.writing():
            if JobRow.get_or_none(JobRow.id == job_id) is None:
                raise NotFound("There is no such job.")
            if self._standing(job_id) is not None:
                return "It is cut already: undo that first."
            row = LotRow.get_or_none(LotRow.name == lot)
            if row is None:
                return f"The lot “{lot}” is no longer on the rack."
            own = Lot.model_validate_json(row.body)
            if own.count < boards:
                return f"Only {own.count} of “{lot}” {'are' if own.count != 1 else 'is'} left on the rack."
            self._put(own.model_copy(update={"count": own.count - boards}))
            kept: dict[str, int] = {}
            for one in off_cuts:
                there = LotRow.get_or_none(LotRow.name == one.name)
                have = Lot.model_validate_json(there.body).count if there else 0
                self._put(one.model_copy(update={"count": have + one.count}))
                kept[one.name] = kept.get(one.name, 0) + one.count
            made = KeptCut(now(), lot, boards, row.body, tuple(kept.items()))
            CutRow.create(job=job_id, at=made.at, body=json.dumps(asdict(made) | {"at": ""}))
        return ""

    def undo(self, job_id: int) -> str:
        """Put the boards back and take the off-cuts out, as far as they still lie there. Returns what is missing.

        Raises: NotFound, NotKept.
        """
        made = self.of_job(job_id)
        if made is None:
            raise NotFound("Nothing is cut for this job.")
        missing = []
        with self.database.writing():
            row = LotRow.get_or_none(LotRow.name == made.lot)
            was = Lot.model_validate_json(row.body if row else made.before)
            have = was.count if row else 0
            self._put(was.model_copy(update={"count": have + made.boards}))
            for name, count in made.off_cuts:
                there = LotRow.get_or_none(LotRow.name == name)
                own = Lot.model_validate_json(there.body) if there else None
                if own is None or own.count < count:
                    missing.append(name)
                if own is not None:
                    left = max(0, own.count - count)
                    if left:
                        self._put(own.model_copy(update={"count": left}))
                    else:
                        LotRow.delete().where(LotRow.name == name).execute()
            standing = self._standing(job_id)
            CutRow.update(taken_back=now()).where(CutRow.id == standing.id).execute()  # type: ignore[union-attr]
        return f"No longer on the rack, so not removed: {', '.join(missing)}." if missing else ""

    @staticmethod
    def _put(lot: Lot) -> None:
        body = lot.model_dump_json()
        if not LotRow.update(body=body).where(LotRow.name == lot.name).execute():
            LotRow.create(name=lot.name, body=body)
