"""A trial laid out from a question: its pieces by chance, two bends of a blank, and what the plan says of its steam."""

from __future__ import annotations

import math

from ..common.errors import PlanError
from ..heat.steam_plan import SteamHeat
from ..plan.result import Plan
from .questions import QUESTIONS
from .threshold import grid
from .trial import (
    DESIGNS,
    LATEST_OVER,
    MOST_PIECES,
    MOST_VARIANTS,
    Trial,
    TrialPiece,
)

LEAST_APART_MIN = 1.0  # between two pieces out of the heat, where the moves allow. Grade: allowance.


def laid_out(
    plan: Plan,
    *,
    name: str,
    asks: str,
    settings: tuple[float, ...],
    repeats: int,
    seed: int,
    design: str = "grid",
    variants: tuple[str, ...] = (),
    bends: int = 1,
) -> Trial:
    """Return a trial: every setting so many times of each kind, in an order by chance; or its first piece, where they
    go one at a time. Raises: PlanError.

    Args:
        plan: of the job whose wood is tested.
        name: what it is called.
        asks: a key of the questions.
        settings: to try, above 0.
        repeats: bends of each, 1 or more.
        seed: of the order.
        design: a key of the designs.
        variants: kinds that are set against each other, by name; none for one kind.
        bends: 1 or 2, made of one blank.
    """
    if design not in DESIGNS:
        raise PlanError("design", "Choose the order.")
    if asks not in QUESTIONS:
        raise PlanError("asks", "Choose a question from the list.")
    published = QUESTIONS[asks].published(plan)
    if published is None or published <= 0:
        raise PlanError("asks", "This method cannot answer that question.")
    if not settings:
        raise PlanError("settings", "One setting at least, please.")
    if design == "one_at_a_time":
        if not QUESTIONS[asks].asks_whole:
            raise PlanError(
                "design", "“One at a time” finds where pieces fail; for a measured figure choose “every setting”."
            )
        settings, repeats = settings[:1], 1
    if variants and (len(set(variants)) < len(variants) or not 2 <= len(variants) <= MOST_VARIANTS):
        raise PlanError("variants", f"Two to {MOST_VARIANTS} kinds with different names, or none.")
    if any(len(v) > 40 for v in variants):
        raise PlanError("variants", "Names of 40 letters at most, please.")
    if variants and design == "one_at_a_time":
        raise PlanError("design", "To compare kinds choose “every setting”.")
    if bends not in (1, 2):
        raise PlanError("bends", "One or two bends per blank, please.")
    if bends == 2 and design == "one_at_a_time":
        raise PlanError("bends", "“One at a time” needs a blank for each bend.")
    kinds = max(1, len(variants))
    if len(settings) * repeats * kinds > MOST_PIECES:
        raise PlanError("repeats", f"At most {MOST_PIECES} pieces in one set of test bends, please.")
    heat = plan.hot.heat if plan.hot else None
    made = Trial(
        name=name,
        asks=asks,  # type: ignore[arg-type]
        design=design,  # type: ignore[arg-type]
        published=published,
        group=plan.way.group,
        species=plan.job.stock.species,
        has_strap=isinstance(heat, SteamHeat) and heat.strap is not None,
        variants=variants,
        pieces=_laid(settings, repeats, kinds, seed, bends),
        bends=bends,  # type: ignore[arg-type]
    )
    return made.model_copy(update=_of_the_steam(heat)) if isinstance(heat, SteamHeat) else made


def _of_the_steam(heat: SteamHeat) -> dict[str, float]:
    """What the plan says of minutes in the steam, and how far apart pieces come out."""
    time = heat.steam.time
    latest = time.latest_min if time.latest_min is not None else LATEST_OVER * max(time.planned_min, time.earliest_min)
    apart = 0.0 if heat.in_bag else heat.steam.handling_s / 60
    return {
        "earliest_min": round(time.earliest_min, 2),
        "latest_min": round(latest, 2),
        "apart_min": float(max(LEAST_APART_MIN, math.ceil(apart))),
    }


def _laid(settings: tuple[float, ...], repeats: int, kinds: int, seed: int, bends: int) -> tuple[TrialPiece, ...]:
    """Pieces of every setting and kind, in an order by chance; two bends of one blank follow one another."""
    full, left = divmod(repeats, bends)
    each = grid(tuple(range(1, len(settings) * kinds + 1)), full + (1 if left else 0), seed=seed)
    made, seen = list[TrialPiece](), dict[float, int]()
    for blank, n in enumerate(each, 1):
        s, k = divmod(int(n) - 1, kinds)
        seen[n] = seen.get(n, 0) + 1
        here = bends if seen[n] <= full else left
        piece = TrialPiece(setting=settings[s], variant=k, blank=blank if bends > 1 else 0)
        made += [piece] * here
    return tuple(made)
