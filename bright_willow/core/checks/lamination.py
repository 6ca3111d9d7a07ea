"""What there is to say about a cold lamination. Each check is a small pure function; CHECKS lists them all."""

from __future__ import annotations

import math
from collections.abc import Iterable

from ..form.schools import SCHOOLS
from ..ground.findings import Change, Finding
from ..plan.result import Rung
from ..shop.adhesive import adhesive_table
from ..ways.cold_lamination import GOOD_LOSS
from ..wood.sheets import sheet_table
from .situation import Check, Situation
from .wood import figured, green_wood, lot_flaws, lot_short, moist, no_spare, pairs, run_out, short_trim

FEW_BENDS = 3
WIDE_BAND_MM = 10.0
MISSED_MM = 1.0


def _use_laminae(at: Situation, rungs: Iterable[Rung]) -> Change | None:
    """The suggestion to take the first of some rungs, if there is one and it is another than now."""
    rung = next(iter(rungs), None)
    if rung is None or rung.chosen:
        return None
    says = f"Use {rung.laminae} laminae of {at.length(rung.thickness_mm)}"
    says += f", the last {at.length(rung.last_mm)}." if rung.lamina_mm else "."
    return Change(says, {"build_up.laminae": rung.laminae, "build_up.lamina_mm": rung.lamina_mm})


def strain(at: Situation) -> Finding | None:
    """Whether the laminae break on the form."""
    sloping = ", less for its sloping grain" if at.job.stock.grain_slope else ""
    sloping += ", less for its figure" if at.job.stock.figured else ""
    if at.job.build_up.lay_up == "layers":
        because = f"The hardest bent layer, {at.worst_layer.lower()}, uses {at.use:.0%} of what it stands{sloping}."
    else:
        thickest = at.length(at.job.build_up.lamina_mm or at.thinnest_sawn_mm)
        because = (
            f"A lamina of {thickest} uses {at.use:.0%} of the strain at which "
            f"straight-grained {at.wood.said} breaks{sloping}."
        )
    if at.use >= 0.7:
        easier = (r for r in at.ladder if r.use_of_strain < 0.7)
    if at.use >= 0.9:
        return Finding(
            "strain.breaks",
            "stop",
            "build_up",
            "Expect laminae to break on the form.",
            because,
            _use_laminae(at, easier),
        )
    if at.use >= 0.7:
        return Finding(
            "strain.risky",
            "watch",
            "build_up",
            "Some laminae may crack as they go on.",
            because,
            _use_laminae(at, easier),
        )
    word = "go on easily" if at.use < 0.5 else "go on firmly, without cracking"
    return Finding("strain.fit", "fit", "build_up", f"The laminae {word}.", because)


def few_laminae(at: Situation) -> Finding | None:
    """Whether so few layers give much of the bend back."""
    if at.loss <= 2 * GOOD_LOSS:
        return None
    return Finding(
        "laminae.few",
        "watch",
        "build_up",
        f"So few laminae give back {at.loss:.0%} of the bend, and any error in that with it.",
        f"Each end opens {at.length(at.tip_mm.likely)} when it leaves the form.",
        _use_laminae(at, (r for r in at.ladder if r.loss_share <= GOOD_LOSS)),
    )


def thin_laminae(at: Situation) -> Finding | None:
    """Whether the shop can cut laminae so thin."""
    if at.thinnest_sawn_mm >= at.shop.thinnest_mm - 1e-9:
        return None
    thick_enough = [r for r in at.ladder if r.thickness_mm >= at.shop.thinnest_mm]
    return Finding(
        "laminae.thin",
        "watch",
        "build_up",
        f"Laminae of {at.length(at.thinnest_sawn_mm)} are hard to cut here.",
        f"This shop cuts down to {at.length(at.shop.thinnest_mm)} well; set that under Shop. Veneer can be bought.",
        _use_laminae(at, reversed(thick_enough)),
    )


def sheet_direction(at: Situation) -> Finding | None:
    """Which way the sheets must be bought or cut, so that they bend along the part."""
    used = [sheet_table()[layer.material] for layer in at.job.build_up.layers if layer.material in sheet_table()]
    if at.job.build_up.lay_up != "layers" or not used:
        return None
    sheet = max(used, key=lambda s: s.thickness_mm)
    long, short = at.length(sheet.sheet_long_mm), at.length(sheet.sheet_short_mm)
    if at.blank_length_mm > sheet.sheet_long_mm:
        says = "The part is longer than the sheet: its layers must be joined, each joint away from the next."
    elif at.blank_length_mm > sheet.sheet_short_mm:
        says = f"Buy sheets that bend along their {long} side; those that bend the other way cannot be used here."
    else:
        says = f"The part fits either side of the sheet: cut it so that it bends along the part, not across ({short})."
    return Finding(
        "sheet.direction",
        "watch",
        "build_up",
        says,
        f"Bending sheets bend one way only; the blank is {at.length(at.blank_length_mm)} long.",
    )


def sheet_turned(at: Situation) -> Finding | None:
    """Whether a bending sheet lies the way it does not roll."""
    if at.job.build_up.lay_up != "layers":
        return None
    turned = [
        (i, sheet_table()[x.material])
        for i, x in enumerate(at.job.build_up.layers)
        if x.grain == "across" and x.material in sheet_table()
    ]
    if not turned:
        return None
    number, sheet = turned[0]
    return Finding(
        "sheet.turned",
        "stop",
        "build_up",
        f"Layer {number + 1}, {sheet.name[0].lower() + sheet.name[1:]}, lies the way it does not roll.",
        f"It is {sheet.e_across_gpa / sheet.e_along_bend_gpa:.0f} times stiffer that way, and cracks.",
        Change("Turn it.", {f"build_up.layers.{number}.grain": "along"}),
    )


def settling(at: Situation) -> Finding | None:
    """Whether the glue lets the bend go on opening."""
    if at.glue.creep != "noticeable":
        return None
    rigid = next(g for g in adhesive_table().values() if g.creep == "rigid")
    return Finding(
        "glue.settles",
        "watch",
        "build_up",
        f"With this glue the ends may open another {at.length(at.settling_tip_mm)} over some weeks.",
        f"{at.glue.name} creeps under the load a bend keeps in it.",
        Change(f"Use {rigid.name[0].lower() + rigid.name[1:]}.", {"build_up.adhesive": rigid.key}),
    )


def crossing(at: Situation) -> Finding | None:
    """Whether the blank would meet itself on the form."""
    if at.form_sweep_deg < 350:
        return None
    return Finding(
        "form.crosses",
        "stop",
        "form",
        "On the form the two ends of the blank would meet or cross.",
        f"With springback and trims the form sweeps {at.form_sweep_deg:.0f}°.",
        Change("Leave no trim.", {"part.trim_mm": 0.0}) if at.job.part.trim_mm else None,
    )


def little_known(at: Situation) -> Finding | None:
    """Whether the tip is uncertain for want of bends in the book."""
    spread = at.tip_mm.high - at.tip_mm.low
    if at.bends >= FEW_BENDS or spread < WIDE_BAND_MM:
        return None
    known = "no bend of this kind yet" if not at.bends else f"only {at.bends} bend{'s'[: at.bends - 1]} of this kind"
    return Finding(
        "springback.unknown",
        "watch",
        "build_up",
        f"The ends may come out anywhere over {at.length(spread)}. Bend one first and measure it.",
        f"The book holds {known}; the next plan learns from each one measured.",
        _use_laminae(at, (r for r in at.ladder if r.good and r.tip_mm * spread / at.tip_mm.likely < WIDE_BAND_MM)),
    )


def open_ends(at: Situation) -> Finding | None:
    """Whether vacuum or a band leaves the ends standing off the form."""
    press, trim = at.press, at.job.part.trim_mm
    if press.open_end_mm is None or press.open_end_gap_mm is None or press.open_end_mm.value <= trim:
        return None
    length, gap = press.open_end_mm.value, press.open_end_gap_mm.value
    because = f"They stand off by up to {at.length(gap)}; {at.length(trim)} is left to trim."
    if length > at.blank_length_mm / 2:
        says = f"This {press.kind} cannot lay the bend down at all: it would leave {at.length(length)} at each end."
        return Finding("press.cannot_close", "stop", "build_up", says, because, _thinner(at, length))
    return Finding(
        "press.open_ends",
        "watch",
        "build_up",
        f"This {press.kind} cannot lay the last {at.length(length)} of each end on the form.",
        because,
        Change(
            f"Trim {at.length(5 * math.ceil(length / 5))} off each end.", {"part.trim_mm": 5.0 * math.ceil(length / 5)}
        ),
    )


def _thinner(at: Situation, open_end_mm: float) -> Change | None:
    """Enough laminae that the ends come down: the open end shrinks about as the count grows."""
    needed = 1.1 * at.job.build_up.count * open_end_mm / (at.blank_length_mm / 2)
    return _use_laminae(at, (r for r in at.ladder if r.laminae >= needed))


def weak_press(at: Situation) -> Finding | None:
    """Whether the press gives the glue the pressure it wants."""
    pressure = at.press.pressure_mpa
    if pressure is None or pressure.value >= at.glue.pressure_mpa_low:
        return None
    soft = next(g for g in adhesive_table().values() if g.pressure_mpa_low <= 0.02)
    return Finding(
        "press.weak",
        "watch",
        "build_up",
        f"This {at.press.kind} presses too lightly for {at.glue.name[0].lower() + at.glue.name[1:]}.",
        f"It gives {pressure.value:.2g} MPa; this kind of glue wants {at.glue.pressure_mpa_low:.2g} MPa or more.",
        Change(f"Use {soft.name[0].lower() + soft.name[1:]}.", {"build_up.adhesive": soft.key}),
    )


def misses(at: Situation) -> Finding | None:
    """Whether the school chosen for the form leaves the released piece off its shape."""
    if at.missed_mm < max(MISSED_MM, 0.1 * at.tip_mm.likely):
        return None
    return Finding(
        "form.misses",
        "watch",
        "form",
        f"Off this form the tips end {at.length(at.missed_mm)} from where they are wanted.",
        f"The form is {SCHOOLS[at.job.form.school].name}; each end opens {at.length(at.tip_mm.likely)}.",
        Change("Let the form be computed.", {"form.school": "computed"}),
    )


def cold_shop(at: Situation) -> Finding | None:
    """Whether the glue cures at the shop's temperature."""
    if at.shop.temperature_c >= at.glue.min_temp_c:
        return None
    willing = next((g for g in adhesive_table().values() if g.min_temp_c <= at.shop.temperature_c), None)
    return Finding(
        "glue.cold",
        "stop",
        "build_up",
        f"At {at.temperature(at.shop.temperature_c)} this glue does not cure: heat the press, or tent it.",
        f"{at.glue.name} needs {at.temperature(at.glue.min_temp_c)} or more, all through the cure.",
        Change(f"Use {willing.name[0].lower() + willing.name[1:]}.", {"build_up.adhesive": willing.key})
        if willing
        else None,
    )


def ring_joints(at: Situation) -> Finding | None:
    """What a closed ring does and does not."""
    if not at.ring:
        return None
    apart = 360 / len(at.ring)
    return Finding(
        "ring.closed",
        "fit",
        "build_up",
        "Glued all round, the ring cannot open; the drum has the size wanted.",
        f"Joints of its layers stand {apart:.0f}° apart or more; until it is closed each hoop springs open.",
    )


CHECKS: tuple[Check, ...] = (
    strain,
    few_laminae,
    thin_laminae,
    sheet_direction,
    sheet_turned,
    settling,
    cold_shop,
    ring_joints,
    green_wood,
    moist,
    run_out,
    figured,
    lot_flaws,
    lot_short,
    pairs,
    no_spare,
    short_trim,
    crossing,
    open_ends,
    weak_press,
    misses,
    little_known,
)


def lamination_findings(at: Situation) -> list[Finding]:
    """All findings about a lamination, in the order of the table."""
    return [f for check in CHECKS if (f := check(at))]
