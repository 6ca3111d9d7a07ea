"""Attacks on a running program, one for each kind of harm that was once found: what they are, and what must hold."""

from __future__ import annotations

import contextlib
import datetime as dt
import io
import json
import random
import resource
import shutil
import signal
import socket
import sqlite3
import subprocess
import sys
import tempfile
import threading
import time
import uuid
import zipfile
from collections.abc import Callable, Iterator
from concurrent.futures import ThreadPoolExecutor
from contextlib import closing, contextmanager, suppress
from dataclasses import dataclass
from http.client import HTTPException
from pathlib import Path
from typing import Any
from urllib.parse import urlencode

from PIL import Image
from starlette.testclient import TestClient

from bright_willow.demo.marrow_lane import fill
from bright_willow.store.backup import copied
from bright_willow.store.open_folder import FILE
from bright_willow.store.store import Store
from bright_willow.web.app import create_app
from tools.hostile import memory_mb
from tools.running import Program

JOB = 14
PAGES = ("/", "/bench", "/days", "/book", f"/jobs/{JOB}/shape")
OLD = Path(__file__).parents[1] / "tests" / "files" / "marrow-lane-0.1.0.sqlite3.gz"


@dataclass(frozen=True)
class Held:
    """What was tried, what came of it, what was asked, and whether it held."""

    what: str
    came: str
    asked: str
    good: bool


@contextmanager
def _shop() -> Iterator[tuple[Program, Path]]:
    """The demo shop, running."""
    here = Path(tempfile.mkdtemp(prefix="willow-attack-"))
    program = Program(here, "demo", often=True).start()
    try:
        yield program, here
    finally:
        program.end()
        shutil.rmtree(here, ignore_errors=True)


def _multipart(body: bytes, name: str, field: str = "file") -> tuple[bytes, str]:
    edge = uuid.uuid4().hex
    head = f'--{edge}\r\ncontent-disposition: form-data; name="{field}"; filename="{name}"\r\n\r\n'.encode()
    return head + body + f"\r\n--{edge}--\r\n".encode(), f"multipart/form-data; boundary={edge}"


def send(program: Program, path: str, body: bytes, name: str, field: str = "file") -> tuple[int, float]:
    """Status and seconds of something that is uploaded; 0 where the program is gone."""
    content, kind = _multipart(body, name, field)
    start = time.perf_counter()
    try:
        status, _ = program.ask("POST", path, content, 120, content_type=kind)
    except (OSError, HTTPException):
        status = 0
    return status, time.perf_counter() - start


def _pages(program: Program) -> list[int]:
    return [program.ask("GET", path, accept="text/html")[0] for path in PAGES]


def _tap(program: Program, run: str, **event: Any) -> int:
    told = {"client": uuid.uuid4().hex[:16], "key": "", "number": -1, **event}
    body = json.dumps({"events": [told]}).encode()
    return program.ask("POST", f"{run}/events", body, content_type="application/json")[0]


def _changed_bundle(raw: bytes, name: str, change: Callable[[Any], None]) -> bytes:
    out = io.BytesIO()
    with zipfile.ZipFile(io.BytesIO(raw)) as old, zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as new:
        for info in old.infolist():
            body = old.read(info)
            if info.filename == name:
                data = json.loads(body)
                change(data)
                body = json.dumps(data).encode()
            new.writestr(info.filename, body)
    return out.getvalue()


# -- at the bench ------------------------------------------------------------------------------------------------------
def bench() -> list[Held]:
    """Fewer pieces than a run has, Start pressed by many at once, a tap of many pieces."""
    with _shop() as (program, here):
        with ThreadPoolExecutor(8) as many:
            list(many.map(lambda _: program.ask("POST", f"/jobs/{JOB}/bench/start?kind=run"), range(16)))
        with closing(sqlite3.connect(here / FILE)) as db:
            runs = [f"/runs/{r}" for (r,) in db.execute("select id from run where job_id = ? and kind = 'run'", (JOB,))]
        run = runs[0]
        taps = [_tap(program, run, kind="begin", key="load", number=n) for n in (3, 99_999)]
        program.ask("POST", f"/jobs/{JOB}/shape/keep", urlencode({"part.count": "2", "part.spares": "0"}).encode())
        over = program.ask("POST", f"{run}/go-over")[0]
        after = [program.ask("GET", run + end, accept="text/html")[0] for end in ("", "/now")]
        after.append(_tap(program, run, kind="note", text="still here"))
    good = len(runs) == 1 and max(*taps, over, *after) < 500 and after == [200, 200, 200]
    return [
        Held("16 presses of Start by 8 tablets at once: runs", str(len(runs)), "1", len(runs) == 1),
        Held("going over to fewer pieces than were begun, load 99999: answers", f"{taps} {after}", "no 5xx", good),
    ]


def taps(pieces: int, most_s: float) -> Held:
    """What a tap costs where a job has many pieces, at the median of twelve."""
    with _shop() as (program, _):
        program.ask("POST", "/jobs/5/shape/keep", urlencode({"part.count": str(pieces), "part.spares": "0"}).encode())
        program.ask("POST", "/jobs/5/bench/start?kind=run")
        took = []
        for n in range(13):
            start = time.perf_counter()
            _tap(program, "/runs/1", kind="count", text="water", value=float(n))
            took.append(time.perf_counter() - start)
    middle = sorted(took[1:])[6]
    return Held(f"a tap at {pieces} pieces", f"{middle * 1000:.0f} ms", f"≤ {most_s * 1000:g} ms", middle <= most_s)


# -- files of others ---------------------------------------------------------------------------------------------------
def bundles() -> list[Held]:
    """Bundles with numbers no plan has, and a shop's book with pictures in it."""
    with _shop() as (program, _):
        program.ask("POST", f"/jobs/{JOB}/bench/start?kind=run")
        _tap(program, "/runs/1", kind="note", text="x")
        raw = program.ask("GET", f"/jobs/{JOB}/take/bundle")[1]

        def brief(name: str, value: Any) -> Callable[[Any], None]:
            return lambda run: run["brief"].update({name: value})

        cases = [brief("pieces", v) for v in (10**9, 30_000, -5)] + [
            brief("started_s", v) for v in (1e12, 1e300, -1e18)
        ]
        cases += [
            lambda run: run["events"][0].update(at_s=10**400),
            lambda run: run["brief"].update(pieces=int("9" * 4000)),
        ]
        answers = [send(program, "/jobs/bring", _changed_bundle(raw, "runs/0.json", c), "a.zip") for c in cases]
        honest = send(program, "/jobs/bring", raw, "a.zip")
        held = memory_mb(program.pid)
        out = io.BytesIO()
        with zipfile.ZipFile(out, "w") as book:
            head = {"format": "bright-willow-shop-book", "version": 1, "shop": "Another", "jobs": 40}
            book.writestr("manifest.json", json.dumps(head))
            large = jpeg(9_000, 6_600)
            inner = _changed_bundle(raw, "manifest.json", lambda m: m.update(pictures=1))
            with zipfile.ZipFile(io.BytesIO(inner)) as one:
                parts = {i: one.read(i) for i in one.namelist()}
            for n in range(40):
                made = io.BytesIO()
                with zipfile.ZipFile(made, "w") as job:
                    for name, body in {**parts, "pictures.json": b'{"pictures":[{}]}', "pictures/0.jpg": large}.items():
                        job.writestr(name, body)
                book.writestr(f"jobs/{n}.zip", made.getvalue())
        thread = threading.Thread(target=send, args=(program, "/book/bring", out.getvalue(), "b.zip"))
        thread.start()
        save = _slowest(lambda: program.ask("POST", "/jobs/5/shape/keep", b"notes=x")[0] < 400, thread)
        codes = sorted({s for s, _ in answers})
    worst = max(t for _, t in answers)
    return [
        Held(
            f"{len(cases)} bundles with numbers no plan has: answers",
            f"{codes}, {worst:.1f} s",
            "422, ≤ 10 s",
            codes == [422] and worst <= 10,
        ),
        Held("an honest bundle after them", f"{honest[0]}, {honest[1]:.1f} s", "taken in", honest[0] == 303),
        Held("memory of the program after them", f"{held:.0f} MB", "≤ 400 MB", held <= 400),
        Held("a book with pictures: the slowest save meanwhile", f"{save:.2f} s", "≤ 2 s", save <= 2),
    ]


def jpeg(wide: int, high: int) -> bytes:
    out = io.BytesIO()
    Image.new("RGB", (wide, high), (200, 170, 90)).save(out, "JPEG", quality=60)
    return out.getvalue()


def _slowest(ask: Callable[[], bool], until: threading.Thread) -> float:
    """The longest a question took while something else went on; very long where it failed."""
    worst = 0.0
    while True:
        start = time.perf_counter()
        well = ask()
        worst = max(worst, time.perf_counter() - start if well else 99.0)
        if not until.is_alive():
            return worst
        time.sleep(0.05)


def pictures() -> list[Held]:
    """Six pictures of 60 million dots at once."""
    with _shop() as (program, _):
        large = jpeg(9_000, 6_600)
        send(program, "/jobs/5/photo", jpeg(100, 100), "a.jpg", "photo")
        before, peak = memory_mb(program.pid), [0.0]
        with ThreadPoolExecutor(6) as many:
            sent = [many.submit(send, program, "/jobs/5/photo", large, "a.jpg", "photo") for _ in range(6)]
            watch = threading.Thread(target=lambda: [s.result() for s in sent])
            watch.start()

            def page() -> bool:
                peak[0] = max(peak[0], memory_mb(program.pid))
                return program.ask("GET", "/jobs/14/shape", accept="text/html")[0] == 200

            worst = _slowest(page, watch)
        codes = sorted({s.result()[0] for s in sent})
    grown = peak[0] - before
    return [
        Held("six pictures of 60 megapixels at once: answers", str(codes), "kept", codes == [303]),
        Held("a page meanwhile, at worst", f"{worst:.2f} s", "≤ 2 s", worst <= 2),
        Held("memory of the program meanwhile, grown by", f"{grown:.0f} MB", "≤ 150 MB", grown <= 150),
    ]


def readings() -> list[Held]:
    """A probe that sends two days from its memory; one that sends far too much at once."""
    with _shop() as (program, here):
        store = Store(here)
        with store.connected():
            probe, key = store.probes.add("box", "chamber")
        store.close()
        told = {"authorization": f"Bearer {key}", "content_type": "application/json"}
        taken, now = 0, time.time() - 170_000
        for n in range(250):
            rows = [{"value": 90.0, "unit": "C", "at": now + (600 * n + m) * 1.0} for m in range(600)]
            while True:
                status, _ = program.ask("POST", "/api/readings", json.dumps(rows).encode(), **told)
                if status != 503:
                    break
                time.sleep(0.3)
            taken += 600 * (status == 202)
        end = time.monotonic() + 30
        while time.monotonic() < end:
            with closing(sqlite3.connect(here / FILE)) as db:
                kept = db.execute("select count(*) from reading where probe = ?", (probe,)).fetchone()[0]
            if kept >= taken:
                break
            time.sleep(0.3)
        huge = json.dumps([{"value": 1.0, "unit": "C"}] * 130_000).encode()
        codes: list[int] = []

        def flood() -> None:
            for _ in range(6):
                with suppress(OSError, HTTPException):
                    codes.append(program.ask("POST", "/api/readings", huge, **told)[0])

        thread = threading.Thread(target=flood)
        thread.start()
        worst = _slowest(lambda: program.ask("GET", "/api/health")[0] == 200, thread)
    return [
        Held(f"{taken:,} readings acknowledged one after another: lost", f"{taken - kept:,}", "0", kept >= taken),
        Held("six messages of 3.9 MB: the slowest answer of another page", f"{worst:.2f} s", "≤ 0.5 s", worst <= 0.5),
    ]


# -- the network -------------------------------------------------------------------------------------------------------
def silence(connections: int = 1_050) -> list[Held]:
    """Silent connections to both ports, with few files to open."""
    here = Path(tempfile.mkdtemp(prefix="willow-attack-"))
    phrase = here / "phrase"
    phrase.write_text("four plain apple words")
    more = ("--lan", "--address", "127.0.0.1", "--lan-port", "0", "--passphrase-file", str(phrase))
    before = resource.getrlimit(resource.RLIMIT_NOFILE)
    resource.setrlimit(resource.RLIMIT_NOFILE, (min(before[1], 4096), before[1]))
    program = Program(here / "shop", "demo", more=more, often=True).start()
    rows = []
    try:
        lan = int(program.said_until("Tablets join at").split()[3].rstrip("/").rpartition(":")[2])
        resource.prlimit(program.pid, resource.RLIMIT_NOFILE, (1024, 1024))
        for what, port in (("the network's port", lan), ("the shop's own port", program.port)):
            with contextlib.ExitStack() as stack:
                for _ in range(connections):
                    with suppress(OSError):
                        stack.enter_context(socket.create_connection(("127.0.0.1", port), 5))
                start = time.perf_counter()
                status = program.ask("GET", "/", accept="text/html")[0]
                took = time.perf_counter() - start
            good = status == 200 and took <= 5
            tried = f"{connections:,} silent connections to {what}: the owner's page"
            rows.append(Held(tried, f"{status} in {took:.2f} s", "≤ 5 s", good))
        log = here / "shop" / "bright-willow.log"
        size = log.stat().st_size if log.exists() else 0
        rows.append(Held("what the log grew by", f"{size} bytes", "≤ 2,000", size <= 2_000))
    finally:
        program.end()
        shutil.rmtree(here, ignore_errors=True)
    return rows


# -- sudden death ------------------------------------------------------------------------------------------------------
def kills(times: int, seed: int = 21) -> list[Held]:
    """Killed in imports, restores, backups, migrations, photos, cuts and starts: what was acknowledged is there."""
    dice, lost, broken, failed, told = random.Random(seed), 0, 0, 0, 0
    here, beside = (Path(tempfile.mkdtemp(prefix="willow-attack-")) for _ in range(2))
    program = Program(here, "demo", often=True).start()
    program.ask("POST", f"/jobs/{JOB}/bench/start?kind=run")
    raw = program.ask("GET", f"/jobs/{JOB}/take/bundle")[1]
    photo = jpeg(1_200, 900)
    program.end()
    copied(here / FILE, beside / "copy.sqlite3")
    operations: dict[str, Callable[[], Any]] = {
        "import": lambda: send(program, "/jobs/bring", raw, "a.zip"),
        "restore": lambda: send(program, "/shop/restore", (beside / "copy.sqlite3").read_bytes(), "c.sqlite3"),
        "backup": lambda: program.ask("GET", "/shop/backup"),
        "photo": lambda: send(program, "/jobs/5/photo", photo, "a.jpg", "photo"),
        "cut": lambda: program.ask("POST", "/jobs/5/cut") and program.ask("POST", "/jobs/5/cut/back"),
        "start": lambda: None,
    }
    try:
        for turn in range(times):
            what = list(operations)[turn % len(operations)]
            if what == "start" and turn % 4 == 3:
                broken, failed = _killed_in_migration(dice, broken, failed)
                continue
            try:
                program.start()
            except RuntimeError:
                failed += 1
                continue
            name = f"kept {turn}"
            status, _ = program.ask("POST", "/jobs/5/shape/keep", urlencode({"name": name}).encode())
            told += status < 400
            working = threading.Thread(target=lambda what=what: _quietly(operations[what]))
            working.start()
            time.sleep(dice.uniform(0.0, 0.5))
            program.end(signal.SIGKILL)
            working.join()
            with closing(sqlite3.connect(here / FILE)) as db:
                broken += db.execute("pragma integrity_check").fetchone()[0] != "ok"
                stands = db.execute("select name from job where id = 5").fetchone()[0]
            lost += stands != name and what != "restore"
    finally:
        program.end(signal.SIGKILL)
        for folder in (here, beside):
            shutil.rmtree(folder, ignore_errors=True)
    what = f"{times} kills in imports, restores, backups, photos, cuts, migrations and starts"
    return [
        Held(f"{what}: of {told} changes acknowledged, lost", str(lost), "0", not lost),
        Held("databases not sound, starts that failed", f"{broken}, {failed}", "0, 0", not broken and not failed),
    ]


def _quietly(work: Callable[[], Any]) -> None:
    with suppress(OSError, HTTPException, ValueError):
        work()


def _killed_in_migration(dice: random.Random, broken: int, failed: int) -> tuple[int, int]:
    """The oldest shop there is, killed while it is brought up to date, then opened."""
    import gzip

    here = Path(tempfile.mkdtemp(prefix="willow-attack-"))
    try:
        (here / FILE).write_bytes(gzip.decompress(OLD.read_bytes()))
        command = [sys.executable, "-c", "from bright_willow.cli import main; main()", "serve", "--port", "0"]
        process = subprocess.Popen(
            [*command, "--data", str(here)], stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL
        )
        time.sleep(dice.uniform(0.3, 2.5))  # the program is read in first
        process.kill()
        process.wait()
        try:
            Program(here, "serve", often=True).start().end()
        except RuntimeError:
            failed += 1
        with closing(sqlite3.connect(here / FILE)) as db:
            broken += db.execute("pragma integrity_check").fetchone()[0] != "ok"
    finally:
        shutil.rmtree(here, ignore_errors=True)
    return broken, failed


# -- copies ------------------------------------------------------------------------------------------------------------
def restores() -> list[Held]:
    """Copies that are none: a hull, wrong rows, triggers, an endless view; each by the web, then every shared page."""
    with _shop() as (program, here):
        copied(here / FILE, here / "good.sqlite3")
        endless = "with recursive n(i) as (select 1 union all select i + 1 from n)"
        views = f"{endless} select i as id, 'x' as name, 'x' as applied from n"
        cases = {
            "a hull": [*(f"drop table {t}" for t in ("measurement", "piece", "built_form", "revision", "job"))],
            "wrong rows": ["update done set from_at = 'x'", "update job set name = x'00' where id = 3"],
            "triggers": ["create trigger t after insert on revision begin delete from job; end"],
            "an endless view": ["drop table schema_migration", f"create view schema_migration as {views}"],
        }
        came, worst, pages = {}, 0.0, list[int]()
        for name, statements in cases.items():
            spoiled = Path(shutil.copyfile(here / "good.sqlite3", here / "spoiled.sqlite3"))
            with closing(sqlite3.connect(spoiled, isolation_level=None)) as db:
                db.execute("pragma foreign_keys = off")
                for statement in statements:
                    db.execute(statement)
            came[name], took = send(program, "/shop/restore", spoiled.read_bytes(), "c.sqlite3")
            worst = max(worst, took)
            pages += _pages(program)
        jobs = program.ask("GET", "/jobs/5/shape")[0]
    good = came == {"a hull": 422, "wrong rows": 200, "triggers": 303, "an endless view": 422} and set(pages) <= {
        200,
        308,
    }
    answers = ", ".join(f"{k} {v}" for k, v in came.items())
    came_of = f"{sorted(set(pages))}, {worst:.1f} s"
    return [Held(f"restored: {answers}; every page after each", came_of, "no 5xx", good and jobs == 200)]


def clocks() -> list[Held]:
    """The clock jumps back and forth by a year between any two requests."""
    here = Path(tempfile.mkdtemp(prefix="willow-attack-"))
    at = [dt.datetime(2026, 11, 30, 9, 0, tzinfo=dt.UTC)]
    try:
        store = Store(here)
        with store.connected():
            fill(store)
        app = create_app(store, lambda: at[0])
        client = TestClient(app, base_url="http://127.0.0.1", raise_server_exceptions=False, follow_redirects=False)
        codes, told = list[int](), list[str]()
        run = client.post(f"/jobs/{JOB}/bench/start?kind=run").headers["location"]
        for n in range(60):
            at[0] += dt.timedelta(days=(365, -365, -365, 365)[n % 4], minutes=3)
            told.append(f"clock-{n:03}")
            event = {"client": told[-1], "kind": ("begin", "done", "count")[n % 3], "key": "load", "number": n % 3}
            codes.append(client.post(f"{run}/events", json={"events": [event]}).status_code)
            paths = (*PAGES, run, f"{run}/now", f"/jobs/{JOB}/days", "/days/week.pdf")
            codes += [client.get(path, headers={"accept": "text/html"}).status_code for path in paths]
        with store.connected():
            kept = {e.client for _, e in store.runs.events(int(run.rpartition("/")[2]))}
        app.state.reader.stop()
        store.close()
    finally:
        shutil.rmtree(here, ignore_errors=True)
    lost, errors = len(set(told) - kept), sum(c >= 500 for c in codes)
    what = f"a clock that jumps by a year 60 times, {len(codes)} requests: of class 5xx, taps lost"
    return [Held(what, f"{errors}, {lost}", "0, 0", not lost and not errors)]


def full(pieces: int = 500) -> list[Held]:
    """What `make torture` tries beyond hostile requests."""
    return [
        *bench(),
        taps(100, 0.1),
        taps(pieces, 0.3),
        *bundles(),
        *pictures(),
        *readings(),
        *silence(),
        *restores(),
        *clocks(),
    ]
