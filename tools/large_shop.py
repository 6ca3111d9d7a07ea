"""A shop of many years, made of the sample jobs over and over: for measuring how long its pages take."""

from __future__ import annotations

import datetime as dt
import json
import random
from collections.abc import Iterator
from dataclasses import asdict
from pathlib import Path
from typing import Any

from bright_willow.core.learning.belief import NOTHING_LEARNT
from bright_willow.core.measuring.built_form import BuiltForm
from bright_willow.core.plan.plan import sketch
from bright_willow.demo.marrow_lane import EXAMPLES, LOTS, SHOP
from bright_willow.services.summaries import summarize
from bright_willow.store.store import Store
from bright_willow.store.tables import (
    FormRow,
    JobLineRow,
    JobRow,
    MeasurementRow,
    PieceRow,
    RevisionRow,
    TaughtRow,
)

SOME = 300  # rows a statement


def _kept(model: Any, rows: list[dict[str, Any]]) -> None:
    for i in range(0, len(rows), SOME):
        model.insert_many(rows[i : i + SOME]).execute()


def _bend(built: BuiltForm, rng: random.Random) -> tuple[float, float, str]:
    """Chord, rise and the record of one piece."""
    chord, rise, _ = built.on_face(built.bent_by(rng.lognormvariate(0, 0.25)), "mid")
    chord, rise = round(chord, 1), round(rise, 1)
    return chord, rise, built.record(chord_mm=chord, rise_mm=rise, face="mid", error_mm=0.5).model_dump_json()


def _forms(rng: random.Random) -> Iterator[tuple[BuiltForm, list[tuple[float, float, str]]]]:
    for example in EXAMPLES:
        built = BuiltForm.of(sketch(example.job, SHOP))
        if built.can_open:
            yield built, [_bend(built, rng) for _ in range(6)]


def fill_large(folder: Path, jobs: int, bends: int) -> Store:
    """A store with so many jobs, each with its line, and so many bends, each off a form of its own."""
    store, rng, now = Store(folder), random.Random(7), dt.datetime(2026, 1, 1)
    with store.connected(), store.writing():
        store.shop_settings.save(SHOP)
        for lot in LOTS:
            store.rack.save(lot)
        made = [(e.job, summarize(e.job, SHOP, NOTHING_LEARNT)) for e in EXAMPLES]
        forms = list(_forms(rng))
        store.note("book", "1")
        mark = store.summaries.mark()
        each = [(i, *made[i % len(made)], now + dt.timedelta(minutes=i)) for i in range(1, jobs + 1)]
        named = [(i, job.model_copy(update={"name": f"{job.name[:90]} {i}"}), line, at) for i, job, line, at in each]
        _kept(JobRow, [{"created": at, "changed": at, "current": i, "name": job.name} for i, job, _, at in named])
        _kept(
            RevisionRow,
            [{"job": i, "at": at, "what": "started", "body": job.model_dump_json()} for i, job, _, at in named],
        )
        lots = [(i, job.stock.lot.name if job.stock.lot else "", line) for i, job, line, _ in named]
        _kept(
            JobLineRow,
            [
                {
                    "job": i,
                    "revision": i,
                    "mark": mark,
                    "lot": lot,
                    "boards": line.boards,
                    "body": json.dumps(asdict(line)),
                }
                for i, lot, line in lots
            ],
        )
        picked = [(i, *forms[i % len(forms)]) for i in range(1, bends + 1)]
        bodies = {id(built): built.model_dump_json() for built, _ in forms}
        _kept(
            FormRow,
            [
                {
                    "job": 1 + i % jobs,
                    "at": now,
                    "body": bodies[id(built)],
                    "way": built.way,
                    "stock_group": built.group,
                    "mean_curvature": built.mean_curvature,
                }
                for i, built, _ in picked
            ],
        )
        _kept(PieceRow, [{"form": i, "label": "1"} for i, _, _ in picked])
        came = [(i, seen[i % len(seen)]) for i, _, seen in picked]
        _kept(
            MeasurementRow,
            [
                {"piece": i, "day": now.date(), "chord_mm": c, "rise_mm": r, "face": "mid", "error_mm": 0.5}
                for i, (c, r, _) in came
            ],
        )
        _kept(TaughtRow, [{"piece": i, "body": body} for i, (_, _, body) in came])
    return store
