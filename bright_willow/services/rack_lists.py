"""The rack as pages show it: each lot, what it is good for, which jobs it feeds, what is left."""

from __future__ import annotations

from dataclasses import dataclass, replace

from ..calendar.time_format import format_day
from ..core.common.errors import PlanError
from ..core.common.findings import Level
from ..core.common.units import Unit, format_length
from ..core.form.kinds import KINDS as FORM_KINDS
from ..core.job.job import Job
from ..core.job.stock_choice import InspectedBoard
from ..core.measuring.reuse import TOLERANCE_MM, Candidate, candidates
from ..core.shape.curve_figures import CurveFigures
from ..core.wood.lot import Lot, Verdict, judged
from ..core.wood.species import Species, wood_table
from ..store.records import KeptForm, Unreadable
from ..store.store import Store

SHOWN_JOBS, SHOWN_FORMS, MOST_TRIED, MOST_JOBS = 6, 50, 60, 200


@dataclass(frozen=True)
class LotUse:
    """A job that takes boards from a lot."""

    job_id: int
    job: str
    boards: int


@dataclass(frozen=True)
class FormLine:
    """A form that was built, what it served and what came off it; against a job, how it would do."""

    form: KeptForm
    job: str
    wood: str
    pieces: int
    shape: str
    candidate: Candidate | None = None
    grade: str = "physics"
    tolerance_mm: float = TOLERANCE_MM

    @property
    def verdict(self) -> tuple[Level, str]:
        """Whether it does."""
        c = self.candidate
        if c is None:
            return "fit", ""
        if c.fit is None:
            return "stop", "no"
        if c.too_narrow_mm > 0:
            return "stop", "too narrow"
        if c.fit.too_short_mm > 0:
            return "stop", "too short"
        if c.does(self.tolerance_mm):
            return "fit", "works as it is"
        return ("watch", "works with shims") if c.does_with_shims(self.tolerance_mm) else ("stop", "no")


def form_lines(store: Store, forms: list[KeptForm]) -> list[FormLine]:
    """Kept forms as a list shows them. Needs a connection."""
    shop = store.shop_settings.get()
    names, woods = store.jobs.names({f.job_id for f in forms}), wood_table(shop.woods)
    return [_form_line(f, names.get(f.job_id, ""), woods, shop.rule) for f in forms]


def form_candidates(store: Store, job: Job, tolerance_mm: float, own: int) -> tuple[list[FormLine], int, str]:
    """Kept forms of other jobs against a job, the best first; how many there were to try, and why none could be."""
    shop = store.shop_settings.get()
    try:
        forms = {f.id: f for f in store.forms.most_like(job.mid_line().mean_curvature, MOST_TRIED) if f.job_id != own}
        tried = ((i, f.built) for i, f in forms.items())
        found = candidates(job, tried, shop, store.training.learned(), tolerance_mm=tolerance_mm)
    except PlanError as error:
        return [], 0, error.message(shop.units)
    best = found[:SHOWN_FORMS]
    lines = {line.form.id: line for line in form_lines(store, [forms[c.form_id] for c in best])}
    return [replace(lines[c.form_id], candidate=c, tolerance_mm=tolerance_mm) for c in best], len(found), ""


def _form_line(form: KeptForm, job: str, woods: dict[str, Species], unit: Unit) -> FormLine:
    built = form.built
    wood = woods[built.species].name if built.species in woods else built.species
    figures = CurveFigures(built.mid_line(built.form_curvature))
    tightest = f", tightest {format_length(figures.least_radius_mm, unit)}" if figures.least_radius_mm else ""
    message = f"{FORM_KINDS[built.kind].name}{tightest}, {format_length(figures.length_mm, unit)} long"
    if built.liner_mm:
        message += f", liner {format_length(built.liner_mm, unit)}"
    return FormLine(form, job, wood, len(form.pieces), message)


@dataclass(frozen=True)
class LotLine:
    """A lot with its verdict, the jobs it feeds (the first few, and how many more), the boards they take together."""

    id: int
    lot: Lot
    wood: str
    verdict: Verdict
    feeds: tuple[LotUse, ...]
    more_jobs: int
    boards: int

    @property
    def left(self) -> int:
        return self.lot.count - self.boards

    @property
    def run_out(self) -> str:
        return f"1 in {1 / self.lot.grain_slope:.0f}" if self.lot.grain_slope > 1e-3 else "straight"


@dataclass(frozen=True)
class LotRecord:
    """What a lot has given so far: boards kept and rejected when they were looked at, pieces made, pieces lost."""

    kept: int
    rejected: int
    made: int
    lost: int

    @property
    def message(self) -> str:
        """In a sentence or two; empty where nothing is known."""
        parts = []
        if seen := self.kept + self.rejected:
            parts.append(f"Inspected: {self.kept} of {seen} boards kept ({self.kept / seen:.0%}).")
        if self.made:
            whole = self.made - self.lost
            parts.append(f"Bent: {whole} of {self.made} pieces came out whole ({whole / self.made:.0%}).")
        return " ".join(parts)


def lot_record(store: Store, lot: Lot) -> LotRecord:
    """What a lot has given in all its jobs. Needs a connection."""
    ids = store.summaries.all_of_lot(lot.name, MOST_JOBS)
    seen = [board for job in ids for board in _inspected(store, job)]
    rejected = sum(board.verdict == "reject" for board in seen)
    made, lost = store.pieces.made_by_jobs(set(ids)) if ids else (0, 0)
    return LotRecord(len(seen) - rejected, rejected, made, lost)


def _inspected(store: Store, job_id: int) -> tuple[InspectedBoard, ...]:
    """The boards a job looked at; none of a job that cannot be read."""
    try:
        return store.jobs.get(job_id).job.prepare.inspected
    except Unreadable:
        return ()


def cut_text(store: Store, job_id: int) -> str:
    """What was cut for a job, in a sentence; empty while nothing is. Needs a connection."""
    made = store.board_cuts.of_job(job_id)
    if made is None:
        return ""
    boards = f"{made.boards} board{'s' if made.boards != 1 else ''}"
    kept = sum(count for _, count in made.off_cuts)
    back = f"; {kept} offcut{'s' if kept != 1 else ''} went back to the rack" if kept else ""
    day = format_day(made.at, store.shop_settings.get().units, year=True)
    return f"Cut {day}: {boards} of “{made.lot}” removed from the rack{back}."


def lot_lines(store: Store) -> list[LotLine]:
    """Every lot on the rack that can be read. Needs a connection."""
    taken = store.summaries.boards_by_lot()
    woods = wood_table(store.shop_settings.get().woods)
    lines = []
    for kept in store.rack.lots():
        jobs, boards = taken.get(kept.lot.name, (0, 0))
        feeds = tuple(LotUse(*row) for row in store.summaries.jobs_of_lot(kept.lot.name, SHOWN_JOBS)) if jobs else ()
        wood = woods[kept.lot.species].name if kept.lot.species in woods else kept.lot.species
        lines.append(LotLine(kept.id, kept.lot, wood, judged(kept.lot), feeds, jobs - len(feeds), boards))
    return lines
