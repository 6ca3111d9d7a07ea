"""What lists show of a job: worked out once and kept; within a page's patience, else in the background."""

from __future__ import annotations

import json
import threading
import time
from dataclasses import asdict, dataclass

from ..core.common.errors import PlanError
from ..core.common.findings import worst
from ..core.job.job import Job
from ..core.plan.plan import checked_sketch
from ..core.shop.shop import Shop
from ..drawing.board import thumbnail_svg
from ..store.records import NotKept, Unreadable
from ..store.store import Store

PATIENCE_S = 0.05  # how long a page works out what is old before it shows the rest as old
BATCH, WORK_S, REST_S = 10, 0.02, 0.05


@dataclass(frozen=True)
class JobLine:
    """What a list shows of a job. Lengths in mm; `problems` by unit, where it cannot be planned; boards of its lot."""

    level: str = "fit"
    wood: str = ""
    least_radius_mm: float = 0.0
    is_arc: bool = False
    drawing: str = ""
    problems: dict[str, str] | None = None
    gravest: str = ""
    boards: int = 0

    @classmethod
    def read(cls, body: str) -> JobLine:
        """A line as it was kept."""
        return cls(**json.loads(body))


def summarize(job: Job, shop: Shop, learnt: object) -> JobLine:
    """The line of a job, from its plan."""
    answer = checked_sketch(job, shop, learnt)  # type: ignore[arg-type]
    if isinstance(answer, PlanError):
        return JobLine("stop", problems={"mm": answer.message("mm"), "in": answer.message("in")})
    inner = answer.geometry.inner
    boards = answer.quantities.boards
    return JobLine(
        worst([f.level for f in answer.findings]),
        answer.way.wood.name,
        inner.least_radius_mm or 0.0,
        inner.curve.lengths_mm.size == 1,
        thumbnail_svg(answer),
        gravest=answer.findings[0].message if answer.findings else "",
        boards=boards.boards if boards and job.stock.lot else 0,
    )


def refresh_summaries(store: Store, job_ids: list[int], patience_s: float) -> int:
    """Work out the lines of jobs anew for as long as patience lasts; returns how many. Needs a connection."""
    until, made = time.monotonic() + patience_s, []
    shop, learnt, mark = store.shop_settings.get(), store.training.learned(), store.summaries.mark()
    for job_id in job_ids:
        try:
            state = store.jobs.get(job_id)
            line = summarize(state.job, shop, learnt)
        except Unreadable:
            continue
        lot = state.job.stock.lot
        made.append((job_id, state.revision, mark, lot.name if lot else "", line.boards, json.dumps(asdict(line))))
        if time.monotonic() > until:
            break
    if made:
        store.summaries.save(made)
    return len(made)


def refresh_for_page(store: Store, job_ids: set[int] | None = None) -> None:
    """What a page is about to show, as far as its patience lasts. A page is shown also where nothing can be kept."""
    try:
        if ids := store.summaries.outdated(50, job_ids):
            refresh_summaries(store, ids, PATIENCE_S)
    except NotKept:
        return


class SummaryRefresher:
    """Works out old lines in the background, a few at a time, so that live answers hardly notice."""

    def __init__(self, store: Store) -> None:
        self.store = store
        self._wanted, self._ends = threading.Event(), threading.Event()

    def start(self) -> None:
        self._ends.clear()
        self._wanted.set()
        threading.Thread(target=self._run, name="lines", daemon=True).start()

    def stop(self) -> None:
        self._ends.set()
        self._wanted.set()

    def wake(self) -> None:
        """Something has changed."""
        self._wanted.set()

    def _run(self) -> None:
        failed: set[int] = set()
        while not self._ends.is_set():
            self._wanted.wait(60)
            self._wanted.clear()
            while not self._ends.wait(REST_S):
                try:
                    with self.store.connected():
                        ids = [i for i in self.store.summaries.outdated(BATCH + len(failed)) if i not in failed]
                        done = refresh_summaries(self.store, ids, WORK_S) if ids else 0
                except NotKept:
                    self._ends.wait(2)
                    continue
                if not ids:
                    break
                failed |= set(ids) if not done else set()  # rows that cannot be read are not tried again and again
