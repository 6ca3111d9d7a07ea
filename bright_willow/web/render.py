"""Templates, and one filter for each kind of quantity. Templates never calculate."""

from __future__ import annotations

import datetime as dt
from functools import cache
from pathlib import Path
from typing import Any

from jinja2 import Environment, FileSystemLoader, StrictUndefined, pass_context
from jinja2.runtime import Context
from markupsafe import Markup

from ..calendar.time_format import format_day, format_time
from ..core.common.estimate import GRADE_TAGS, GRADES, OWN_FIGURE
from ..core.common.glossary import Term, term_of
from ..core.common.units import (
    MEASURES,
    Unit,
    format_force,
    format_length,
    format_moment,
    format_pressure,
    format_temperature,
    format_wood,
)
from .addresses import linked
from .forms.file_forms import file_inputs

HERE = Path(__file__).parent
ICONS = HERE / "static" / "icons"


@cache
def icon(name: str) -> Markup:
    """One line drawing from the icon set, set into the page."""
    text = (ICONS / f"{name}.svg").read_text("utf-8")
    return Markup(text.replace("<svg ", '<svg aria-hidden="true" ', 1))


def term_drawing(term: Term) -> Markup:
    """The small drawing of a trade term."""
    return Markup('<svg class="term-drawing" viewBox="0 0 120 60" aria-hidden="true">{}</svg>').format(
        Markup(term.drawing)
    )


def what(label: str, place: str) -> Markup:
    """A question mark that opens what a trade term means; nothing for a label that needs no explaining.

    place: where on the page it stands, so that one term may stand in several.
    """
    term = term_of(label)
    if term is None:
        return Markup("")
    return Markup(
        '<button type="button" class="what" tabindex="-1" popovertarget="{0}" aria-label="What is {1}?"></button>'
        '<span popover id="{0}" class="what-card">{2}<strong>{1}</strong> {3} '
        '<a href="/glossary#{4}">Glossary</a></span>'
    ).format(f"what-{place}-{term.key}", term.name, term_drawing(term), term.message, term.key)


def _percent(value: float) -> str:
    return f"{value:.0%}" if value >= 0.1 else f"{value:.1%}"


def _unit(context: Context) -> Unit:
    view = context.get("v")
    unit: Unit = view.unit if view is not None else context.get("unit") or "mm"
    return unit


@pass_context
def _day(context: Context, day: dt.date) -> str:
    return format_day(day, _unit(context), year=True)


@pass_context
def _short_day(context: Context, day: dt.date) -> str:
    return format_day(day, _unit(context))


@pass_context
def _time_of_day(context: Context, at: dt.datetime) -> str:
    return format_time(at, _unit(context))


@cache
def environment() -> Environment:
    """The one template environment: strict about names, escaping everything."""
    env = Environment(
        loader=FileSystemLoader(HERE / "templates"),
        autoescape=True,
        undefined=StrictUndefined,
        auto_reload=False,
        trim_blocks=True,
        lstrip_blocks=True,
    )
    env.filters.update(
        length=lambda mm, unit, decimals=1: format_length(mm, unit, decimals=decimals),
        bare=lambda mm, unit: format_length(mm, unit, with_unit=False),
        percent=_percent,
        strain=lambda value: f"{value * 100:.2f}%",
        force=format_force,
        pressure=format_pressure,
        moment=format_moment,
        times=lambda ratio: f"{ratio:.1f} ×",
        angle=lambda degrees: f"{round(degrees, 1) + 0.0:.1f}°",
        sentence=lambda text: text[:1].upper() + text[1:].rstrip(".") + ".",
        temp=lambda celsius, unit: format_temperature(round(celsius), unit),
        wood=format_wood,
        plain=lambda value: "no data" if value is None else f"{value:g}",
        day=_day,
        short_day=_short_day,
        time_of_day=_time_of_day,
    )
    env.globals.update(
        raw="", measures=MEASURES, icon=icon, grade_text=GRADES, grade_tags=GRADE_TAGS, own_grade=OWN_FIGURE
    )
    env.globals.update(what=what, term_drawing=term_drawing, file_inputs=file_inputs)
    return env


def render(template: str, **values: Any) -> str:
    """A page or a part of one."""
    values.setdefault("guest", "")  # the name of the tablet that asked
    values.setdefault("beside", "")  # the shop that opened this one; of its own pages alone
    return linked(environment().get_template(template).render(**values))
