"""How a glue-up is closed and pressed: the moves, the steps, the hours under pressure."""

from __future__ import annotations

from ...common.operation import After, Move, Operation, ResourceHold, Window
from ...common.units import format_pressure
from ...form.construction import FormSketch
from ...gluing.glue_timing import GlueTiming
from ...heat.handling import Row, one_after_another
from ...job.job import Job
from ...shop.shop import Shop
from ...shop.times import Times
from ...workpiece.glue_up import GluedUp
from ...workpiece.workpiece import GluedLayup
from .shared_steps import HOUR_S, exactly


def closing_moves(make: GluedLayup, form: FormSketch, times: float) -> dict[str, float]:
    """Moves of the table of times that close the press, so many times."""
    press = make.press
    key, count = {"clamps": ("clamp", form.clamps), "vacuum": ("bag", 1), "band": ("band", press.bands)}[press.kind]
    return {key: count * times, **({"clamp": press.clamps * times} if press.clamps else {})}


def close_form(
    job: Job, shop: Shop, make: GluedLayup, form: FormSketch, own: GluedUp, race: GlueTiming, *, n: int
) -> Operation:
    """Into the form and under pressure, by the press that was chosen."""
    how = {
        "clamps": f"{form.clamps} clamps from the middle out, all snug before any is tight.",
        "vacuum": "Bag it without folds, with breather up to the port.",
        "band": f"Put {_bands(make)} over all of it and tighten from the middle.",
    }[make.press.kind]
    if make.press.clamps:
        how += f" Then {make.press.clamps} clamps with cauls where it is straight."
    if make.press.pressure_mpa:
        how += f" It presses with {format_pressure(make.press.pressure_mpa.value, shop.units)}."
    holds = holding(make, form)
    return Operation(
        key=batch_key("close", n),
        kind="close",
        name="Into the form, and close it",
        scope="piece",
        attended_s=Times(shop).of(set_stack=1, **closing_moves(make, form, 1 / own.hands)),
        hands=own.hands,
        takes=(ResourceHold("form"), *holds) if n == 0 else holds,
        after=(After(batch_key("spread", n), 0.0, 0.0),),
        steps=("Middle to the center mark.", how),
        record=("time it was under pressure",),
        meanwhile="being closed in the form",
        cautions=("Bent strips store force: keep clear of the ends while clamping.",),
        window=Window("closed time", batch_key("spread", n), race.press_by_s, "allowance"),
        moves=closing_steps(make, form, own),
    )


def _bands(make: GluedLayup) -> str:
    """The band, or how many of them."""
    return "the band" if make.press.bands == 1 else f"the {make.press.bands} bands next to one another"


def closing_steps(make: GluedLayup, form: FormSketch, own: GluedUp) -> tuple[Move, ...]:
    """Setting the stack and closing the press, move by move; people share the closing."""
    plain, hands = own.moves, own.hands
    press = make.press
    count = {"clamps": form.clamps, "vacuum": 1, "band": press.bands}[press.kind]
    key, message = {
        "clamps": ("clamp", f"Close the {count} clamps, from the middle out"),
        "vacuum": ("bag", "Bag it and pump down"),
        "band": ("band", f"Put {_bands(make)} on and tighten {'it' if press.bands == 1 else 'them'}"),
    }[make.press.kind]
    rows: list[Row] = [
        ("Set the stack in the form, middle to the mark", "all", plain.set_s, "times.set_stack", 1.0),
        (message, "all", (plain.close_s - plain.beside_s) / hands, f"times.{key}", hands / max(1, count)),
    ]
    if press.clamps:
        beside = f"Clamp the straights, {press.clamps} clamp{'s' if press.clamps > 1 else ''}"
        rows.append((beside, "all", plain.beside_s / hands, "times.clamp", hands / press.clamps))
    return one_after_another(rows)


def under_pressure(shop: Shop, make: GluedLayup, *, n: int, is_last: bool) -> tuple[Operation, Operation]:
    """The cure, and off the form, or the press opened for the next batch of strips."""
    cure = Operation(
        key=batch_key("cure", n),
        kind="cure",
        name="Leave it under pressure",
        scope="piece",
        attended_s=exactly(0.0),
        unattended_s=exactly((make.warm_h + make.press_h) * HOUR_S),
        may_run_alone=True,
        after=(After(batch_key("close", n), 0.0, 0.0),),
        steps=(
            (f"{make.warm_h:.1f} h in the tent until its middle is warm, then {make.press_h:.0f} h.",)
            if make.warm_h
            else (f"{make.press_h:.0f} h at shop temperature or above.",)
        ),
        record=("lowest temperature",),
        meanwhile="under pressure",
    )
    if not is_last:
        return cure, Operation(
            key=batch_key("open", n),
            kind="open",
            name="Open the press for the next strips",
            scope="piece",
            attended_s=Times(shop).of(release=1),
            frees=("clamps", "bag"),
            after=(After(cure.key),),
            steps=("It stays on the form. Scrape off glue that would keep the next strip away.",),
        )
    return cure, Operation(
        key="release",
        kind="release",
        name="Take it off the form",
        scope="piece",
        attended_s=Times(shop).of(release=1),
        frees=("form", "clamps", "bag"),
        after=(After(cure.key),),
        steps=("Loosen from the ends inward; look for open glue lines.",),
        record=("hours under pressure", "how much it sprang back"),
    )


def batch_key(name: str, n: int) -> str:
    """The key of an operation of the nth batch of strips, from 0: plain for the first."""
    return name if n == 0 else f"{name}_{n + 1}"


def holding(make: GluedLayup, form: FormSketch) -> tuple[ResourceHold, ...]:
    """What holds it under pressure."""
    press = make.press
    first = {
        "clamps": ResourceHold("clamps", form.clamps),
        "vacuum": ResourceHold("bag"),
        "band": ResourceHold("clamps", press.bands, "band"),
    }[press.kind]
    return (first, ResourceHold("clamps", press.clamps)) if press.clamps else (first,)
