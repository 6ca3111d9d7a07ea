"""The quick answer on the command line: what an arc is asked by, and the answer printed."""

from __future__ import annotations

import datetime as dt
import json
from typing import TYPE_CHECKING

import typer

from .serving import stop

if TYPE_CHECKING:
    from .core.shop.shop import Shop


def size_of_arc(radius: str, angle: str, length: str, chord: str, rise: str) -> dict[str, str]:
    """The size of an arc as the quick answer asks for it."""
    for kind, sizes in (
        ("arc_by_chord", {"chord_mm": chord, "rise_mm": rise}),
        ("arc_by_radius", {"radius_mm": radius, "angle_deg": angle}),
        ("arc_by_length", {"radius_mm": radius, "length_mm": length}),
    ):
        if all(sizes.values()):
            return {"arc": kind, **{f"shape.{name}": text for name, text in sizes.items()}}
    raise stop("Give --radius with --angle or --length, or --chord with --rise.")


def _option(field: str) -> str:
    """The option that sets a field of the quick answer."""
    return "--" + field.rpartition(".")[2].removesuffix("_mm").removesuffix("_deg").replace("species", "wood")


def print_answer(asked: dict[str, str], own: Shop, *, as_json: bool) -> None:
    """Print what a quick question is answered; faults end the command."""
    from .core.learning.belief import NOTHING_LEARNT
    from .web.quick_view import answered, question_of, quick_view

    question = question_of(asked, own)
    if question.faults:
        raise stop("\n".join(f"{_option(name)}: {message}" for name, message in question.faults.items()))
    made = answered(question, own, NOTHING_LEARNT)
    view = quick_view(question, made, own, NOTHING_LEARNT, dt.datetime.now().astimezone())
    if view.fault or isinstance(made, Exception) or made is None:
        raise stop(view.fault)
    if as_json:
        lines = [{"about": x.about, "says": x.message, "more": x.more, "level": x.level} for x in view.lines]
        typer.echo(json.dumps({"answer": lines, "job": made.plan.job.model_dump(mode="json")}, indent=2))
        return
    for line in view.lines:
        typer.echo(f"{line.about + ':':<10} {line.message} {line.more}".rstrip())
