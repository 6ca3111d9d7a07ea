"""Makes docs/screenshots from the demo data: one current picture of each main view."""

from __future__ import annotations

import datetime as dt
import sys
import tempfile
from pathlib import Path

from playwright.sync_api import sync_playwright

from bright_willow.store.store import Store
from tools.running import running_app

OUT = Path(__file__).parent.parent / "docs" / "screenshots"
VIEWS = {
    "jobs": "/",
    "shape": "/jobs/5/shape",
    "method": "/jobs/5/way",
    "quick": "/quick?shape=arc&arc=arc_by_chord&how=glued",
    "layup": "/jobs/5/build_up",
    "bend": "/jobs/14/bend",
    "steam": "/jobs/14/steam",
    "drying": "/jobs/14/dry#view-hours",
    "form": "/jobs/5/form",
    "cut-list": "/jobs/5/prepare",
    "glue-up": "/jobs/5/press",
    "schedule": "/jobs/14/days?bar=14.warm_up.2",
    "measure": "/jobs/1/measure",
    "rack": "/rack",
    "logbook": "/book",
    "track-record": "/book/track-record",
}
WHY = "/jobs/14/why?seen=outer_splintered&piece=1.0"
TODAY = dt.datetime(2026, 11, 24, 9, 40, tzinfo=dt.UTC)  # of every picture, so that the same shop gives the same ones
FLAGS = [
    "--no-sandbox",
    "--disable-gpu",
    "--disable-dev-shm-usage",
    "--disable-background-networking",
    "--disable-component-update",
    "--disable-sync",
    "--no-first-run",
]


def main(out: Path, names: list[str]) -> None:
    """Write the named pictures, or all."""
    from bright_willow.demo.marrow_lane import fill

    out.mkdir(parents=True, exist_ok=True)
    with tempfile.TemporaryDirectory() as folder:
        store = Store(Path(folder))
        with store.connected():
            fill(store, TODAY.date())
            own = {
                "bench": at_the_bench(store),
                "test-bends": a_trial(store),
                "why": "/jobs/14/why?seen=outer_splintered&piece=1.0",
            }
        with running_app(store, lambda: TODAY) as address, sync_playwright() as play:
            browser = play.chromium.launch(executable_path="/usr/bin/chromium", args=FLAGS)
            page = browser.new_page(viewport={"width": 1280, "height": 800})
            for name, path in (VIEWS | own).items():
                if names and name not in names:
                    continue
                page.goto(address + path)
                page.wait_for_load_state("load")
                page.wait_for_timeout(600)
                if "#view-" in path:
                    page.click(f'label[for="{path.partition("#")[2]}"]')
                page.screenshot(path=out / f"{name}.png")
            browser.close()


def a_trial(store: Store) -> str:
    """A trial of the sample shop's steamed ash, all pieces graded; where it is looked at."""
    from bright_willow.core.plan.plan import plan
    from bright_willow.core.trials.design import laid_out
    from bright_willow.core.trials.threshold import BRITTLE, SPLINTERED
    from bright_willow.core.trials.trial import graded

    made = plan(store.jobs.get(14).job, store.shop_settings.get(), store.training.learned())
    trial = laid_out(made, name="Ash, minutes in the steam", asks="minutes", settings=(6, 10, 16), repeats=3, seed=4)
    for n, piece in enumerate(trial.pieces, 1):
        came = SPLINTERED if piece.setting < 8 else BRITTLE if piece.setting > 12 and n % 2 else 0
        trial = graded(trial, n, grade=came, springback_mm=None, note="")
    return f"/trials/{store.trials.add(14, trial)}"


def at_the_bench(store: Store) -> str:
    """A steam run of the sample shop, the first load nearly done, its thermometer live; where it is looked at."""
    from bright_willow.core.execution.events import Event
    from bright_willow.services.bench_runs import planned_for

    now = TODAY.timestamp()
    began, went_in = now - 5_400, now - 1_140
    revision, brief = planned_for(store, 14, "run", began)
    run = store.runs.start(14, "run", revision, brief)
    once = [o.key for o in brief.operations if o.scope == "job"]
    told = [Event(began + 300 * n, "done", f"once-{n}", key, source="by the saw") for n, key in enumerate(once)]
    told += [
        Event(now - 2_400, "begin", "lit-fire", "warm_up", 0),
        Event(now - 1_200, "done", "hot-box", "warm_up", 0),
        Event(went_in, "done", "went-in", "load", 0, source="by the box"),
        Event(now - 600, "count", "topped-up", text="water", value=1.0),
    ]
    store.runs.add_events(run, told)
    probe, _ = store.probes.add("steam box, middle", "chamber")
    store.probes.add_readings((probe, now - 2_400 + t, min(97.5, 20 + t * 0.075)) for t in range(0, 2_400, 5))
    return f"/runs/{run}"


if __name__ == "__main__":
    main(OUT, sys.argv[1:])
