"""What there is to say about a bend by heat. Each check is a small pure function; the tables at the end list them."""

from __future__ import annotations

import math
from dataclasses import replace

from ..common.findings import Change, Finding
from ..common.fineness import days_said
from ..heat.chamber import GOOD_CHANGES, POOR_CHANGES
from ..heat.conduction import MOST_MOISTURE_PCT
from ..heat.limits import (
    BREAKS_USE,
    DRY_MOST_MM,
    DRY_THICK_MM,
    NEAR_USE,
    TIGHT_USE,
    chance_whole,
)
from ..heat.steam_plan import SteamHeat
from ..workpiece.workpiece import HotBlank, StraightenedPiece
from .check_context import Check, CheckContext

SCORCH_C = 200.0
HOPELESS = 2.0  # times the window, after which nothing is left of the heat. Grade: allowance.
SOFTENS_K = 3.0  # a wall that softens within so much of the steam is a Check
GROWS_MM = 1.0  # of growth after release, below which nothing is said


Hot = CheckContext[HotBlank]
Steamed = CheckContext[HotBlank | StraightenedPiece]


def _steaming(at: Steamed) -> SteamHeat | None:
    """The steam, where it is steamed."""
    return at.make.heat if isinstance(at.make.heat, SteamHeat) else None


def can_it(at: Hot) -> Finding | None:
    """Whether the stock can make the bend, by the chance of a whole piece."""
    limits = at.make.limits
    reason = f"Radius ÷ thickness is {limits.ratio:.1f} at the tightest place; this wood needs {limits.needed:.1f}."
    where = (limits.at_mm, limits.at_mm)
    chance = limits.chance
    if chance >= chance_whole(TIGHT_USE):
        return Finding("heat.fits", "fit", "bend", "OK to bend.", reason)
    if chance >= chance_whole(NEAR_USE):
        message = "Borderline: close to the limit of this wood."
        return _with_fixes(Finding("heat.tight", "watch", "bend", message, reason, None, where), at)
    broken = min(10, max(1, round(10 * (1 - chance))))
    if chance >= chance_whole(BREAKS_USE):
        message = f"About {broken} of 10 will break."
        return _with_fixes(Finding("heat.some_break", "watch", "bend", message, reason, None, where), at)
    message = "Likely to break." if broken == 10 else f"Likely to break: about {broken} of 10 would."
    return _with_fixes(Finding("heat.breaks", "stop", "bend", message, reason, None, where), at)


def _with_fixes(finding: Finding, at: Hot) -> Finding:
    """A finding with everything that would bring the bend within the limit."""
    fixes = at.advice.easier(at.make.limits)
    return replace(finding, fix=fixes[0] if fixes else None, more=fixes[1:])


def no_data(at: Hot) -> Finding | None:
    """Whether the species has a figure for this way."""
    if at.make.limits.has_data:
        return None
    return Finding(
        "heat.no_data",
        "watch",
        "stock",
        f"Make test bends first: there is no figure for bending {at.wood.said} hot.",
        f"Calculated from {at.make.limits.without_data}, which most steamed woods can take.",
    )


def chamber_heat(at: Steamed) -> Finding | None:
    """Whether the steam is hot enough."""
    heat = _steaming(at)
    if heat is None or heat.steam.chamber_c >= 93:
        return None
    steam = heat.steam
    if steam.chamber_c >= steam.boiling_c - 0.05:
        return Finding(
            "heat.high_up",
            "watch",
            "steam",
            f"Water boils at {at.temperature(steam.boiling_c)} here: steaming takes longer and more pieces break.",
            "No vented box gets hotter at this altitude; never close the vent to raise it.",
        )
    return Finding(
        "heat.cool_chamber",
        "watch",
        "steam",
        f"At {at.temperature(steam.chamber_c)} the steam box is cool: steaming takes longer and more pieces break.",
        f"Water boils at {at.temperature(steam.boiling_c)} here; {at.temperature(93)} or more is usual.",
    )


def steam_times(at: Steamed) -> Finding | None:
    """Whether the planned time lies between hot through and too long."""
    heat = _steaming(at)
    if heat is None:
        return None
    time = heat.steam.time
    if time.planned_min < time.earliest_min - 0.5:
        return Finding(
            "heat.short_steam",
            "watch",
            "steam",
            f"By this rule it comes out after {time.planned_min:.0f} minutes, before it is heated through.",
            f"The middle is hot after {time.earliest_min:.0f} minutes.",
            Change("Use “heated through + hold time”.", {"heat.school": "heat_through"}),
        )
    if time.latest_min is not None and time.planned_min > time.latest_min + 0.5:
        return Finding(
            "heat.long_steam",
            "watch",
            "steam",
            f"{time.planned_min:.0f} minutes is too long for wood this thin: it gets brittle.",
            f"The middle is hot after {time.earliest_min:.0f} minutes; {time.latest_min:.0f} is the most.",
            Change("Use “heated through + hold time”.", {"heat.school": "heat_through"}),
        )
    return None


def wet(at: Steamed) -> Finding | None:
    """Whether the moisture lies beyond the published range."""
    heat = _steaming(at)
    if heat is None or heat.steam.moisture_pct <= MOST_MOISTURE_PCT:
        return None
    steam = heat.steam
    return Finding(
        "heat.beyond_range",
        "watch",
        "stock",
        f"At {steam.moisture_pct:.0f} % moisture the steam time is only a guess.",
        f"Handbook figures go up to {MOST_MOISTURE_PCT:.0f} %; wetter wood heats more slowly than shown.",
    )


def dry_stock(at: Steamed) -> Finding | None:
    """Whether kiln-dried stock was soaked."""
    if _steaming(at) is None or at.job.stock.dryness != "kiln_dried" or at.job.heat.soaked == "days":
        return None
    return Finding(
        "heat.kiln_dried",
        "watch",
        "stock",
        "Pre-soak it for days or use air-dried wood: kiln-dried wood bends badly.",
        "It bends to 0.6 of the strain of green wood, 0.8 after days of pre-soaking; with a strap it loses half as "
        "much.",
        Change("Pre-soak it for days.", {"heat.soaked": "days"}),
    )


def window(at: Steamed) -> Finding | None:
    """Whether it gets to the form in time."""
    heat = _steaming(at)
    if heat is None or (not heat.in_bag and heat.steam.handling_s <= heat.steam.window_s * 0.8):
        return None
    if heat.in_bag:
        return Finding(
            "heat.in_bag",
            "fit",
            "bend",
            "No hurry in the bag: it stays hot while you pull.",
            "Take up a few clicks when the line goes slack, steam on at full bend, then let it cool in place.",
        )
    steam = heat.steam
    late = steam.handling_s > HOPELESS * steam.window_s
    choice = at.job.heat
    spare = 0.75 * steam.window_s - (steam.handling_s - choice.moves * choice.clamp_s / choice.hands)
    hands = math.ceil(choice.moves * choice.clamp_s / spare) if spare > 0 else 99
    more = Change(f"Work with {hands} people.", {"heat.hands": hands})
    return Finding(
        "heat.window",
        "stop" if late else "watch",
        "moves",
        f"Box to clamp takes {steam.handling_s:.0f} s; the working time is {steam.window_s:.0f} s.",
        "Get a helper or cut a step, lay everything out, and do a cold dry run.",
        more if choice.hands < hands <= 6 else None,
    )


def soft_pipe(at: Steamed) -> Finding | None:
    """Whether the steam box is of a plastic that softens in this heat."""
    heat = _steaming(at)
    if heat is None or heat.chamber.wall.softens_c is None:
        return None
    wall, hot = heat.chamber.wall, heat.steam.chamber_c
    if heat.chamber.wall.softens_c >= hot + SOFTENS_K:
        return None
    return Finding(
        "heat.chamber_softens",
        "watch",
        "steam",
        f"{wall.name} softens at about {at.temperature(heat.chamber.wall.softens_c)}; the steam is "
        f"{at.temperature(hot)}.",
        f"{wall.caution[:1].upper()}{wall.caution[1:]}.",
        Change("Build the box of plywood.", {"heat.wall": "plywood"}),
    )


def chamber(at: Steamed) -> Finding | None:
    """Whether the steam box holds the stock and is kept full of steam."""
    heat = _steaming(at)
    if heat is None:
        return None
    box = heat.chamber
    if not box.fits:
        size = " × ".join(at.length(v) for v in box.proposed_mm)
        return Finding(
            "heat.chamber_small",
            "stop",
            "steam",
            "The wood does not fit the steam box with room for steam around it.",
            f"It needs {size} inside.",
            Change(
                "Build it that size.",
                {"heat.own_inside_high_mm": None, "heat.own_inside_wide_mm": None, "heat.own_inside_long_mm": None},
            ),
        )
    if box.holds_c < box.ready_c or box.warm_up_min is None:
        air = at.shop.temperature_c
        need = at.job.heat.power_kw * max(1.4, (box.ready_c - air) / max(1.0, box.holds_c - air))
        return Finding(
            "heat.chamber_weak",
            "stop",
            "steam",
            f"Not enough steam: the box stops at {at.temperature(box.holds_c)}.",
            f"It needs {at.temperature(box.ready_c)}: use a smaller box, insulation or more power.",
            Change(f"Use {need:.1f} kW.", {"heat.power_kw": round(need, 1)}) if need <= 60 else None,
        )
    if box.changes_per_min < POOR_CHANGES:
        need = POOR_CHANGES * 1.05 * box.litres / 44
        return Finding(
            "heat.chamber_large",
            "stop",
            "steam",
            f"The box is too large for this steam: {box.changes_per_min:.1f} changes a minute, and two is the least.",
            f"At the inlet it reaches {at.temperature(box.holds_c)} in {box.warm_up_min:.0f} min; the corners stay "
            "cooler.",
            Change(f"Use {need:.1f} kW.", {"heat.power_kw": round(need, 1)}) if need <= 60 else None,
        )
    if box.changes_per_min < GOOD_CHANGES:
        return Finding(
            "heat.chamber_slow",
            "watch",
            "steam",
            f"The steam box gets {box.changes_per_min:.1f} changes of steam a minute; four or more keep it even.",
            "Use a smaller box, insulation or more power.",
        )
    return None


def short_ends(at: Hot) -> Finding | None:
    """Whether the ends are long enough to bend to their very tip, where the bend runs to the end."""
    if _steaming(at) is None:
        return None
    trims, needs = at.job.part_as_drawn.trims_mm, at.make.ends_need_mm
    short = [side for side in (0, 1) if trims[side] < needs[side] - 0.5]
    if not short:
        return None
    side = max(short, key=lambda i: needs[i] - trims[i])
    name = ("left", "right")[side]
    left, right = (math.ceil(max(own, need)) for own, need in zip(trims, needs, strict=True))
    if at.job.is_right:
        left, right = right, left
    return Finding(
        "heat.short_ends",
        "watch",
        "shape",
        f"Leave {at.length(needs[side])} beyond the bend at the {name} end.",
        f"The last few inches stay straight; {at.length(trims[side])} is there now.",
        Change(
            f"Leave {at.length(needs[side])}.",
            {"part.trim_mm": float(left), "part.right_trim_mm": None if left == right else float(right)},
        ),
    )


def gentle(at: Hot) -> Finding | None:
    """Whether stretches are so gentle that most of their bend springs back."""
    if not at.make.gentle:
        return None
    start, end = at.make.gentle[0]
    return Finding(
        "heat.gentle",
        "watch",
        "form",
        f"Bend one and measure it: from {at.length(start)} to {at.length(end)} most of the bend springs back.",
        "In a bend this gentle, springback is hard to predict.",
        None,
        (start, end),
    )


def early(at: Hot) -> Finding | None:
    """Whether it comes off so moist, with nothing to hold it, that it goes on springing back."""
    after = at.make.drying
    if _steaming(at) is None or after.has_jig or after.early_tip_mm < GROWS_MM:
        return None
    return Finding(
        "heat.early",
        "watch",
        "dry",
        f"After {after.on_form_h:g} h on the form it is still moist: each end springs back about "
        f"{at.about(after.early_tip_mm)} more within {days_said(after.grows_days)}.",
        "Nothing holds it while it dries.",
        Change("Hold it in a drying jig.", {"heat.held_by": "frame"}),
    )


def hot_release(at: Steamed) -> Finding | None:
    """Whether it is released before it is cool through."""
    after = at.make.drying
    if _steaming(at) is None or after.on_form_h >= after.cool_h - 1e-9:
        return None
    hours = math.ceil(10 * after.cool_h) / 10
    field = "heat.clamps_h" if isinstance(at.make, StraightenedPiece) else "heat.on_form_h"
    return Finding(
        "heat.still_hot",
        "stop",
        "bend" if isinstance(at.make, StraightenedPiece) else "dry",
        f"After {after.on_form_h:g} h it has not cooled through and springs back.",
        f"This thick, it takes {hours:g} h to cool.",
        Change(f"Leave it for {hours:g} h.", {field: float(hours)}),
    )


def scorch(at: Hot) -> Finding | None:
    """Whether the iron scorches."""
    if isinstance(at.make.heat, SteamHeat) or at.make.heat.surface_c < SCORCH_C:
        return None
    return Finding(
        "heat.scorches",
        "stop",
        "bend",
        f"The wood scorches at {at.temperature(at.make.heat.surface_c)}.",
        f"Use {at.temperature(150)} to {at.temperature(180)} at the surface and keep it moving.",
        Change(f"Use {at.temperature(165)}.", {"heat.iron_c": 165.0}),
    )


def thick_strip(at: Hot) -> Finding | None:
    """Whether the strip is thin enough for dry heat."""
    if isinstance(at.make.heat, SteamHeat) or at.make.thickness_mm <= DRY_THICK_MM:
        return None
    too_thick = at.make.thickness_mm > DRY_MOST_MM
    return Finding(
        "heat.thick_strip",
        "stop" if too_thick else "watch",
        "bend",
        f"{at.length(at.make.thickness_mm)} is too thick for dry heat: it scorches outside before it bends.",
        f"It works up to {at.length(DRY_THICK_MM)}; above {at.length(DRY_MOST_MM)} steam it.",
        at.advice.other_way,
    )


def misses(at: Hot) -> Finding | None:
    """Whether the school chosen for the form leaves the piece off its shape."""
    if at.missed_mm < 2.0:
        return None
    return Finding(
        "heat.misses",
        "watch",
        "form",
        f"Off this form the ends miss by {at.about(at.missed_mm)}.",
        "The form does not allow for the springback of hot wood.",
        Change("Use the calculated overbend.", {"form.school": "computed"}),
    )


STEAM: tuple[Check[HotBlank | StraightenedPiece], ...] = (
    chamber_heat,
    steam_times,
    wet,
    dry_stock,
    window,
    soft_pipe,
    chamber,
)
DRY_HEAT: tuple[Check[HotBlank], ...] = (scorch, thick_strip)
SPRUNG: tuple[Check[HotBlank], ...] = (hot_release, early, gentle, misses)
STRAIGHTENED: tuple[Check[HotBlank | StraightenedPiece], ...] = (hot_release,)
