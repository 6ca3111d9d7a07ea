"""How the bench does: a run folded and laid out, ten thousand taps, an hour of eight probes, two hundred kills."""

from __future__ import annotations

import datetime as dt
import http.client
import json
import tempfile
import threading
import time
from collections.abc import Callable
from pathlib import Path

from bright_willow.core.execution.core_temperature import core_now
from bright_willow.core.execution.events import Event
from bright_willow.core.execution.live import live
from bright_willow.core.execution.run_plan import brief_of
from bright_willow.core.execution.run_state import state_of
from bright_willow.core.plan.plan import plan
from bright_willow.demo.marrow_lane import EXAMPLES, SHOP, fill
from bright_willow.store.store import Store
from tools.running import Program
from tools.tapping import tap_until_killed
from tools.timing import median_ms

T0 = 1_764_000_000.0
Line = Callable[[str, str, str, bool], None]
PROBES, A_SECOND, SECONDS = 8, 10, 20


def bench(line: Line, kills: int = 200) -> None:
    """Everything of the bench against its aims."""
    _core(line)
    _probes(line)
    with tempfile.TemporaryDirectory() as folder:
        told, lost, broken = tap_until_killed(Path(folder), kills, seed=8)
    line(f"{kills} kills at the bench: {told:,} taps acknowledged, lost", f"{lost + broken}", "0", not lost + broken)


def _core(line: Line) -> None:
    own = brief_of(plan(EXAMPLES[13].job, SHOP), places=2, people=2, started_s=T0)
    events = [Event(T0 + n, ("done", "not", "begin", "note")[n % 4], f"c{n}", "dimension") for n in range(10_000)]
    taken = median_ms(lambda: state_of(own, events, T0 + 20_000), 7)
    line("10,000 taps folded", f"{taken:.0f} ms", "≤ 200 ms", taken <= 200)
    few = [Event(T0, "done", "a", "dry_run"), Event(T0 + 900, "done", "b", "load", 0)]
    shown = [(T0 + t, 97.0) for t in range(600, 4_000, 5)]
    taken = median_ms(lambda: live(own, state_of(own, few, T0 + 2_000), shown, probe=True), 31)
    line("what to do now, with the core live", f"{taken:.1f} ms", "≤ 20 ms", taken <= 20)
    warms = next(o.warms for o in own.operations if o.warms)
    long = [(T0 + t, 96.0) for t in range(0, 10_800)]
    taken = median_ms(lambda: core_now(warms, in_s=T0, now_s=T0 + 10_800, readings=long), 31)
    line("core temperature from three hours of seconds", f"{taken:.1f} ms", "≤ 20 ms", taken <= 20)


def _probes(line: Line) -> None:
    """Eight probes at ten readings a second over HTTP, while pages are asked for; then the room an hour of it takes."""
    with tempfile.TemporaryDirectory() as folder:
        store = Store(Path(folder))
        with store.connected():
            fill(store, dt.date.today())
            keys = [store.probes.add(f"probe {n}", "chamber")[1] for n in range(PROBES)]
            state = store.jobs.get(14)
            made = plan(state.job, store.shop_settings.get(), store.training.learned())
            brief = brief_of(made, places=2, people=2, started_s=time.time())
            run = store.runs.start(14, "run", state.revision, brief)
            store.runs.add_events(run, [Event(time.time(), "done", "load", "load", 0)])
        with Program(Path(folder)) as program:
            program.start()
            pages = ("/jobs/5/shape", f"/runs/{run}", "/bench", "/")
            quiet = {p: _page(program, p) for p in pages}
            stop, sent, refused = threading.Event(), [0], [0]
            senders = [threading.Thread(target=_sends, args=(program, k, stop, sent, refused)) for k in keys]
            for one in senders:
                one.start()
            began = time.perf_counter()
            busy: dict[str, list[float]] = {p: [] for p in pages}
            while time.perf_counter() - began < SECONDS:
                for page in pages:
                    busy[page].append(_page(program, page, 1))
            took = time.perf_counter() - began
            stop.set()
            for one in senders:
                one.join()
        rate = sent[0] / took
        aim = PROBES * A_SECOND
        line(
            f"readings a second from {PROBES} probes, {refused[0]} refused",
            f"{rate:.0f}",
            f"≥ {aim * 0.9:.0f}",
            rate >= aim * 0.9,
        )
        worst = max(pages, key=lambda p: sorted(busy[p])[len(busy[p]) // 2] / quiet[p])
        now = sorted(busy[worst])[len(busy[worst]) // 2]
        line(f"a page meanwhile ({worst}), {quiet[worst]:.0f} ms when quiet", f"{now:.0f} ms", "≤ 300 ms", now <= 300)
    with tempfile.TemporaryDirectory() as folder:
        store = Store(Path(folder))
        with store.connected():
            before = store.path.stat().st_size
            for start in range(0, 3600, 60):
                store.probes.add_readings(
                    (p, T0 + start + n / A_SECOND, 90 + n % 97 / 10)
                    for p in range(PROBES)
                    for n in range(60 * A_SECOND)
                )
            store.db.execute_sql("pragma wal_checkpoint(truncate)")
            room = (store.path.stat().st_size - before) / 1e6
            line("an hour of them takes", f"{room:.1f} MB", "≤ 50 MB", room <= 50)
            began = time.perf_counter()
            gone = store.probes.thin_readings(T0 + 3 * 86_400)
            took = time.perf_counter() - began
            line(f"thinned when old, {gone:,} gone", f"{took:.1f} s", "≤ 5 s", took <= 5)


def _page(program: Program, path: str, times: int = 5) -> float:
    """Median time of a page, ms."""

    def ask() -> None:
        status, _ = program.ask("GET", path, accept="text/html")
        assert status == 200, (path, status)

    return median_ms(ask, times)


def _sends(program: Program, key: str, stop: threading.Event, sent: list[int], refused: list[int]) -> None:
    connection = http.client.HTTPConnection("127.0.0.1", program.port, timeout=10)
    headers = {"authorization": f"Bearer {key}", "content-type": "application/json"}
    due = time.perf_counter()
    while not stop.is_set():
        connection.request("POST", "/api/readings", json.dumps({"value": 97.3}), headers)
        answer = connection.getresponse()
        answer.read()
        sent[0] += answer.status == 202
        refused[0] += answer.status != 202
        due += 1 / A_SECOND
        time.sleep(max(0.0, due - time.perf_counter()))
    connection.close()
