"""The shop's own figures."""

from __future__ import annotations

from pydantic import ValidationError

from ...core.learning.durations import FEW, learnt_times
from ...core.shop.shop import LearntTimeOf, Shop
from ...core.shop.times import time_table
from ..records import DamagedRow
from ..tables import MetaRow, ShopRow
from .observed_times import observed_times
from .repository import Repository

UNREADABLE_SHOP = "The shop's settings cannot be read; default settings are used until you save new ones."


def saved_shop() -> Shop:
    """Return the shop's figures as saved; the program's where there are none, or none that can be read."""
    row = ShopRow.get_or_none()
    try:
        return Shop.model_validate_json(row.body) if row else Shop()
    except ValidationError:
        return Shop()


class ShopRepository(Repository):
    """The one shop, with the times its runs have shown."""

    def get(self) -> Shop:
        """Return the shop's own figures; the program's where there are none, or none that can be read."""
        return self.database.remembered(("shop",), self._with_learned_times)  # type: ignore[no-any-return]

    def _with_learned_times(self) -> Shop:
        shop = saved_shop()
        return shop.model_copy(update={"learnt_times": () if "times" in shop.by_allowance else self.learned_times()})

    def learned_times(self) -> tuple[LearntTimeOf, ...]:
        """Return how long the shop's moves take by its runs, where they were seen often enough."""
        seen = observed_times()
        if not seen:
            return ()
        learned = learnt_times(seen, {t.key: t.seconds for t in time_table().values()})
        return tuple(
            LearntTimeOf(
                key=t.key,
                seconds=round(t.seconds.likely, 1),
                low_s=round(t.seconds.low, 1),
                high_s=round(t.seconds.high, 1),
                seen=round(t.times, 1),
            )
            for t in learned.values()
            if t.times >= FEW
        )

    def damaged(self) -> DamagedRow | None:
        """Return the shop's row where it cannot be read."""
        row = ShopRow.get_or_none()
        try:
            if row:
                Shop.model_validate_json(row.body)
        except ValidationError:
            return DamagedRow("shop", row.id, "The shop", UNREADABLE_SHOP)
        return None

    def save(self, shop: Shop) -> None:
        """Save the shop's figures. A row that could not be read is put aside, not lost. Raises: NotKept."""
        body = shop.model_dump_json()
        with self.database.writing():
            row = ShopRow.get_or_none()
            if row and row.body == body:
                return
            if row and self.damaged():
                MetaRow.replace(key="shop put aside", value=row.body).execute()
            before = self._with_learned_times()
            if row:
                ShopRow.update(body=body).where(ShopRow.id == row.id).execute()
            else:
                ShopRow.create(body=body)
            shown_only = {"units", "name"}
            if before.model_dump(exclude=shown_only) != shop.model_dump(exclude=shown_only):
                self.database.count_up("shop")
            if before.others != shop.others:
                self.database.count_up("book")
