"""What there is to say about a form before anything is cut. Each check is a small function; FORM_CHECKS lists them."""

from __future__ import annotations

import math
from collections.abc import Callable

from ..common.amounts import BOLT
from ..common.findings import Change, Finding
from ..form.closing import STARVED, STILL_OPEN_MM
from ..form.construction import FormBuild
from ..form.hold_downs import BOLT_N, MOST_BOLTS
from ..form.parts import HOLE_MM
from ..form.skin import least_skin_radius_mm
from ..form.stiffness import STOP_MM, WATCH_MM
from ..wood.sheets import sheet_table
from ..workpiece.workpiece import Make
from .check_context import Check, CheckContext

ROUNDING = 1e-9  # a hook is made just as thick as it must be
WEDGE = 0.45  # share below which the cavity narrows so much that legs are pinched first. Grade: allowance.


def closes(at: CheckContext[Make]) -> Finding | None:
    """Whether the far half comes home and presses everywhere."""
    check = at.form.closing
    if check is None:
        return None
    worst = min(check.pressers, key=lambda p: p.least_share)
    stretch = next((t for t in worst.troubles if t.least_share == worst.least_share), None)
    if not worst.closes:
        where = (stretch.start_mm, stretch.end_mm) if stretch else None
        return Finding(
            "form.undercut",
            "stop",
            "form",
            f"The {worst.name} cannot close: the form is undercut.",
            "Where the face turns away from the push, nothing can get past it in or out.",
            _way_out(at),
            where,
        )
    if worst.least_share < STARVED:
        where = (stretch.start_mm, stretch.end_mm) if stretch else None
        return Finding(
            "form.starved",
            "watch",
            "form",
            f"The {worst.name} presses only {worst.least_share:.0%} at the steepest place: the joint starves there.",
            f"On a slope only part of a straight push presses; below {STARVED:.0%}, push from another side.",
            _way_out(at),
            where,
        )
    if worst.least_share < WEDGE:
        return Finding(
            "form.wedge",
            "watch",
            "form",
            f"It closes like a wedge: {at.length(STILL_OPEN_MM)} is still open in the middle when the steepest place "
            f"has {at.length(worst.pinched_mm)}.",
            "Clamp the middle down first, then the legs, while the strips can still slide.",
            _way_out(at) if at.form.kind == "two_part" and not at.job.form.splits_mm else None,
        )
    return Finding(
        "form.closes",
        "fit",
        "form",
        "The form closes and presses everywhere.",
        f"At the steepest place {check.least_share:.0%} of the pressure reaches the layup.",
    )


def _way_out(at: CheckContext[Make]) -> Change | None:
    """Another direction if that is enough, else a split, side pressers, or one side only."""
    check = at.form.closing
    assert check is not None
    if len(check.pressers) == 1:
        only = check.pressers[0]
        if (
            only.best_share >= STARVED
            and only.best_share > only.least_share + 0.02
            and abs(only.best_direction_deg) < 84
        ):
            turn = round(only.best_direction_deg, 1)
            return Change(f"Close it at {turn:g}°.", {"form.close_deg": turn})
    if at.form.kind == "two_part" and check.splits_advised_mm and not at.job.form.splits_mm:
        places = ", ".join(_from_middle(at, s) for s in check.splits_advised_mm)
        if len(check.splits_advised_mm) == 2:
            return Change(
                "Make it a three-piece form with side cauls.", {"form.kind": "three_part", "form.splits_mm": ()}
            )
        return Change(f"Split the outer half {places}.", {"form.splits_mm": check.splits_advised_mm})
    if at.form.kind == "two_part" and not at.job.form.splits_mm and check.least_share >= STARVED:
        return Change("Make it a three-piece form with side cauls.", {"form.kind": "three_part", "form.splits_mm": ()})
    return Change("Use a single form.", {"form.kind": "one_sided", "form.splits_mm": ()})


def _from_middle(at: CheckContext[Make], place_mm: float) -> str:
    if abs(place_mm) < 0.5:
        return "at the middle"
    return f"{at.length(abs(place_mm))} {'left' if place_mm < 0 else 'right'} of the middle"


def lets_go(at: CheckContext[Make]) -> Finding | None:
    """Whether the released part lifts straight off."""
    check = at.form.closing
    if check is None or check.releases:
        return None
    return Finding(
        "form.holds_on",
        "watch",
        "form",
        "The part will lock on the form: slide it off sideways, or build the form to come apart.",
        "Its legs lean past each other even after springback.",
    )


def stiff(at: CheckContext[Make]) -> Finding | None:
    """Whether the weakest place gives."""
    give = at.form.deflection
    if give is None or give.value_mm < WATCH_MM:
        return None
    choice = at.job.form
    stop = give.value_mm >= STOP_MM
    if choice.build in ("ribs", "sawn_sides"):
        needed = choice.skin_mm * (give.value_mm / (WATCH_MM * 0.8)) ** (1 / 3)
        thick = next((t for t in (6.5, 9.0, 12.0, 18.0, 25.0) if t >= needed), None)
        change = (
            Change(f"Use a skin of {at.length(thick)}.", {"form.skin_mm": thick})
            if thick
            else Change("Build it as a stack.", {"form.build": "stack"})
        )
    else:
        deeper = 10.0 * round(choice.depth_mm * (give.value_mm / (WATCH_MM * 0.8)) ** (1 / 3) / 10 + 0.5)
        change = Change(f"Make the body {at.length(deeper)} deep.", {"form.depth_mm": min(1000.0, deeper)})
    return Finding(
        "form.gives",
        "stop" if stop else "watch",
        "form",
        f"{give.where[0].upper()}{give.where[1:]} flexes {at.length(give.value_mm)} under clamping.",
        f"It spans {at.length(give.span_mm)}, and the piece copies what the form does.",
        change,
    )


def cannot_be_cut(at: CheckContext[Make], build: FormBuild) -> Finding | None:
    """Whether every part can be made."""
    if not build.problem or (at.form.closing and not all(p.closes for p in at.form.closing.pressers)):
        return None  # that it cannot close says enough
    return Finding(
        "form.cannot_be_cut",
        "stop",
        "form",
        build.problem,
        "Nothing is drawn until every part can be made.",
        Change("Use a single form.", {"form.kind": "one_sided"}) if build.problem_field == "form.kind" else None,
    )


def no_bolts(at: CheckContext[Make], build: FormBuild) -> Finding | None:
    """Whether a stacked part is smaller than its bolts."""
    if not build.without_bolts:
        return None
    wanted = 10.0 * math.ceil((at.job.form.depth_mm + 30) / 10)
    change = Change(f"Make the body {at.length(wanted)} deep.", {"form.depth_mm": wanted})
    return Finding(
        "form.no_bolts",
        "watch",
        "form",
        f"There is no room for bolts in the {', '.join(build.without_bolts)}: glue and screw its layers.",
        f"A {BOLT[at.shop.units]} bolt needs {at.length(1.5 * HOLE_MM)} of wood around it.",
        change if at.job.form.depth_mm < 60 else None,
    )


def clamps(at: CheckContext[Make]) -> Finding | None:
    """Whether the clamps in the rack are enough and reach."""
    owned = at.shop.clamps
    if not owned or not at.form.clamps or at.form.kind in ("posts", "in_place"):
        return None
    reaching = sum(c.count for c in owned if c.opening_mm >= at.form.clamp_opening_mm)
    if reaching >= at.form.clamps:
        return None
    have = f"{reaching} of your clamps open" if reaching else "none of your clamps opens"
    return Finding(
        "form.clamps_short",
        "watch",
        "form",
        f"You need {at.form.clamps} clamps that open {at.length(at.form.clamp_opening_mm)}; {have} that far.",
        f"One every {at.length(at.form.clamp_pitch_mm)}, including the far leg.",
    )


def start_lifts(at: CheckContext[Make]) -> Finding | None:
    """Whether what holds the start of a hot bend stands the moment that pries at it."""
    start = at.form.start_hold
    if start is None or (start.kind == "clamps" and at.job.heat.hands > 1):
        return None  # two people pull both ends together, and the middle is pressed on, not pried up
    if start.force_n <= start.holds_n * (1 + ROUNDING):
        return None
    cleat = Change(f"Use a cleat at the {start.end} end.", {"form.start_hold": "cleat", "form.start_end": start.end})
    middle = Change(
        "Bend it from the middle outward, with two people pulling.",
        {"form.start_hold": "clamps", "heat.hands": max(2, at.job.heat.hands)},
    )
    held_by = {
        "clamps": "the clamp at the middle",
        "cleat": f"a cleat with {start.bolts} bolts",
        "notch": f"a hook {at.length(start.hook_mm)} thick",
    }[start.kind]
    return Finding(
        "form.start_lifts",
        "watch",
        "form",
        f"The start will lift: it pulls with {at.force(start.force_n)}; {held_by} holds {at.force(start.holds_n)}.",
        f"Where one end is pulled at a time, the bend pries up its start over {at.length(start.lever_mm)}.",
        cleat if start.kind != "cleat" and start.force_n <= MOST_BOLTS * BOLT_N else middle,
    )


def clamps_weak(at: CheckContext[Make]) -> Finding | None:
    """Whether clamps side by side press as hard as the glue wants."""
    site = at.form.site
    if site.press != "clamps" or site.clamps_press_mpa >= 0.98 * site.pressure_mpa:
        return None
    return Finding(
        "form.clamps_weak",
        "watch",
        "form",
        f"Even touching each other, {site.clamps} {site.clamp.name}s press with {at.pressure(site.clamps_press_mpa)}.",
        f"This glue needs {at.pressure(site.pressure_mpa)}: use stronger clamps, or bolts through the form.",
    )


def skin_bends(at: CheckContext[Make]) -> Finding | None:
    """Whether the skin follows the ribs."""
    choice = at.job.form
    least = least_skin_radius_mm(choice, at.shop)
    skin_radius = 1 / max(1e-9, at.face.curve.tightest_curvature)
    if choice.build != "ribs" or skin_radius >= least:
        return None
    return Finding(
        "form.skin_tight",
        "watch",
        "form",
        f"A skin of {at.length(choice.skin_mm)} is too stiff for {at.length(skin_radius)}.",
        f"It needs about {at.length(least)}: use flexible plywood, or two thinner skins.",
        _bending_skin(at, skin_radius),
    )


def _bending_skin(at: CheckContext[Make], radius_mm: float) -> Change | None:
    """The thickest sheet that bends so far, as the skin."""
    fit = [s for s in sheet_table(at.shop.sheets).values() if s.min_radius_mm <= radius_mm and s.yield_strain]
    best = max(fit, key=lambda s: (s.thickness_mm, s.key), default=None)
    if best is None:
        return None
    return Change(f"Use {best.name[0].lower()}{best.name[1:]} as the skin.", {"form.skin_of": best.key})


FORM: tuple[Check[Make], ...] = (closes, lets_go, stiff, skin_bends, start_lifts, clamps, clamps_weak)
FormPartsCheck = Callable[[CheckContext[Make], FormBuild], Finding | None]
FORM_PARTS: tuple[FormPartsCheck, ...] = (cannot_be_cut, no_bolts)
