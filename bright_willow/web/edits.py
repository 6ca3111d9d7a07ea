"""A change made on a page: worked out on the revision its maker saw, and joined with what was changed meanwhile."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

from fastapi import Request
from fastapi.responses import Response

from ..core.common.units import Unit
from ..core.job.job import Job
from ..core.shop.shop import Shop
from ..store.store import Store
from .common import go_to, show, store_of, view_of, wants_parts
from .forms.fields import Field
from .forms.typed import shown_in

JOINED = "Merged with a change made in another window."
MEANWHILE = "Changed in another window in the meantime; your change was not made."


@dataclass(frozen=True)
class EditBase:
    """What a page showed its maker: the job at a revision, and the unit its lengths stood in."""

    store: Store
    job_id: int
    seen: int
    job: Job
    shop: Shop
    unit: Unit

    @property
    def is_now(self) -> bool:
        """Whether nothing has changed since."""
        return self.store.jobs.get(self.job_id).revision == self.seen


def base_of(request: Request, job_id: int) -> EditBase:
    """What the page a request comes from showed; the job as it stands where it does not say. Raises: NotFound."""
    store = store_of(request)
    state, shop = store.jobs.get(job_id), store.shop_settings.get()
    told, unit = request.query_params.get("seen", ""), request.query_params.get("in", "")
    seen = int(told) if told.isascii() and told.isdigit() and len(told) < 19 else state.revision
    job = state.job if seen == state.revision else store.jobs.revision(job_id, seen)
    return EditBase(store, job_id, seen, job, shop, unit if unit in ("mm", "in") else shop.units)  # type: ignore[arg-type]


def drop_unchanged(base: EditBase, fields: tuple[Field, ...], typed: dict[str, str]) -> dict[str, str]:
    """What was typed, without what reads as it stands now: a figure filled in by another answer is nobody's change."""
    if base.is_now:
        return typed
    data, kept = base.store.jobs.get(base.job_id).job.model_dump(), dict(typed)
    for field in fields:
        try:
            stands = shown_in(field, data, base.unit)
        except (KeyError, IndexError, TypeError):  # of another kind by now
            continue
        if typed.get(field.name) == stands:
            del kept[field.name]
    return kept


def keep_joined(
    request: Request,
    base: EditBase,
    made: Job,
    what: str,
    stage: str,
    *,
    fields: tuple[Field, ...] = (),
    parts: bool | None = None,
    **more: Any,
) -> Response:
    """Keep what was made on a base, and answer with the page; a field others changed too is theirs, and said.

    Raises: NotKept; JobFaulty where the two cannot stand together.
    """
    shop = base.shop
    kept = base.store.jobs.save_change(base.job_id, base.seen, made, what, unit=shop.units, woods=shop.woods)
    if kept.clashes:
        mine, message = _both(base, made, kept.theirs or base.job, kept.clashes, fields)
        clash = {"mine": mine, "faults": message, "notice": "" if mine else MEANWHILE}
        return show(request, view_of(request, base.job_id, stage, **clash), 409, parts=parts)
    if not more and not (wants_parts(request) if parts is None else parts):
        return go_to(f"/jobs/{base.job_id}/{stage}")
    more.setdefault("notice", JOINED if kept.theirs else "")
    return show(request, view_of(request, base.job_id, stage, **more), parts=parts)


def _both(
    base: EditBase, made: Job, theirs: Job, clashes: tuple[str, ...], fields: tuple[Field, ...]
) -> tuple[dict[str, str], dict[str, str]]:
    """Of each field that was changed twice: what its maker meant, and a sentence that says both."""
    mine, message = {}, {}
    data, other, unit = made.model_dump(), theirs.model_dump(), base.shop.units
    for name in clashes:
        field = next((f for f in fields if f.name == name), None)
        if field is None:
            message[name] = (
                f"{name.replace('_mm', '').replace('_', ' ').replace('.', ', ')}: also changed in another window."
            )
            continue
        yours, their = shown_in(field, data, unit), shown_in(field, other, unit)
        mine[name] = yours
        message[name] = (
            f"Changed in the meantime: your change {_word(field, yours)}, the other change {_word(field, their)}. "
            "The other change is used."
        )
    return mine, message


def _word(field: Field, text: str) -> str:
    shown = dict(field.choices).get(text, text)
    return f"“{shown[:60]}”" if shown else "empty"


def changed_meanwhile(request: Request, base: EditBase, stage: str) -> Response:
    """The page as it stands now, for something that made sense only on what was seen."""
    return show(request, view_of(request, base.job_id, stage, notice=MEANWHILE), 409)
