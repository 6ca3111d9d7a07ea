"""The lots on the rack."""

from __future__ import annotations

from pydantic import ValidationError

from ...core.wood.lot import Lot
from ..records import DamagedRow, KeptLot, NotFound, Unreadable
from ..tables import LotRow
from .repository import Repository


class RackRepository(Repository):
    """Lots of boards."""

    def lots(self) -> list[KeptLot]:
        """Every lot on the rack that can be read, by name. Names are unique."""
        return [kept for kept in map(self._lot_in, LotRow.select().order_by(LotRow.name)) if kept]

    def damaged_lots(self) -> list[DamagedRow]:
        """Lots that cannot be read."""
        message = "This lot cannot be read; all others work."
        rows = LotRow.select().order_by(LotRow.name)
        return [DamagedRow("lot", r.id, r.name, message) for r in rows if self._lot_in(r) is None]

    @staticmethod
    def _lot_in(row: LotRow) -> KeptLot | None:
        try:
            return KeptLot(row.id, Lot.model_validate_json(row.body))
        except ValidationError:
            return None

    def lot(self, lot_id: int) -> KeptLot:
        """Raises: NotFound, Unreadable."""
        row = LotRow.get_or_none(LotRow.id == lot_id)
        if row is None:
            raise NotFound("There is no such lot.")
        kept = self._lot_in(row)
        if kept is None:
            raise Unreadable(f"The lot “{row.name}” cannot be read.", "lot", row.id)
        return kept

    def save(self, lot: Lot, lot_id: int | None = None) -> int | None:
        """A new lot, or an old one changed. None when another lot has that name. Raises: NotKept."""
        with self.database.writing():
            namesake = LotRow.get_or_none(LotRow.name == lot.name)
            if namesake is not None and namesake.id != lot_id:
                return None
            if lot_id is None:
                return int(LotRow.create(name=lot.name, body=lot.model_dump_json()).id)
            LotRow.update(name=lot.name, body=lot.model_dump_json()).where(LotRow.id == lot_id).execute()
        return lot_id

    def remove(self, lot_id: int) -> None:
        """Take a used-up lot off the rack; jobs keep what they know of it. Raises: NotFound, NotKept."""
        with self.database.writing():
            if not LotRow.delete().where(LotRow.id == lot_id).execute():
                raise NotFound("There is no such lot.")
