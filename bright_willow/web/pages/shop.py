"""The shop's own figures."""

from __future__ import annotations

import datetime as dt
from collections.abc import Mapping, Sequence
from typing import Any

from fastapi import APIRouter, Request
from fastapi.responses import Response
from pydantic import ValidationError

from ...calendar.shop_clock import zone_names
from ...core.common.errors import Fault, PlanError
from ...core.job.faults import JobFaulty, faults_of
from ...core.shop.clamps import clamp_table
from ...core.shop.labels import label_places
from ...core.shop.shop import OwnClamps, Shop
from ...core.shop.times import time_table
from ...core.shop.week import DAYS, week_fits
from ..common import go_to, page, planned, store_of, typed_in
from ..forms.fields import Field, of
from ..forms.form_spec import FieldView
from ..forms.typed import by_field, put_at, read_text, shown

router = APIRouter(include_in_schema=False)
LONGEST_S = 86_400.0
MOST_ROWS = 40
RULES_IN = (("16", "1/16 in"), ("32", "1/32 in"), ("64", "1/64 in"))
RULES_MM = (("0.5", "0.5 mm"), ("0.1", "0.1 mm"))
FIELDS = (
    of(Shop, "name", "Name of the shop"),
    of(Shop, "rule_mm", "Rule in mm, finest mark", "figures are rounded to this", choices=RULES_MM, look="pills"),
    of(Shop, "rule_in", "Rule in inches, finest mark", "figures are rounded to this", choices=RULES_IN, look="pills"),
    of(Shop, "kerf_mm", "Saw kerf", "width of one cut"),
    of(Shop, "planing_mm", "Planing", "removed from each strip, both faces together"),
    of(Shop, "clean_up_mm", "Extra width", "extra width, planed off after gluing"),
    of(Shop, "thinnest_mm", "Thinnest strip", "that this shop cuts well"),
    of(Shop, "glue_waste_pct", "Glue left behind, %", "in pot, roller and squeeze-out"),
    of(Shop, "temperature_c", "Temperature where glue cures", "glue cures more slowly in the cold, or not at all"),
    of(Shop, "sheet_long_mm", "Sheets for forms, long side"),
    of(Shop, "sheet_short_mm", "Sheets for forms, short side"),
    of(Shop, "altitude_m", "Altitude, m", "above the sea: a vacuum loses with it"),
    of(Shop, "measuring_error_mm", "Measuring error", "of a chord or a rise: how far off one reading may be"),
)
PAPERS = (("a4", "A4"), ("letter", "Letter"))
LABELS = (
    of(Shop, "label_paper", "Sheet", choices=PAPERS, look="pills"),
    of(Shop, "label_columns", "Labels across"),
    of(Shop, "label_rows", "Labels down"),
    of(Shop, "label_left_mm", "First one from the left edge"),
    of(Shop, "label_top_mm", "First one from the top edge"),
    of(Shop, "label_across_mm", "From one to the next, across"),
    of(Shop, "label_down_mm", "From one to the next, down"),
    of(Shop, "label_wide_mm", "A label is wide"),
    of(Shop, "label_high_mm", "A label is high"),
)
ZONES = (("", "this computer's"), *((z, z.replace("_", " ")) for z in zone_names()))
WEEK = (
    of(Shop, "week.from_time", "Work begins"),
    of(Shop, "week.to_time", "and ends"),
    of(Shop, "week.break_from_time", "Break from", "blank: none"),
    of(Shop, "week.break_to_time", "to"),
    of(Shop, "week.people", "People at work"),
    of(Shop, "week.covered", "Someone stays through the break", "heat is never left unattended"),
    of(Shop, "week.places", "Batches in the steam box at once"),
    of(Shop, "week.frames", "Drying jigs"),
    of(Shop, "week.bags", "Vacuum bags"),
    of(Shop, "week.begins", "A week begins on", choices=(("mon", "Monday"), ("sun", "Sunday")), look="pills"),
    of(Shop, "week.zone", "Time zone", choices=ZONES),
)
DAYS_OFF = Field("week.days_off", "Days off", "text", "for example 2026-12-24, 2026-12-27 to 2026-12-31", look="lines")
KINDS = tuple((c.key, c.name) for c in clamp_table().values())


def _thickness(i: int) -> Field:
    return Field(f"thicknesses_mm.{i}", f"Thickness {i + 1}", "length", may_be_empty=True)


def _clamps(i: int) -> tuple[Field, Field, Field]:
    """How many of which kind, and how wide they open."""
    count, opening = of(OwnClamps, "count", "how many"), of(OwnClamps, "opening_mm", "opening")
    return (
        Field(f"clamps.{i}.count", f"How many in row {i + 1}", count.kind, may_be_empty=True),
        Field(f"clamps.{i}.kind", f"Kind in row {i + 1}", "choice", choices=KINDS),
        Field(f"clamps.{i}.opening_mm", f"Opening of row {i + 1}", opening.kind, may_be_empty=True),
    )


def _works(day: str, shop: Shop, typed: Mapping[str, str]) -> bool:
    """Whether somebody works on a day, as it is typed or kept."""
    return f"week.on.{day}" in typed if "week.on" in typed else day in shop.week.working


def days_off_say(days: Sequence[str]) -> str:
    """Days off as they are typed, runs of days together.

    >>> days_off_say(("2026-12-24", "2026-12-27", "2026-12-28", "2026-12-29"))
    '2026-12-24, 2026-12-27 to 2026-12-29'
    """
    runs: list[list[dt.date]] = []
    for day in sorted(dt.date.fromisoformat(d) for d in days):
        if runs and day - runs[-1][-1] == dt.timedelta(days=1):
            runs[-1].append(day)
        else:
            runs.append([day])
    return ", ".join(f"{r[0]} to {r[-1]}" if len(r) > 2 else ", ".join(map(str, r)) for r in runs)


def read_days_off(text: str) -> list[str]:
    """Days as they are typed: one or from–to, with commas or line by line. Raises: PlanError."""
    made = set[dt.date]()
    for part in text.replace("\n", ",").split(","):
        if not part.strip():
            continue
        ends = [p.strip() for p in part.split(" to ")]
        try:
            first, last = dt.date.fromisoformat(ends[0]), dt.date.fromisoformat(ends[-1])
        except ValueError:
            raise PlanError(
                "week.days_off", f"“{part.strip()[:40]}” is not a date. Enter one such as 2026-12-24."
            ) from None
        if len(ends) > 2 or last < first or (last - first).days > 200:
            raise PlanError("week.days_off", f"“{part.strip()[:40]}”: the second date must be later.")
        made |= {first + dt.timedelta(days=n) for n in range((last - first).days + 1)}
    if len(made) > 200:
        raise PlanError("week.days_off", "At most 200 days off: remove the past ones.")
    return [d.isoformat() for d in sorted(made)]


def with_week(shop: Shop, sets: Mapping[str, Any]) -> Shop:
    """The shop with other figures, by dotted name. Raises: ValueError, KeyError for what cannot be."""
    data = shop.model_dump()
    for name, value in sets.items():
        put_at(data, name, value)
    made = Shop.model_validate(data)
    week_fits(made.week)
    return made


def _rows(typed: Mapping[str, str], name: str, kept: int) -> int:
    """How many rows of a list a page has: those kept and one more to write in, or those that were typed."""
    given = [int(k.split(".")[1]) + 1 for k in typed if k.startswith(f"{name}.") and k.split(".")[1].isdecimal()]
    return min(MOST_ROWS, max([kept + 1, *given]))


def _row_fields(shop: Shop, typed: Mapping[str, str]) -> tuple[list[Field], list[tuple[Field, Field, Field]]]:
    """The inputs of the two lists of the page."""
    thicknesses = [_thickness(i) for i in range(_rows(typed, "thicknesses_mm", len(shop.thicknesses_mm)))]
    return thicknesses, [_clamps(i) for i in range(_rows(typed, "clamps", len(shop.clamps)))]


def _values(shop: Shop) -> dict[str, Any]:
    """What stands in every input, by its name."""
    made = shop.model_dump() | {f"times.{key}": seconds for key, seconds in _own_times(shop).items()}
    made |= {f"week.{name}": value for name, value in shop.week.model_dump().items()}
    made["week.days_off"] = days_off_say(shop.week.days_off)
    made |= {f"thicknesses_mm.{i}": mm for i, mm in enumerate(shop.thicknesses_mm)}
    for i, row in enumerate(shop.clamps):
        made |= {f"clamps.{i}.{name}": value for name, value in row.model_dump().items()}
    return made


def _time_fields(shop: Shop) -> dict[str, Field]:
    """An input for the seconds of every move, by its key: per foot where the shop measures in inches.

    Its hint: the table's seconds, and what the shop's runs teach in their place."""
    learnt, made = {t.key: t for t in shop.learnt_times}, {}
    for t in time_table().values():
        size = t.size_in(shop.units)
        hint = f"{_seconds(t.seconds * size)} s in the table"
        if own := learnt.get(t.key):
            low, likely, high = (_seconds(s * size) for s in (own.low_s, own.seconds, own.high_s))
            seen = f"{own.seen:.0f} time{'s' if round(own.seen) != 1 else ''}"
            hint = f"your runs {likely} s, likely {low} to {high} ({seen}); {hint}"
        made[t.key] = Field(f"times.{t.key}", f"{t.name_in(shop.units)}, s", "number", hint, may_be_empty=True)
    return made


def _seconds(seconds: float) -> str:
    return f"{seconds:.1f}".removesuffix(".0") if seconds < 10 else f"{seconds:.0f}"


def _own_times(shop: Shop) -> dict[str, float]:
    """The seconds a shop has typed, by key, per what it measures in."""
    table = time_table()
    return {t.key: t.seconds * table[t.key].size_in(shop.units) for t in shop.times if t.key in table}


def _inputs(shop: Shop, typed: dict[str, str], faults: dict[str, str]) -> dict[str, Any]:
    """The inputs of the page: single figures, times, thicknesses, clamps row by row."""
    values = _values(shop)

    def made(f: Field) -> FieldView:
        stands = shown(f, values.get(f.name), shop.units) or ("f_clamp" if f.name.endswith(".kind") else "")
        return FieldView(f, typed.get(f.name, "") if faults else stands, faults.get(f.name, ""))

    thicknesses, clamps = _row_fields(shop, typed)
    return {
        "inputs": [made(f) for f in FIELDS],
        "times": [made(f) for f in _time_fields(shop).values()],
        "labels": [made(f) for f in LABELS],
        "week": [made(f) for f in (*WEEK, DAYS_OFF)],
        "weekdays": [(k, n, _works(k, shop, typed if faults else {})) for k, n in DAYS.items()],
        "weekdays_fault": faults.get("week.working", ""),
        "thicknesses": [made(f) for f in thicknesses],
        "clamps": [[made(f) for f in row] for row in clamps],
    }


def _times(shop: Shop, typed: dict[str, str], faults: dict[str, str]) -> list[dict[str, Any]]:
    """The shop's own times: those that are typed; a field left empty goes by the table again."""
    before, made, table = _own_times(shop), [], time_table()
    kept = {t.key: t.seconds for t in shop.times}
    for key, field in _time_fields(shop).items():
        stands = shown(field, before.get(key), shop.units)
        text = typed.get(field.name, stands).strip()
        if not text:
            continue
        if key in kept and text == stands:
            made.append({"key": key, "seconds": kept[key]})
            continue
        try:
            seconds = float(read_text(field, text, shop.units))
        except PlanError as error:
            faults[field.name] = error.message(shop.units)
            continue
        if not 0 <= seconds <= LONGEST_S:
            faults[field.name] = f"From 0 to {LONGEST_S:.0f} seconds, please."
        else:
            made.append({"key": key, "seconds": seconds / table[key].size_in(shop.units)})
    return made


def _read(field: Field, text: str, values: Mapping[str, Any], shop: Shop, faults: dict[str, str]) -> Any:
    """What was typed; as it was kept where it stands as it was shown. None where it is empty or cannot be read."""
    if field.name in values and text == shown(field, values[field.name], shop.units):
        return values[field.name]
    try:
        return read_text(field, text, shop.units) if text.strip() else None
    except PlanError as error:
        faults[field.name] = error.message(shop.units)
        return None


def _lists(shop: Shop, typed: dict[str, str], faults: dict[str, str]) -> dict[str, Any]:
    """The rows of both lists; a row without a thickness, or without a number of clamps, is taken out."""
    values, (thicknesses, rows) = _values(shop), _row_fields(shop, typed)
    made: dict[str, Any] = {}
    if any(f.name in typed for f in thicknesses):
        read = [_read(f, typed.get(f.name, ""), values, shop, faults) for f in thicknesses]
        made["thicknesses_mm"] = [mm for mm in read if mm is not None]
    if any(row[0].name in typed for row in rows):
        clamps = []
        for row in rows:
            count, kind, opening = (_read(f, typed.get(f.name, ""), values, shop, faults) for f in row)
            if count:
                clamps.append({"count": count, "kind": kind} | ({"opening_mm": opening} if opening else {}))
            elif opening and row[0].name not in faults and row[0].name not in values:
                faults[row[0].name] = "How many of them?"
        made["clamps"] = clamps
    return made


@router.get("/shop")
def show_shop(request: Request, kept: int = 0, brought: int = 0) -> Response:
    return shop_page(request, kept=bool(kept), brought=bool(brought))


def shop_page(
    request: Request,
    status: int = 200,
    copy_fault: str = "",
    *,
    kept: bool = False,
    brought: bool = False,
    left_out: tuple[str, ...] = (),
) -> Response:
    """The shop's figures, and its copies. left_out: what of a restored copy did not fit, in sentences."""
    store = store_of(request)
    with store.connected():
        shop, damaged = store.shop_settings.get(), store.shop_settings.damaged()
    return _page(
        request,
        shop,
        status,
        {},
        {},
        kept=kept,
        brought=brought,
        copy_fault=copy_fault,
        damaged=damaged,
        left_out=left_out,
    )


def _page(
    request: Request, shop: Shop, status: int, typed: dict[str, str], faults: dict[str, str], **more: Any
) -> Response:
    return page(
        "shop.html",
        request,
        status,
        **_inputs(shop, typed, faults),
        folder=str(store_of(request).path.parent),
        times_open=any(name.startswith("times.") for name in faults) or bool(shop.times),
        labels_open=any(name.startswith("label_") for name in faults),
        week_open=any(name.startswith("week.") for name in faults),
        unit=shop.units,
        here="shop",
        **more,
    )


@router.post("/shop")
async def keep_shop(request: Request) -> Response:
    return await planned(request, _keep_shop, request, await typed_in(request))


def _keep_shop(request: Request, typed: dict[str, str]) -> Response:
    store = store_of(request)
    with store.connected():
        shop = store.shop_settings.get()
        data, faults = shop.model_dump(), dict[str, str]()
        stands = _values(shop)
        for field in (*FIELDS, *LABELS, *WEEK):
            text = typed.get(field.name, shown(field, stands[field.name], shop.units))
            if text == shown(field, stands[field.name], shop.units) or (
                field.choices and not text and field.look == "pills"
            ):
                continue
            try:
                put_at(data, field.name, read_text(field, text, shop.units))
            except PlanError as error:
                faults[field.name] = error.message(shop.units)
        if "week.days_off" in typed:
            try:
                data["week"]["days_off"] = read_days_off(typed["week.days_off"])
            except PlanError as error:
                faults[error.field] = error.message(shop.units)
        if "week.on" in typed:
            data["week"]["working"] = [k for k in DAYS if f"week.on.{k}" in typed]
        data |= _lists(shop, typed, faults)
        data["times"] = _times(shop, typed, faults)
        try:
            made = _checked(data, shop)
        except JobFaulty as error:
            for name, message in by_field(error.faults).items():
                faults.setdefault(name, message)
        if faults:
            return _page(
                request, shop, 422, typed, faults, kept=False, brought=False, copy_fault="", damaged=None, left_out=()
            )
        store.shop_settings.save(made)
    return go_to("/shop?kept=1")


def _checked(data: dict[str, Any], shop: Shop) -> Shop:
    """The shop as typed. Raises: JobFaulty."""
    try:
        made = Shop.model_validate(data)
        label_places(made)
        week_fits(made.week)
    except ValidationError as error:
        raise JobFaulty(faults_of(error, shop.units)) from None
    except PlanError as error:
        raise JobFaulty((Fault(error.field, error.message(shop.units)),)) from None
    return made
