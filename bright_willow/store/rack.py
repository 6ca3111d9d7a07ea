"""The shop's own figures, and the lots on its rack."""

from __future__ import annotations

from pydantic import ValidationError

from ..core.learning.durations import FEW, learnt_times
from ..core.shop.shop import LearntTimeOf, Shop
from ..core.shop.times import time_table
from ..core.wood.lot import Lot
from .database import Database
from .records import DamagedRow, KeptLot, NotFound, Unreadable
from .tables import LotRow, MetaRow, ShopRow

UNREADABLE_SHOP = "The shop's settings cannot be read; default settings are used until you save new ones."


class Rack(Database):
    """Shop and lots in the store."""

    def shop(self) -> Shop:
        """The shop's own figures; the program's where there are none, or none that can be read."""
        return self._remembered(("shop",), self._read_shop)  # type: ignore[no-any-return]

    def _read_shop(self) -> Shop:
        row = ShopRow.get_or_none()
        try:
            made = Shop.model_validate_json(row.body) if row else Shop()
        except ValidationError:
            made = Shop()
        return made.model_copy(update={"learnt_times": () if "times" in made.by_allowance else self.learnt_times()})

    def learnt_times(self) -> tuple[LearntTimeOf, ...]:
        """What the shop's runs teach of its moves, where they were seen often enough."""
        seen = self.times_seen()  # type: ignore[attr-defined]
        if not seen:
            return ()
        made = learnt_times(seen, {t.key: t.seconds for t in time_table().values()})
        return tuple(
            LearntTimeOf(
                key=t.key,
                seconds=round(t.seconds.likely, 1),
                low_s=round(t.seconds.low, 1),
                high_s=round(t.seconds.high, 1),
                seen=round(t.times, 1),
            )
            for t in made.values()
            if t.times >= FEW
        )

    def shop_damaged(self) -> DamagedRow | None:
        """The shop's row, where it cannot be read."""
        row = ShopRow.get_or_none()
        try:
            if row:
                Shop.model_validate_json(row.body)
        except ValidationError:
            return DamagedRow("shop", row.id, "The shop", UNREADABLE_SHOP)
        return None

    def save_shop(self, shop: Shop) -> None:
        """Keep the shop's figures. A row that could not be read is put aside, not lost. Raises: NotKept."""
        body = shop.model_dump_json()
        with self.writing():
            row = ShopRow.get_or_none()
            if row and row.body == body:
                return
            if row and self.shop_damaged():
                MetaRow.replace(key="shop put aside", value=row.body).execute()
            before = self._read_shop()
            if row:
                ShopRow.update(body=body).where(ShopRow.id == row.id).execute()
            else:
                ShopRow.create(body=body)
            shown_only = {"units", "name"}
            if before.model_dump(exclude=shown_only) != shop.model_dump(exclude=shown_only):
                self._count_up("shop")
            if before.others != shop.others:
                self._count_up("book")

    def lots(self) -> list[KeptLot]:
        """Every lot on the rack that can be read, by name. Names are unique."""
        return [kept for kept in map(self._lot_in, LotRow.select().order_by(LotRow.name)) if kept]

    def lots_damaged(self) -> list[DamagedRow]:
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
        """Raises: NotThere, Unreadable."""
        row = LotRow.get_or_none(LotRow.id == lot_id)
        if row is None:
            raise NotFound("There is no such lot.")
        kept = self._lot_in(row)
        if kept is None:
            raise Unreadable(f"The lot “{row.name}” cannot be read.", "lot", row.id)
        return kept

    def keep_lot(self, lot: Lot, lot_id: int | None = None) -> int | None:
        """A new lot, or an old one changed. None when another lot has that name. Raises: NotKept."""
        with self.writing():
            namesake = LotRow.get_or_none(LotRow.name == lot.name)
            if namesake is not None and namesake.id != lot_id:
                return None
            if lot_id is None:
                return int(LotRow.create(name=lot.name, body=lot.model_dump_json()).id)
            LotRow.update(name=lot.name, body=lot.model_dump_json()).where(LotRow.id == lot_id).execute()
        return lot_id

    def remove_lot(self, lot_id: int) -> None:
        """Take a used-up lot off the rack; jobs keep what they know of it. Raises: NotThere, NotKept."""
        with self.writing():
            if not LotRow.delete().where(LotRow.id == lot_id).execute():
                raise NotFound("There is no such lot.")
