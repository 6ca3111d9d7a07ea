"""What a shop owns, as schedule, estimate of days and quick answer count it."""

from bright_willow.calendar.shop_clock import hours_of
from bright_willow.calendar.shop_work import floor_of, wall_of
from bright_willow.core.shop.shop import OwnClamps, Shop
from bright_willow.core.shop.week import Week
from tests.calendar.test_ics import NOW

SHOP = Shop(
    week=Week(places=3, frames=5, bags=4, people=6),
    clamps=(OwnClamps(kind="pipe", count=7), OwnClamps(kind="f_clamp", count=11)),
)


def test_each_resource_is_counted_by_its_own_figure():
    counted = {"saw": 1, "iron": 1, "oven": 1, "chamber": 3, "frame": 5, "bag": 4}
    assert SHOP.owned == counted | {"clamps": 18}
    assert SHOP.model_copy(update={"clamps": ()}).owned == counted  # where none were entered there are enough


def test_the_schedule_has_what_the_shop_owns():
    wall = wall_of(SHOP, NOW)
    floor = floor_of(SHOP, wall, NOW, 3)
    assert (floor.owned, floor.people) == (SHOP.owned, 6)
    assert floor.hours == hours_of(SHOP.week, wall, 3)
