"""Steamed solid stock bent free: nothing holds its outside together."""

from __future__ import annotations

from ..checks import cautions as caution
from ..common.findings import Change
from ..form.construction import FormSketch
from ..workpiece.workpiece import HotBlank
from .bent_on_form import BentOnForm
from .hot_bending import COMMON, ENDS, STEAMED


class SteamFree(BentOnForm):
    """Steamed and bent by hand round the form."""

    key = "steam_free"
    name = "Steam bend, no strap"
    asked_as = "steamed"
    description = "Solid wood steamed and bent by hand, with nothing to hold the outside together."
    set_key = "free"
    can_be_backed = True
    checks = (*STEAMED, *ENDS, *COMMON)

    @property
    def other_way(self) -> Change | None:
        return Change("Bend it inside a strap.", {"way": "steam_strap"})

    def cautions(self, make: HotBlank) -> tuple[str, ...]:
        return (*caution.STEAM, caution.BENT, caution.CARRIES, caution.FIRST)

    def needs(self, make: HotBlank, form: FormSketch) -> tuple[str, ...]:
        steam = f"a vented steam box and {self.job.heat.power_kw:g} kW of steam"
        return steam, "strong hands", "a form and a drying jig"
