"""The rack as pages show it: each lot, what it is good for, which jobs it feeds, what is left."""

from __future__ import annotations

from dataclasses import dataclass, replace

from ..core.book.reuse import TOLERANCE_MM, Candidate, candidates
from ..core.form.kinds import KINDS as FORM_KINDS
from ..core.ground.errors import OutOfRange
from ..core.ground.findings import Level
from ..core.ground.units import Unit, format_length
from ..core.job.job import Job
from ..core.plan.plan import sketch
from ..core.wood.lot import Lot, Verdict, judged
from ..core.wood.species import Species, wood_table
from ..store.book import KeptForm, Store


@dataclass(frozen=True)
class Feeds:
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
            return "fit", "will do as it is"
        return ("watch", "will do with shims") if c.does_with_shims(self.tolerance_mm) else ("stop", "no")


def form_lines(
    store: Store, job: Job | None = None, tolerance_mm: float = TOLERANCE_MM, own: int = 0
) -> tuple[list[FormLine], str]:
    """Every form kept; with a job, the best for it first, and why there is none where it cannot be planned."""
    names = {s.id: s.job.name for s in [*store.jobs(), *store.jobs_put_away()]}
    shop, woods = store.shop(), wood_table(store.shop().woods)
    forms = {f.id: f for f in store.forms() if not (job and f.job_id == own)}
    lines = {i: _form_line(f, names.get(f.job_id, ""), woods, shop.units) for i, f in forms.items()}
    if job is None:
        return list(lines.values()), ""
    try:
        found = candidates(
            job, ((i, f.built) for i, f in forms.items()), shop, store.learnt(), tolerance_mm=tolerance_mm
        )
    except OutOfRange as error:
        return [], error.says(shop.units)
    return [replace(lines[c.form_id], candidate=c, tolerance_mm=tolerance_mm) for c in found], ""


def _form_line(form: KeptForm, job: str, woods: dict[str, Species], unit: Unit) -> FormLine:
    built = form.built
    wood = woods[built.species].name if built.species in woods else built.species
    curve = built.mid_line(built.form_curvature)
    tight = 1 / max(1e-9, curve.tightest_curvature)
    says = f"{FORM_KINDS[built.kind].name}, tightest {format_length(tight, unit)}"
    says += f", {format_length(curve.length_mm, unit)} long"
    if built.liner_mm:
        says += f", liner {format_length(built.liner_mm, unit)}"
    return FormLine(form, job, wood, len(form.pieces), says)


@dataclass(frozen=True)
class LotLine:
    """A lot with its verdict, the jobs it feeds, and the boards left when they are cut."""

    id: int
    lot: Lot
    wood: str
    verdict: Verdict
    feeds: tuple[Feeds, ...]

    @property
    def left(self) -> int:
        return self.lot.count - sum(f.boards for f in self.feeds)

    @property
    def run_out(self) -> str:
        return f"1 in {1 / self.lot.grain_slope:.0f}" if self.lot.grain_slope > 1e-3 else "straight"


def lot_lines(store: Store) -> list[LotLine]:
    """Every lot on the rack. Needs a connection."""
    shop, learnt = store.shop(), store.learnt()
    fed: dict[str, list[Feeds]] = {}
    for state in store.jobs():
        lot = state.job.stock.lot
        if lot is None:
            continue
        try:
            boards = sketch(state.job, shop, learnt).quantities.boards
        except OutOfRange:
            continue
        if boards:
            fed.setdefault(lot.name, []).append(Feeds(state.id, state.job.name, boards.boards))
    woods = wood_table(shop.woods)
    return [
        LotLine(
            kept.id,
            kept.lot,
            woods[kept.lot.species].name if kept.lot.species in woods else kept.lot.species,
            judged(kept.lot),
            tuple(fed.get(kept.lot.name, ())),
        )
        for kept in store.lots()
    ]
