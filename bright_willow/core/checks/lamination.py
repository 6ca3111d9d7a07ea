"""What there is to say about what is glued up. Each check is a small pure function; the tables at the end list them."""

from __future__ import annotations

from collections.abc import Iterable

from ..common.amounts import rough_up
from ..common.findings import Change, Finding
from ..common.fineness import format_sold
from ..gluing.adhesive import adhesive_table
from ..wood.sheets import sheet_table
from ..workpiece.workpiece import GOOD_LOSS, GluedLayup, LayupOption
from .check_context import Check, CheckContext

FEW_BENDS = 3
WIDE_BAND_MM = 10.0

MOST_BESIDE = 60  # clamps beside a band that a job can hold


def _use_laminae(at: CheckContext[GluedLayup], rungs: Iterable[LayupOption]) -> Change | None:
    """The suggestion to take the first of some rungs, if there is one and it is another than now."""
    rung = next(iter(rungs), None)
    if rung is None or rung.chosen:
        return None
    message = f"Use {rung.laminae} strips of {at.length(rung.thickness_mm)}"
    message += f", the last {at.length(rung.last_mm)}." if rung.lamina_mm else "."
    return Change(message, {"build_up.laminae": rung.laminae, "build_up.lamina_mm": rung.lamina_mm})


def strain(at: CheckContext[GluedLayup]) -> Finding | None:
    """Whether the laminae break on the form."""
    use = at.make.use.worst.value
    sloping = ", less for its grain run-out" if at.job.stock.grain_slope else ""
    sloping += ", less for its figure" if at.job.stock.figured else ""
    if at.job.build_up.lay_up == "layers":
        reason = f"The hardest bent ply, {at.make.worst.material.lower()}, is at {use:.0%} of its limit{sloping}."
    else:
        thickest = at.length(at.job.build_up.lamina_mm or at.make.thinnest_sawn_mm)
        reason = (
            f"A strip of {thickest} is at {use:.0%} of the breaking strain of straight-grained {at.wood.said}{sloping}."
        )
    if use >= 0.7:
        easier = (r for r in at.ladder if r.use_of_strain < 0.7)
    if 0.9 <= use < 1.3:
        return Finding(
            "strain.try_first",
            "watch",
            "build_up",
            "Test one strip dry: at this radius some break.",
            reason,
            _use_laminae(at, easier),
        )
    if use >= 0.9:
        return Finding(
            "strain.breaks",
            "stop",
            "build_up",
            "Strips are likely to break on the form.",
            reason,
            _use_laminae(at, easier),
        )
    if use >= 0.7:
        return Finding(
            "strain.risky",
            "watch",
            "build_up",
            "Some strips may crack on the form.",
            reason,
            _use_laminae(at, easier),
        )
    word = "bend easily" if use < 0.5 else "bend with some force, without cracking"
    return Finding("strain.fit", "fit", "build_up", f"Strips {word}.", reason)


def few_laminae(at: CheckContext[GluedLayup]) -> Finding | None:
    """Whether so few layers give much of the bend back."""
    opens = at.springback
    if opens is None or opens.loss_share.likely <= 2 * GOOD_LOSS:
        return None
    return Finding(
        "laminae.few",
        "watch",
        "build_up",
        f"With this few strips {opens.loss_share.likely:.0%} of the bend springs back; the form allows for it.",
        f"Each end springs back {at.estimate(opens.tip_mm)} off the form.",
        _use_laminae(at, (r for r in at.ladder if r.loss_share <= GOOD_LOSS)),
    )


def thin_laminae(at: CheckContext[GluedLayup]) -> Finding | None:
    """Whether the shop can cut laminae so thin."""
    if at.make.thinnest_sawn_mm >= at.shop.thinnest_mm - 1e-9:
        return None
    thick_enough = [r for r in at.ladder if r.thickness_mm >= at.shop.thinnest_mm]
    return Finding(
        "laminae.thin",
        "watch",
        "build_up",
        f"Strips of {at.length(at.make.thinnest_sawn_mm)} are hard to cut in this shop.",
        f"This shop cuts down to {at.length(at.shop.thinnest_mm)} (see the Shop page); thinner veneer can be bought.",
        _use_laminae(at, reversed(thick_enough)),
    )


def sheet_direction(at: CheckContext[GluedLayup]) -> Finding | None:
    """Which way the sheets must be bought or cut, so that they bend along the part."""
    table = sheet_table(at.shop.sheets)
    used = [table[layer.material] for layer in at.job.build_up.layers if layer.material in table]
    if at.job.build_up.lay_up != "layers" or not used:
        return None
    sheet = max(used, key=lambda s: s.thickness_mm)
    long, short = (format_sold(v, at.shop.rule) for v in (sheet.sheet_long_mm, sheet.sheet_short_mm))
    if at.blank_length_mm > sheet.sheet_long_mm:
        message = "The part is longer than the sheet: join its plies, each joint away from the next."
    elif at.blank_length_mm > sheet.sheet_short_mm:
        message = f"Buy sheets that bend along their {long} side; the other kind does not work here."
    else:
        message = f"Cut the sheet so that it bends along the part, not across ({short}); either sheet fits."
    return Finding(
        "sheet.direction",
        "watch",
        "build_up",
        message,
        f"Bending sheets bend one way only; the blank is {at.length(at.blank_length_mm)} long.",
    )


def sheet_turned(at: CheckContext[GluedLayup]) -> Finding | None:
    """Whether a bending sheet lies the way it does not roll."""
    if at.job.build_up.lay_up != "layers":
        return None
    table = sheet_table(at.shop.sheets)
    turned = [
        (i, table[x.material])
        for i, x in enumerate(at.job.build_up.layers)
        if x.grain == "across" and x.material in table
    ]
    if not turned:
        return None
    number, sheet = turned[0]
    return Finding(
        "sheet.turned",
        "stop",
        "build_up",
        f"Turn ply {number + 1}, {sheet.name[0].lower() + sheet.name[1:]}: its stiff direction is along the bend.",
        f"It is {sheet.e_across_gpa / sheet.e_along_bend_gpa:.0f} times stiffer in that direction and cracks.",
        Change("Turn it.", {f"build_up.layers.{number}.grain": "along"}),
    )


def settling(at: CheckContext[GluedLayup]) -> Finding | None:
    """Whether the glue lets the bend go on opening."""
    opens = at.springback
    if opens is None or at.make.glue.creep != "noticeable":
        return None
    rigid = next(g for g in adhesive_table().values() if g.creep == "rigid")
    return Finding(
        "glue.settles",
        "watch",
        "build_up",
        f"With this glue each end may creep another {at.about(opens.settling_tip_mm.value)} over some weeks.",
        f"{at.make.glue.name} creeps: the bend keeps opening for weeks.",
        Change(f"Use {rigid.name[0].lower() + rigid.name[1:]}.", {"build_up.adhesive": rigid.key}),
    )


def little_known(at: CheckContext[GluedLayup]) -> Finding | None:
    """Whether the tip is uncertain for want of bends in the book."""
    opens = at.springback
    if opens is None:
        return None
    tip, bends = opens.tip_mm, opens.bends
    spread = tip.high - tip.low
    if bends >= FEW_BENDS or spread < WIDE_BAND_MM:
        return None
    known = "no bend of this kind yet" if not bends else f"only {bends} bend{'s'[: bends - 1]} of this kind"
    return Finding(
        "springback.unknown",
        "watch",
        "build_up",
        f"Bend one first and measure it: the ends may come out anywhere within {at.about(spread)}.",
        f"The logbook has {known}; each piece you measure improves the prediction.",
        _use_laminae(at, (r for r in at.ladder if r.good and r.tip_mm * spread / tip.likely < WIDE_BAND_MM)),
    )


def open_ends(at: CheckContext[GluedLayup]) -> Finding | None:
    """Whether vacuum or a band leaves the ends standing off the form."""
    press, trim = at.make.press, min(at.job.part.trims_mm)
    if press.open_end_mm is None or press.open_end_gap_mm is None or press.open_end_mm.value <= trim:
        return None
    length, gap = press.open_end_mm.value, press.open_end_gap_mm.value
    wanted = rough_up(length, at.shop.units)
    reason = f"The gap to the form is up to {at.length(gap)}; {at.length(trim)} extra length is there."
    if length > at.blank_length_mm / 2:
        message = f"This {press.kind} cannot close the bend: {at.length(length)} at each end stays off the form."
        return Finding("press.cannot_close", "stop", "build_up", message, reason, _thinner(at, length))
    return Finding(
        "press.open_ends",
        "watch",
        "build_up",
        f"This {press.kind} cannot press the last {at.length(length)} of each end onto the form.",
        reason,
        at.leave(
            f"Leave {at.length(wanted)} extra at each end and cut it off.",
            wanted,
        ),
    )


def _thinner(at: CheckContext[GluedLayup], open_end_mm: float) -> Change | None:
    """Enough laminae that the ends come down: the open end shrinks about as the count grows."""
    needed = 1.1 * at.job.build_up.count * open_end_mm / (at.blank_length_mm / 2)
    return _use_laminae(at, (r for r in at.ladder if r.laminae >= needed))


def weak_press(at: CheckContext[GluedLayup]) -> Finding | None:
    """Whether the press gives the glue the pressure it wants."""
    press, glue = at.make.press, at.make.glue
    pressure = press.pressure_mpa
    if pressure is None or pressure.value >= glue.pressure_mpa_low:
        return None
    name = glue.name[0].lower() + glue.name[1:]
    reason = f"It gives {at.pressure(pressure.value)}; this glue needs {at.pressure(glue.pressure_mpa_low)}."
    if press.kind == "vacuum" and glue.vacuum_mpa and pressure.value >= glue.vacuum_mpa:
        message = f"A bag at {at.pressure(pressure.value)} is common with {name}: keep joints close and strips thin."
        return Finding("press.light", "fit", "build_up", message, reason)
    if press.kind == "band" and at.job.build_up.band_pull == "one_end" and press.turns_deg > 45:
        change: Change | None = Change("Pull it from both ends.", {"build_up.band_pull": "both_ends"})
        reason += (
            f" After {press.turns_deg:.0f}° around the form that is what is left. Wax, film or a second band helps."
        )
    else:
        soft = next(g for g in adhesive_table().values() if g.pressure_mpa_low <= 0.02)
        change = Change(f"Use {soft.name[0].lower() + soft.name[1:]}.", {"build_up.adhesive": soft.key})
    message = f"This {press.kind} presses too lightly for {name}."
    return Finding("press.weak", "watch", "build_up", message, reason, change)


def gauge_over_air(at: CheckContext[GluedLayup]) -> Finding | None:
    """Whether the gauge reads more than the air gives."""
    press = at.make.press
    if not press.over_air_kpa or press.pressure_mpa is None:
        return None
    return Finding(
        "press.gauge_cut",
        "fit",
        "build_up",
        f"A bag cannot press more than the air does: {at.pressure(press.pressure_mpa.value)} is used.",
        "At your altitude a gauge cannot show more: check its zero.",
    )


def band_straight(at: CheckContext[GluedLayup]) -> Finding | None:
    """Where a band does not press, for it is straight there."""
    flat = at.make.press.flat
    if not flat:
        return None
    start, end = max(flat, key=lambda s: s[1] - s[0])
    return Finding(
        "press.band_straight",
        "watch",
        "build_up",
        f"Clamp the straight from {at.length(start)} to {at.length(end)}: the band does not press there.",
        "A band presses only where it goes around a curve.",
        _clamps_beside(at),
        (start, end),
    )


def _clamps_beside(at: CheckContext[GluedLayup]) -> Change | None:
    """As many clamps as press every straight."""
    wanted = at.make.press.clamps_wanted
    change = Change(f"Put {wanted} clamp{'s' if wanted > 1 else ''} there.", {"build_up.band_clamps": wanted})
    return change if wanted <= MOST_BESIDE else None


def band_lifts(at: CheckContext[GluedLayup]) -> Finding | None:
    """Where a band lifts off, for the curve bends the other way."""
    lifts = at.make.press.lifts
    if not lifts:
        return None
    start, end = max(lifts, key=lambda s: s[1] - s[0])
    return Finding(
        "press.band_lifts",
        "stop",
        "build_up",
        f"The band lifts off from {at.length(start)} to {at.length(end)}: the curve is reversed there.",
        "Use clamps, a bag or a matched form.",
        Change("Use clamps.", {"build_up.press": "clamps"}),
        (start, end),
    )


def band_pull(at: CheckContext[GluedLayup]) -> Finding | None:
    """Whether the band's pull is enough to lay its stiffest layer down."""
    press = at.make.press
    most = max((lamina.pull_n for lamina in at.make.laminae), default=0.0)
    if press.left_kn is None or press.left_kn.value * 1000 >= most:
        return None
    return Finding(
        "press.band_pull",
        "watch",
        "build_up",
        f"The band pulls {at.force(press.left_kn.value * 1000)} at its far end, less than one ply needs.",
        f"The stiffest ply needs {at.force(most)} at each end: bend it by hand or steam it first.",
    )


def cold_shop(at: CheckContext[GluedLayup]) -> Finding | None:
    """Whether the glue cures at the shop's temperature."""
    if at.shop.temperature_c >= at.make.glue.min_temp_c or at.job.glue_up.tent != "none":
        return None
    willing = next((g for g in adhesive_table().values() if g.min_temp_c <= at.shop.temperature_c), None)
    return Finding(
        "glue.cold",
        "stop",
        "build_up",
        f"Heat the press or tent it: at {at.temperature(at.shop.temperature_c)} this glue does not cure.",
        f"{at.make.glue.name} needs {at.temperature(at.make.glue.min_temp_c)} or more for the whole cure.",
        Change(f"Use {willing.name[0].lower() + willing.name[1:]}.", {"build_up.adhesive": willing.key})
        if willing
        else None,
    )


def ring_joints(at: CheckContext[GluedLayup]) -> Finding | None:
    """What a closed ring does and does not."""
    if not at.make.ring:
        return None
    apart = 360 / len(at.make.ring)
    return Finding(
        "ring.closed",
        "fit",
        "build_up",
        "A ring glued all around cannot spring back; the round form has the finished size.",
        f"Keep the joints of its plies {apart:.0f}° apart or more; until it is closed each hoop springs open.",
    )


LAMINATION: tuple[Check[GluedLayup], ...] = (
    strain,
    few_laminae,
    thin_laminae,
    sheet_direction,
    sheet_turned,
    settling,
    cold_shop,
    ring_joints,
)
PRESSED: tuple[Check[GluedLayup], ...] = (open_ends, weak_press, gauge_over_air, band_straight, band_lifts, band_pull)
