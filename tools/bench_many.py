"""How the program does with a large shop, and with many people at once."""

from __future__ import annotations

import asyncio
import http.client
import statistics
import tempfile
import time
from pathlib import Path
from urllib.parse import urlencode

from bright_willow.store.store import Store
from tools.large_shop import fill_large
from tools.running import Program
from tools.timing import timed

PAGES = (
    "/",
    "/?at=100",
    "/rack",
    "/book",
    "/book?at=20",
    "/book?q=ash+frame&outcome=teaches",
    "/book?since=2020-01-01",
    "/book/learnt",
    "/jobs/9000/shape",
    "/jobs/9000/stock",
    "/jobs/9000/form/mine",
)
PEOPLE, RATE, SECONDS, SETTLED_S = 30, 2.0, 8.0, 4.0


def large_shop(line) -> None:  # type: ignore[no-untyped-def]
    """Pages of a shop of 10,000 jobs and 10,000 bends."""
    with tempfile.TemporaryDirectory() as folder:
        fill_large(Path(folder), 10_000, 10_000)
        with timed() as took:
            program = Program(Path(folder)).start()
            program.ask("GET", "/", accept="text/html")
        try:
            taken = took.seconds
            line("10,000 jobs: start to first page", f"{taken:.2f} s", "≤ 2 s", taken <= 2)
            pages = {path: _page(program, path) for path in PAGES}
            slowest, largest = max(pages, key=lambda p: pages[p][0]), max(pages, key=lambda p: pages[p][1])
            ms, size = pages[slowest][0], pages[largest][1]
            line(f"10,000 jobs: slowest page ({slowest})", f"{ms:.0f} ms", "≤ 300 ms", ms <= 300)
            line(f"10,000 jobs: largest page ({largest})", f"{size:.0f} KB", "≤ 300 KB", size <= 300)
            store = Store(Path(folder))
            with store.connected():
                store.shop_settings.save(store.shop_settings.get().model_copy(update={"kerf_mm": 2.9}))
                assert store.summaries.outdated_count() > 9_000
            ms = max(_page(program, "/")[0] for _ in range(3))
            line("10,000 jobs: the list while all is worked out anew", f"{ms:.0f} ms", "≤ 300 ms", ms <= 300)
        finally:
            program.end()


def _page(program: Program, path: str) -> tuple[float, float]:
    with timed() as took:
        status, body = program.ask("GET", path, accept="text/html")
    assert status == 200, (path, status)
    return took.ms, len(body) / 1000


def many_people(line) -> None:  # type: ignore[no-untyped-def]
    """Thirty people dragging at once, at two steps a second and at ten."""
    with tempfile.TemporaryDirectory() as folder:
        program = Program(Path(folder), "demo").start()
        try:
            time.sleep(SETTLED_S)  # libraries are read in beside the first answers
            for rate, aim in ((RATE, 100.0), (5 * RATE, 0.0)):
                taken, errors, shares = asyncio.run(_drags(program.port, rate))
                p95 = statistics.quantiles(taken, n=20)[-1]
                name = f"{PEOPLE} people at {rate:g} drags a second"
                if aim:
                    line(f"{name}: 95 of 100 within", f"{p95:.0f} ms", f"≤ {aim:.0f} ms", p95 <= aim)
                line(f"{name}: errors", f"{errors}", "0", errors == 0)
                fair = min(shares) / max(shares)
                got = f"{min(shares)} to {max(shares)}"
                line(f"{name}: answers each got", got, "even", fair >= 0.7)
        finally:
            program.end()


async def _drags(port: int, rate: float) -> tuple[list[float], int, list[int]]:
    """Times in ms, how many went wrong, and how many answers each person had. A drag waits for its last answer."""
    taken: list[float] = []
    errors = 0

    def one(connection: http.client.HTTPConnection, job: int, n: int) -> float:
        start = time.perf_counter()
        query = urlencode({"handle": "rise_mm-0", "x": 0, "y": -400 - n % 90})
        connection.request("POST", f"/jobs/{job}/pull?{query}", headers={"x-parts": "yes"})
        answer = connection.getresponse()
        answer.read()
        if answer.status not in (200, 204):
            raise OSError(answer.status)
        return (time.perf_counter() - start) * 1000

    async def person(number: int) -> int:
        nonlocal errors
        connection = http.client.HTTPConnection("127.0.0.1", port, timeout=30)
        await asyncio.sleep(number / PEOPLE / rate)
        begin, n = time.perf_counter(), 0
        while time.perf_counter() - begin < SECONDS:
            due = begin + n / rate
            await asyncio.sleep(max(0.0, due - time.perf_counter()))
            try:
                taken.append(await asyncio.to_thread(one, connection, 5, n))
            except OSError:
                errors += 1
            n += 1
        connection.close()
        return n

    from concurrent.futures import ThreadPoolExecutor

    asyncio.get_running_loop().set_default_executor(ThreadPoolExecutor(PEOPLE))
    shares = await asyncio.gather(*(person(i) for i in range(PEOPLE)))
    return taken, errors, list(shares)
