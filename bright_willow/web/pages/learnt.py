"""What the book has taught this shop: each figure with its band, what it rests on, a switch back to the allowance."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Annotated, get_args

from fastapi import APIRouter, Query, Request
from fastapi import Path as PathOf
from fastapi.responses import Response
from markupsafe import Markup

from ...core.common.errors import PlanError
from ...core.common.estimate import LEARNT, OWN_FIGURE, Estimate, Grade
from ...core.gluing.adhesive import settles_allowed
from ...core.learning.steam_times import own_trials
from ...core.learning.yields import LAMINATED_YIELD, PRIOR_PIECES, expected_yield
from ...core.methods.method_registry import WAYS
from ...core.shop.shop import LearntKind
from ...core.shop.times import time_table
from ...core.trials.trial import Trial
from ...core.wood.lot import DRYNESS
from ...core.wood.species import wood_table
from ...drawing.band_chart import LearnedBand, SettledRow, band_chart, settling_chart
from ...services.importing import Importer
from ...store.shared_logbook import BroughtBook, book_bundled, keep_book
from ...store.store import Store
from ..common import (
    attachment,
    go_to,
    page,
    planned,
    store_of,
    typed_in,
)
from ..forms.fields import Field
from ..forms.form_spec import FieldView
from .book import CREEPS, kind_text
from .jobs import LESS

router = APIRouter(include_in_schema=False)
MOST_ROWS = 30
FIRM = LAMINATED_YIELD["firm"]
SHARES = ((1.0, "like our own"), (LESS, "less: one third"), (0.0, "not at all"))
HEADS = {
    "springback": ("Springback", "measured ÷ calculated springback off the form"),
    "settling": ("Creep", "how much pieces keep opening in the weeks after"),
    "yields": ("Success rates", "the share of pieces that come out whole"),
    "times": ("Times", "how long the steps take in this shop"),
    "steam_times": ("Steam times", "minutes in the steam of pieces that came out whole"),
}


@dataclass
class LearnedGroup:
    """One kind of learnt figure."""

    key: str
    name: str
    message: str
    is_on: bool
    charts: list[Markup] = field(default_factory=list)
    rests_on: list[str] = field(default_factory=list)
    empty: str = ""

    @property
    def grade(self) -> Grade:
        """Of what plans go by."""
        return LEARNT if self.is_on and not self.empty else OWN_FIGURE


def _share_input(share: float, prefix: str, label: str) -> FieldView:
    """The input of how much another shop's bends count."""
    choices = tuple((f"{s:g}", message) for s, message in SHARES)
    return FieldView(Field("share", label, "choice", choices=choices), f"{share:g}", prefix=prefix)


@router.get("/book/learnt")
async def learnt(request: Request) -> Response:
    return await planned(request, _learnt, request)


def _learnt(request: Request, came: BroughtBook | None = None, fault: str = "") -> Response:
    store = store_of(request)
    with store.connected():
        shop = store.shop_settings.get()
        makers = {
            "springback": _springback,
            "settling": _settling,
            "yields": _yields,
            "times": _times,
            "steam_times": _steam_times,
        }
        rooms = []
        for key, (name, message) in HEADS.items():
            room = LearnedGroup(key, name, message, key not in shop.by_allowance)
            makers[key](store, room)
            rooms.append(room)
        names = wood_table(shop.woods)
        limits = [
            (w.key, names[w.key].name, [f"radius ÷ thickness {v:g} {how}" for how, v in w.own_limits], LEARNT)
            for w in shop.woods
            if w.own_limits
        ]
        others = [(o, store.training.count_from(o.name)) for o in shop.others]
        trials = [
            (t.id, t.trial.name, _limit_text(t.trial, shop.units), made.at_90.grade)
            for t in store.trials.find()
            if (made := t.trial.answer())
        ]
    return page(
        "learnt.html",
        request,
        422 if fault else 200,
        rooms=rooms,
        trials=trials,
        limits=limits,
        others=others,
        share_of={
            o.name: _share_input(o.share, f"o-{n}", f"How much bends from {o.name} count")
            for n, (o, _) in enumerate(others, 1)
        },
        share_of_new=_share_input(LESS, "b", "Its bends count"),
        shares=SHARES,
        brought=came,
        fault=fault,
        shop=shop,
        unit=shop.rule,
        here="book",
    )


@router.post("/book/learnt/{kind}")
def switch(request: Request, kind: LearntKind, on: Annotated[bool, Query()]) -> Response:
    """Go by what is learnt of a kind, or by what is allowed for."""
    store = store_of(request)
    with store.connected():
        shop = store.shop_settings.get()
        off = set(shop.by_allowance) - {kind} if on else {*shop.by_allowance, kind}
        kept = tuple(k for k in get_args(LearntKind) if k in off)
        store.shop_settings.save(shop.model_copy(update={"by_allowance": kept}))
    return go_to(f"/book/learnt#{kind}")


# -- another shop's book -----------------------------------------------------------------------------------------------
@router.get("/book/whole.zip")
async def whole(request: Request) -> Response:
    """The whole book as one file, for another shop."""
    return await planned(request, _whole, request)


def _whole(request: Request) -> Response:
    store = store_of(request)
    with store.connected():
        try:
            body = book_bundled(store)
        except PlanError as error:
            return _learnt(request, fault=str(error))
    return Response(body, media_type="application/zip", headers=attachment("book.zip"))


@router.post("/book/bring")
async def bring(request: Request) -> Response:
    """Another shop's book."""
    async with request.form(max_files=1, max_fields=4) as form:
        file, share = form.get("file"), form.get("share")
        raw = await file.read() if file is not None and not isinstance(file, str) else b""
    importer: Importer = request.app.state.importer
    answer: Response = await importer.asked(_bring, request, raw, str(share or ""))
    return answer


def _bring(request: Request, raw: bytes, share: str) -> Response:
    store = store_of(request)
    counts = next((s for s, _ in SHARES if f"{s:g}" == share), SHARES[1][0])
    if not raw:
        return _learnt(request, fault="Choose a logbook file first: a .zip exported from another shop.")
    try:
        with store.connected():
            woods = store.shop_settings.get().woods
        book = request.app.state.importer.book(raw, woods)
        with store.connected():
            came = keep_book(store, book, share=counts)
    except PlanError as error:
        return _learnt(request, fault=str(error))
    return _learnt(request, came)


@router.post("/book/others")
async def count(request: Request) -> Response:
    """How much the bends of another shop count."""
    return await planned(request, _count, request, await typed_in(request))


def _count(request: Request, typed: dict[str, str]) -> Response:
    store = store_of(request)
    with store.connected():
        shop = store.shop_settings.get()
        chosen = next((s for s, _ in SHARES if f"{s:g}" == typed.get("share")), None)
        if chosen is not None:
            others = tuple(
                o.model_copy(update={"share": chosen}) if o.name == typed.get("name") else o for o in shop.others
            )
            store.shop_settings.save(shop.model_copy(update={"others": others}))
    return go_to("/book/learnt#others")


@router.post("/book/learnt/limits/{key}")
def published_limit(request: Request, key: Annotated[str, PathOf(max_length=60)]) -> Response:
    """Go by the published limits of a wood again; its trials stay, and can be gone by once more."""
    store = store_of(request)
    with store.connected():
        shop = store.shop_settings.get()
        kept = tuple(
            w.model_copy(update={"rt_strap": None, "rt_free": None}) if w.key == key and w.own_limits else w
            for w in shop.woods
        )
        store.shop_settings.save(shop.model_copy(update={"woods": kept}))
    return go_to("/book/learnt#l-limits")


def _plural(n: int, what: str) -> str:
    return f"{n} {what}{'' if n == 1 else 's'}"


def _springback(store: Store, room: LearnedGroup) -> None:
    made, woods, rows = store.training.learned(), store.shop_settings.get().woods, []
    for (way, group), own in sorted(made.group.items())[:MOST_ROWS]:
        band = own.next_bend()
        name = kind_text(group, woods)
        rows.append(LearnedBand(name, band, 1.0, f"{band.likely:.2f}, {band.low:.2f} to {band.high:.2f}"))
        room.rests_on.append(f"{WAYS[way].name if way in WAYS else way}, {name}: {_plural(own.bends, 'measured bend')}")
    if rows:
        room.charts.append(Markup(band_chart(rows, "Measured ÷ calculated springback, by wood", log=True)))
    else:
        room.empty = "Nothing measured yet. Measure a piece off the form on the Measure page."


def _settling(store: Store, room: LearnedGroup) -> None:
    made, pieces = store.training.learned().settling, store.training.settled()
    rows, drawn = [], []
    for name, own in sorted(made.items()):
        allowance = settles_allowed(name)
        share = own.with_allowance(allowance)
        called = CREEPS.get(name) or f"{DRYNESS.get(name, name)} wood, bent hot"
        rows.append(
            LearnedBand(called, share, allowance, f"{share.likely:.1%}, {max(0.0, share.low):.1%} to {share.high:.1%}")
        )
        days = f"half of it in {own.half_days:.0f} days" if own.says_when else "in weeks"
        room.rests_on.append(f"{called}: {_plural(own.pieces, 'piece')} measured again, {days}")
        drawn.append(SettledRow(called, own, share, [p for n, p in pieces if n == name]))
    if rows:
        room.charts += [
            Markup(settling_chart(drawn)),
            Markup(band_chart(rows, "Share of the curvature lost over weeks")),
        ]
    else:
        room.empty = (
            "No piece has been measured again. Measure one a week or a month later: “again” on the Measure page."
        )


def _yields(store: Store, room: LearnedGroup) -> None:
    rows = []
    for (way, group), (good, failed) in sorted(store.training.learned().made.items())[:MOST_ROWS]:
        share = expected_yield(FIRM, good, failed)
        kind, percent = (
            kind_text(group, store.shop_settings.get().woods),
            f"{share.likely:.0%}, {share.low:.0%} to {share.high:.0%}",
        )
        name = f"{WAYS[way].name if way in WAYS else way}: {kind}"
        rows.append(LearnedBand(kind, share, FIRM, percent))
        room.rests_on.append(f"{name}: {good:g} of {good + failed:g} pieces whole")
    if rows:
        room.charts.append(Markup(band_chart(rows, "Share of pieces that come out whole")))
        room.rests_on.append(
            f"The mark is the rule of thumb for a firm bend, {FIRM:.0%}; it counts as {PRIOR_PIECES:.0f} pieces. A "
            "plan uses the one for its own breaking strain."
        )
    else:
        room.empty = "No piece is recorded yet, whole or failed."


def _times(store: Store, room: LearnedGroup) -> None:
    table, unit, rows = time_table(), store.shop_settings.get().units, []
    for t in store.shop_settings.learned_times()[:MOST_ROWS]:
        own = table[t.key]
        name, size = own.name_in(unit), own.size_in(unit)
        band = Estimate(t.low_s * size, t.seconds * size, t.high_s * size, "learned")
        rows.append(
            LearnedBand(name, band, own.seconds * size, f"{band.likely:.0f} s, {band.low:.0f} to {band.high:.0f}")
        )
        room.rests_on.append(f"{name}: seen {t.seen:.0f} times at the bench")
    if rows:
        room.charts.append(Markup(band_chart(rows, "Seconds for one step", log=True)))
        room.rests_on.append("A time you enter on the Shop page is used first.")
    else:
        room.empty = "No step has been timed three times yet. Runs at the bench and dry runs time them."


def _steam_times(store: Store, room: LearnedGroup) -> None:
    seen, rows = store.observed.steamed(), []
    for group, thick in sorted({(s.group, round(s.thickness_mm)) for s in seen if s.thickness_mm > 0})[:MOST_ROWS]:
        own = own_trials(seen, group=group, thickness_mm=max(0.5, float(thick)))
        name = f"{kind_text(group, store.shop_settings.get().woods)}, about {thick} mm"
        if own.minutes:
            low, likely, high = own.minutes.low, own.minutes.likely, own.minutes.high
            rows.append(LearnedBand(name, own.minutes, None, f"{likely:.0f} min, {low:.0f} to {high:.0f}"))
        room.rests_on.append(f"{name}: {own.whole} of {_plural(own.count, 'piece')} whole")
    if rows:
        room.charts.append(Markup(band_chart(rows, "Minutes in the steam of pieces that came out whole")))
    elif not seen:
        room.empty = "No piece was steamed at the bench yet."
    else:
        room.empty = "A time is proposed after three whole pieces of a kind."


def _limit_text(trial: Trial, unit: str) -> str:
    made = trial.answer()
    if made is None:
        return ""
    at, asked = made.at_90, trial.question
    likely, low, high = (asked.said(v, unit) for v in (at.likely, at.low, at.high))  # type: ignore[arg-type]
    return f"9 of 10 whole at {likely}, likely {low} to {high}, from {made.pieces} pieces"
