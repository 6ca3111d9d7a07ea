"""What the runs of a job left behind: runs listed, pieces, records, and a run as a file."""

from __future__ import annotations

import datetime as dt
from dataclasses import dataclass
from typing import Any

from ..calendar.shop_clock import zone_of
from ..calendar.time_format import format_day, format_time
from ..core.common.units import Unit, format_temperature
from ..core.execution.run_clock import said_s
from ..core.execution.run_records import PieceRecord
from ..store.store import Store
from .bench_runs import RunNow, reading_text, run_now
from .readings import ReadingBuffer


@dataclass(frozen=True)
class RunLine:
    """A run of a job in a line."""

    id: int
    kind: str
    message: str
    is_open: bool


def runs_of(store: Store, job_id: int) -> list[RunLine]:
    """Every run of a job, the newest first."""
    shop = store.shop_settings.get()
    zone, unit = zone_of(shop.week), shop.units
    names = {"run": "Run", "rehearsal": "Dry run", "game": "Practice run", "trial": "Test bends"}
    made = []
    for run in store.runs.find(job_id, most=20):
        at = run.at.replace(tzinfo=dt.UTC).astimezone(zone)
        message = f"{names[run.kind]} of {format_day(at, unit)}, {format_time(at, unit)}"
        made.append(RunLine(run.id, run.kind, message, run.ended is None))
    return made


@dataclass(frozen=True)
class RunPiece:
    """A piece of a run, in words: its name as a form sends it, what the run says of it; broke: what, where it did."""

    name: str
    title: str
    message: str
    broke: str
    is_written: bool


def run_pieces(store: Store, gatherer: ReadingBuffer | None, job_id: int, wall_s: float) -> list[RunPiece]:
    """Every piece of a job's runs of which something is known; is_written: whether the book has it already."""
    written = {(p.run, p.number) for form in store.forms.find(job_id) for p in form.pieces}
    made = []
    for run in reversed(store.runs.find(job_id, most=20)):
        if run.kind != "run":
            continue
        now = run_now(store, gatherer, run.id, wall_s)
        for r in now.records:
            title = f"piece {r.number + 1} of run {run.id}"
            known = (run.id, r.number) in written
            made.append(
                RunPiece(f"{run.id}.{r.number}", title, record_text(r, store.shop_settings.get().units), r.broke, known)
            )
    return made


def record_of(
    store: Store, gatherer: ReadingBuffer | None, job_id: int, name: str, wall_s: float
) -> PieceRecord | None:
    """What a run knows of a piece, by the name a form sends; none for anything else."""
    run_id, _, number = name.partition(".")
    for run in store.runs.find(job_id, most=20):
        if str(run.id) == run_id and run.kind == "run":
            records = run_now(store, gatherer, run.id, wall_s).records
            return next((r for r in records if str(r.number) == number), None)
    return None


def record_text(r: PieceRecord, unit: Unit) -> str:
    """What a run knows of a piece, in a line."""
    said = []
    if r.steamed_s is not None:
        at = f" at {format_temperature(round(r.chamber_c), unit)}" if r.chamber_c is not None else ""
        said.append(f"{r.steamed_s / 60:.0f} min in the steam{at}")
    if r.to_form_s is not None:
        said.append(f"{r.to_form_s:.0f} s to the last clamp")
    if r.open_s is not None:
        said.append(f"{r.open_s / 60:.0f} min from first glue to clamped")
    if r.pressure_kpa is not None:
        said.append(f"under {reading_text('vacuum', r.pressure_kpa, unit)}")
    if r.on_form_s is not None:
        said.append(f"{said_s(r.on_form_s)} on the form")
    return "; ".join([*said, *r.notes])


def as_json(now: RunNow) -> dict[str, Any]:
    """Where a run stands, for programs: by the run's clock, seconds since 1970."""
    seen = now.live
    return {
        "run": now.run.id,
        "at_s": now.now_s,
        "rate": now.rate,
        "done": [{"key": k, "number": n, "from_s": m.from_s, "to_s": m.to_s} for (k, n), m in now.state.marks.items()],
        "out": {str(p): b.what for p, b in now.state.out.items()},
        "now": list(seen.now.name) if seen and seen.now else None,
        "events": len(now.state.told),
        "ended_s": now.state.ended_s,
    }
