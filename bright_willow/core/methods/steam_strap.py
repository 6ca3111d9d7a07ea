"""Steamed solid stock bent inside a strap whose stops keep its outside from stretching."""

from __future__ import annotations

from ..checks import cautions as caution
from ..checks import strap as on_strap
from ..form.construction import FormSketch
from ..workpiece.workpiece import HotBlank
from .bent_on_form import BentOnForm
from .hot_bending import COMMON, ENDS, STEAMED


class SteamStrap(BentOnForm):
    """Steamed, strapped end to end, pulled round the form."""

    key = "steam_strap"
    name = "Steam bend with strap"
    asked_as = "steamed"
    description = (
        "Solid wood steamed and bent in a compression strap, whose end stops keep the outside from stretching."
    )
    set_key = "strap"
    has_strap = True
    checks = (*STEAMED, *on_strap.STRAP, *ENDS, *COMMON)

    def cautions(self, make: HotBlank) -> tuple[str, ...]:
        return (*caution.STEAM, *caution.STRAP, caution.BENT, caution.CARRIES, caution.FIRST)

    def needs(self, make: HotBlank, form: FormSketch) -> tuple[str, ...]:
        steam = f"a vented steam box and {self.job.heat.power_kw:g} kW of steam"
        return steam, "a compression strap with end stops", "a lever or winch", "a form and a drying jig"
