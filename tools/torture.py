"""What the program stands, measured: hostile requests, sudden death, bad disks.

`make torture` writes docs/reliability.md. Nothing outside folders of its own is touched.
"""

from __future__ import annotations

import argparse
import datetime as dt
import http.client
import os
import random
import shutil
import signal
import sqlite3
import subprocess
import sys
import tempfile
import threading
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager, suppress
from dataclasses import dataclass
from itertools import pairwise
from pathlib import Path
from urllib.parse import urlencode

from bright_willow.store.open_folder import FILE
from bright_willow.store.store import Store
from bright_willow.web.app import create_app
from tools import attacks
from tools.hostile import attack
from tools.running import Program

SAID_WITHIN_S = 120.0  # a busy machine starts a program in half a minute; one that opens never ends by itself
DOC = Path(__file__).parents[1] / "docs" / "reliability.md"


@dataclass(frozen=True)
class Row:
    """One line of the table."""

    what: str
    came: str
    asked: str
    good: bool


@contextmanager
def folder() -> Iterator[Path]:
    """A folder of its own, gone afterwards."""
    made = Path(tempfile.mkdtemp(prefix="willow-torture-"))
    try:
        yield made
    finally:
        shutil.rmtree(made, ignore_errors=True)


# -- hostile requests ---------------------------------------------------------------------------------------------
def hostile(requests: int, seed: int = 11, slow_s: float = 2.0) -> list[Row]:
    with folder() as here, folder() as other:
        app = create_app(Store(other))
        program = Program(here, "demo", often=True).start()
        try:
            came = attack(program, app, requests, seed, slow_s)
        finally:
            program.end()
    for told in (came.errors + came.slow)[:10]:
        print("  ", told)
    each = ", ".join(f"{n:,} of {k}xx" for k, n in sorted(came.by_class.items()))
    what = f"{came.asked:,} hostile requests over every route and upload ({each})"
    return [
        Row(f"{what}: of class 5xx", str(len(came.errors)), "0", not came.errors),
        Row("the slowest of them", f"{came.slowest_s:.2f} s", f"≤ {slow_s:g} s", not came.slow),
        Row("memory grown meanwhile", f"{came.grown_mb:.0f} MB", "≤ 100 MB", came.grown_mb <= 100),
    ]


# -- outline files that never end ---------------------------------------------------------------------------------
def _svg(inside: str) -> bytes:
    return f'<svg xmlns="http://www.w3.org/2000/svg">{inside}</svg>'.encode()


def _uses() -> bytes:
    layers = "".join(f'<g id="a{i}">' + f'<use href="#a{i - 1}"/>' * 8 + "</g>" for i in range(1, 14))
    return _svg(f'<defs><g id="a0"><path d="M0 0L1 1"/></g>{layers}</defs><use href="#a13"/>')


def _lines(count: int) -> bytes:
    ends = [(i * 0.2, (i % 97) * 0.001) for i in range(count + 1)]
    rows = "".join(f"0\nLINE\n8\n0\n10\n{a[0]}\n20\n{a[1]}\n11\n{b[0]}\n21\n{b[1]}\n" for a, b in pairwise(ends))
    return f"0\nSECTION\n2\nENTITIES\n{rows}0\nENDSEC\n0\nEOF\n".encode()


ENDLESS: dict[str, bytes] = {
    "nested.svg": _uses(),
    "cubics.svg": _svg('<path d="M0 0' + "C1 1 2 2 3 0" * 60_000 + '"/>'),
    "colour.svg": _svg('<path fill="rgb(' + "1" * 100_000 + '" d="M0 0L1 1"/>'),
    "circle.dxf": b"0\nSECTION\n2\nENTITIES\n0\nCIRCLE\n10\nnan\n20\n0\n40\n5\n0\nENDSEC\n0\nEOF\n",
}


def files(names: tuple[str, ...] = tuple(ENDLESS)) -> list[Row]:
    """Each file is given up in time, and others do not wait for it meanwhile."""
    worst, waits = 0.0, [0.0]
    with folder() as here:
        program = Program(here, "demo", often=True).start()
        try:
            _upload(program, "warm.dxf", _lines(10))
            for name in names:
                done = threading.Event()
                waiter = threading.Thread(target=_ask_until, args=(program, done, waits))
                waiter.start()
                took = _upload(program, name, ENDLESS[name])
                done.set()
                waiter.join()
                worst = max(worst, took)
            _upload(program, "warm.dxf", _lines(10))
            honest = _upload(program, "honest.dxf", _lines(5_000))
            program.ask("GET", "/")
        finally:
            ended = program.end()
    return [
        Row(
            f"{len(names)} endless outline files: the longest until it was said",
            f"{worst:.1f} s",
            "≤ 12 s",
            worst <= 12,
        ),
        Row("another page meanwhile, at worst", f"{max(waits) * 1000:.0f} ms", "≤ 1 s", max(waits) <= 1),
        Row("an honest drawing of 5,000 lines", f"{honest:.2f} s", "≤ 1 s", honest <= 1),
        Row("Ctrl+C to the end", f"{ended:.1f} s", "≤ 5 s", ended <= 5),
    ]


def _upload(program: Program, name: str, content: bytes) -> float:
    edge = "----willow"
    fields = "".join(
        f'--{edge}\r\nContent-Disposition: form-data; name="{k}"\r\n\r\n{v}\r\n'
        for k, v in {"unit": "mm", "scale": "1", "which": "1"}.items()
    )
    head = f'--{edge}\r\nContent-Disposition: form-data; name="file"; filename="{name}"\r\n\r\n'
    body = fields.encode() + head.encode() + content + f"\r\n--{edge}--\r\n".encode()
    start = time.perf_counter()
    kind = f"multipart/form-data; boundary={edge}"
    status, _ = program.ask("POST", "/jobs/3/outline", body, 60, content_type=kind, accept="text/html")
    assert status in (200, 303, 422), (name, status)
    return time.perf_counter() - start


def _ask_until(program: Program, done: threading.Event, waits: list[float]) -> None:
    while not done.wait(0.2):
        start = time.perf_counter()
        program.ask("GET", "/jobs/5/shape")
        waits.append(time.perf_counter() - start)


# -- sudden death -------------------------------------------------------------------------------------------------
def kills(times: int, seed: int = 5) -> list[Row]:
    """Killed while editing, while opening, while starting; everything acknowledged must be there."""
    rng, lost, broken, acknowledged, failed = random.Random(seed), 0, 0, 0, 0
    with folder() as here:
        program = Program(here, "demo", often=True).start()
        program.end()
        program = Program(here, "serve", often=True)
        last: tuple[str, ...] = ()
        for turn in range(times):
            if turn % 3 == 2:  # while it starts
                process = _starting(here)
                time.sleep(rng.uniform(0.05, 1.2))
                os.kill(process.pid, signal.SIGKILL)
                process.wait()
                continue
            try:
                program.start()
            except RuntimeError as error:
                failed += 1
                print("  ", error)
                continue
            if last:
                page = program.ask("GET", "/jobs/5/shape", accept="text/html")[1]
                lost += not any(f'value="{name}"'.encode() in page for name in last)
            told, last = _edits(program, rng, turn)
            acknowledged += told
            with closing_quietly(here) as db:
                broken += db.execute("pragma quick_check").fetchone()[0] != "ok"
    return [
        Row(f"{times} kills while editing, opening and starting: acknowledged changes lost", str(lost), "0", not lost),
        Row(f"changes acknowledged between them: {acknowledged:,}; databases not sound", str(broken), "0", not broken),
        Row("starts after a kill that failed", str(failed), "0", not failed),
    ]


@contextmanager
def closing_quietly(here: Path) -> Iterator[sqlite3.Connection]:
    db = sqlite3.connect(here / FILE)
    try:
        yield db
    finally:
        db.close()


def _starting(here: Path) -> subprocess.Popen[bytes]:
    code = "from bright_willow.cli import main; main()"
    command = [sys.executable, "-c", code, "serve", "--port", "0", "--data", str(here)]
    return subprocess.Popen(command, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL)


def _edits(program: Program, rng: random.Random, turn: int) -> tuple[int, tuple[str, ...]]:
    """Change a name over and over until killed; how many changes were acknowledged, and what may then stand: the last
    of them, or the one that was being answered."""
    told: list[str] = []
    killed = threading.Event()

    def kill() -> None:
        killed.set()
        os.kill(program.pid, signal.SIGKILL)

    timer = threading.Timer(rng.uniform(0.02, 1.2), kill)
    timer.start()
    n = 0
    while not killed.is_set():
        n += 1
        name = f"kept {turn} {n}"
        with suppress(OSError, http.client.HTTPException):
            status, _ = program.ask("POST", "/jobs/5/shape/keep", urlencode({"name": name}).encode(), x_parts="yes")
            if status == 200:
                told.append(name)
    timer.join()
    program.end(signal.SIGKILL)
    return len(told), (told[-1], name) if told else ()


# -- bad disks ----------------------------------------------------------------------------------------------------
def disks() -> list[Row]:
    """A full, a locked, a read-only, a damaged, a newer, an odd file: a sentence each, and no traceback."""
    cases: dict[str, Callable[[Path], None]] = {
        "not a database": lambda p: p.write_bytes(b"not a database at all, but a letter" * 20) and None,
        "cut short": _cut_short,
        "damaged in the middle": _damaged,
        "of a newer version": _newer,
        "another program's database": _foreign,
        "a folder in its place": _folder_instead,
        "held by another program": _held,
    }
    rows = []
    with folder() as made:
        Program(made, "demo", often=True).start().end()
        sound = _bytes(made / FILE)
    for name, spoil in cases.items():
        with folder() as here:
            (here / FILE).write_bytes(sound)
            spoil(here / FILE)
            spoiled = _bytes(here / FILE)
            message, took = _said(here)
            good = _is_sentence(message) and _bytes(here / FILE) == spoiled and took < SAID_WITHIN_S
            _unhold()
            rows.append(Row(f"a file {name}", message, "a sentence", good and bool(sound)))
    rows.append(_full_disk())
    rows.append(_read_only())
    rows += [full_in_each(), read_only_restored()]
    return rows


_HOLDERS: list[sqlite3.Connection] = []


def _bytes(path: Path) -> bytes:
    return path.read_bytes() if path.is_file() else b""


def _cut_short(path: Path) -> None:
    path.write_bytes(path.read_bytes()[: path.stat().st_size // 2])


def _damaged(path: Path) -> None:
    content = bytearray(path.read_bytes())
    rng = random.Random(3)
    for at in range(4096, len(content), 97):
        content[at] = rng.randrange(256)
    path.write_bytes(bytes(content))


def _newer(path: Path) -> None:
    db = sqlite3.connect(path)
    db.execute("insert into schema_migration (name, applied) values ('9999_later', '2030-01-01')")
    db.commit()
    db.close()


def _foreign(path: Path) -> None:
    path.unlink()
    db = sqlite3.connect(path)
    db.execute("create table recipes (id integer)")
    db.commit()
    db.close()


def _folder_instead(path: Path) -> None:
    path.unlink()
    path.mkdir()


def _held(path: Path) -> None:
    db = sqlite3.connect(path, isolation_level=None, check_same_thread=False)
    db.execute("begin exclusive")
    _HOLDERS.append(db)


def _unhold() -> None:
    while _HOLDERS:
        db = _HOLDERS.pop()
        db.execute("rollback")
        db.close()


def _said(here: Path) -> tuple[str, float]:
    """What starting the program on a folder says, and how long that takes."""
    start = time.perf_counter()
    try:
        done = subprocess.run(
            [
                sys.executable,
                "-c",
                "from bright_willow.cli import main; main()",
                "serve",
                "--port",
                "0",
                "--data",
                here,
            ],
            capture_output=True,
            text=True,
            timeout=SAID_WITHIN_S + 5,
            check=False,
        )
        message = done.stderr.strip() or done.stdout.strip()
    except subprocess.TimeoutExpired:
        message = "it opened as if nothing were wrong"
    return message.replace(str(here), "FOLDER"), time.perf_counter() - start


def _is_sentence(message: str) -> bool:
    return (
        "Traceback" not in message and message.endswith(".") and "\n" not in message and "as if nothing" not in message
    )


@contextmanager
def small_disk(size: str = "3m", read_only: bool = False) -> Iterator[Path | None]:
    """A small disk of its own; None where this user may not mount one."""
    with folder() as here:
        at = here / "disk"
        at.mkdir()
        mounted = subprocess.run(
            ["mount", "-t", "tmpfs", "-o", f"size={size}", "tmpfs", str(at)], capture_output=True, check=False
        )
        if mounted.returncode:
            yield None
            return
        try:
            yield at
        finally:
            subprocess.run(["umount", "-l", str(at)], capture_output=True, check=False)


def _full_disk() -> Row:
    what = "a full disk while it is used"
    with small_disk() as disk:
        if disk is None:
            return Row(what, "not tried: this user may not make a small disk", "a sentence", True)
        program = Program(disk, "demo", often=True).start()
        try:
            program.ask("GET", "/api/health")
            for name in ("filler", "more"):
                with suppress(OSError), (disk / name).open("wb") as filler:
                    while True:
                        filler.write(b"x" * 4096)
            status, text, n = 200, b"", 0
            while status == 200 and n < 400:
                n += 1
                body = urlencode({"notes": "n" * 900 + str(n)}).encode()
                status, text = program.ask("POST", "/jobs/5/shape/keep", body)
                status = 200 if status == 303 else status
            reads = program.ask("GET", "/jobs/5/shape", accept="text/html")[0]
            for name in ("filler", "more"):
                (disk / name).unlink(missing_ok=True)
            again, _ = program.ask("POST", "/jobs/5/shape/keep", body)
            message = text.decode().partition('"says":"')[2].partition('"')[0] or text.decode()[:120]
            good = (status, reads) == (503, 200) and "full" in message and again in (200, 303)
        finally:
            program.end()
        with closing_quietly(disk) as db:
            sound = db.execute("pragma quick_check").fetchone()[0] == "ok"
    return Row(what, f"{message} Reading goes on; with room again it is kept.", "a sentence", good and sound)


@contextmanager
def _temporary_on(disk: Path) -> Iterator[None]:
    """What is uploaded is written to this disk first."""
    before = os.environ.get("TMPDIR")
    os.environ["TMPDIR"] = str(disk)
    try:
        yield
    finally:
        os.environ.pop("TMPDIR")
        if before is not None:
            os.environ["TMPDIR"] = before


def full_in_each() -> Row:
    """A disk that is full in each thing that writes: a sentence each, nothing half done."""
    what = "a disk that is full in a photo, an import, a restore, a cut, a start at the bench"
    with small_disk("12m") as disk:
        if disk is None:
            return Row(what, "not tried: this user may not make a small disk", "a sentence", True)
        photo = attacks.jpeg(1_600, 1_200)
        with _temporary_on(disk):
            program = Program(disk, "demo").start(60)
        try:
            raw = program.ask("GET", f"/jobs/{attacks.JOB}/take/bundle")[1]
            copy = program.ask("GET", "/shop/backup")[1]
            attacks.send(program, "/jobs/5/photo", photo, "a.jpg", "photo")
            with suppress(OSError), (disk / "filler").open("wb") as filler:
                while True:
                    filler.write(b"x" * 4096)
            large = copy + b"\0" * 3_000_000
            codes = {
                "photo": attacks.send(program, "/jobs/5/photo", photo + b"\0" * 3_000_000, "a.jpg", "photo")[0],
                "import": attacks.send(program, "/jobs/bring", raw + b"\0" * 3_000_000, "a.zip")[0],
                "restore": attacks.send(program, "/shop/restore", large, "c.sqlite3")[0],
                "cut": program.ask("POST", "/jobs/5/cut")[0],
                "bench": program.ask("POST", f"/jobs/{attacks.JOB}/bench/start?kind=run")[0],
            }
            reads = program.ask("GET", "/jobs/5/shape", accept="text/html")[0]
            (disk / "filler").unlink(missing_ok=True)
            again = program.ask("POST", "/jobs/5/shape/keep", b"notes=again")[0]
        finally:
            program.end()
        with closing_quietly(disk) as db:
            sound = db.execute("pragma integrity_check").fetchone()[0] == "ok"
    good = set(codes.values()) == {503} and reads == 200 and again in (200, 303) and sound
    return Row(what, f"{codes}; reading {reads}; with room again {again}", "503 each", good)


def read_only_restored() -> Row:
    """Restored to, and a copy written to, a disk that may only be read."""
    what = "a restore to, and a copy on, a disk that may only be read"
    with small_disk("20m") as disk, folder() as beside:
        if disk is None:
            return Row(what, "not tried: this user may not make a small disk", "a sentence", True)
        Program(disk, "demo", often=True).start().end()
        shutil.copyfile(disk / FILE, beside / "copy.sqlite3")
        subprocess.run(["mount", "-o", "remount,ro", str(disk)], capture_output=True, check=False)
        code = "from bright_willow.cli import main; main()"
        said = []
        for args in (
            ["restore", str(beside / "copy.sqlite3"), "--data", str(disk)],
            ["backup", str(disk / "mine.sqlite3"), "--data", str(disk)],
        ):
            done = subprocess.run([sys.executable, "-c", code, *args], capture_output=True, text=True, check=False)
            said.append(done.stderr.strip().replace(str(disk), "FOLDER"))
    return Row(what, " / ".join(said), "a sentence", all(_is_sentence(s) for s in said))


def _read_only() -> Row:
    what = "a disk that may only be read"
    with small_disk("20m") as disk:
        if disk is None:
            return Row(what, "not tried: this user may not make a small disk", "a sentence", True)
        Program(disk, "demo", often=True).start().end()
        subprocess.run(["mount", "-o", "remount,ro", str(disk)], capture_output=True, check=False)
        message, _ = _said(disk)
        return Row(what, message, "a sentence", _is_sentence(message))


# -- the whole ----------------------------------------------------------------------------------------------------
def _table(rows: list[Row]) -> str:
    lines = [f"| {r.what} | {r.came} | {r.asked} | {'yes' if r.good else 'NO'} |" for r in rows]
    head = f"""# What the program stands

Written by `make torture` on {dt.date.today().isoformat()}; short forms of each run in `make check-slow`.
Two windows on one job are tried in every order by `tests/store/test_two_windows.py`, a closed window and a
stopped program in a real browser by `tests/browser/test_nothing_lost.py`, the built wheel by `tests/test_wheel.py`.

| tried | came of it | asked | held |
|---|---|---|---|
"""
    return head + "\n".join(lines) + "\n"


def _rows(held: list[attacks.Held]) -> list[Row]:
    return [Row(h.what, h.came, h.asked, h.good) for h in held]


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--requests", type=int, default=20_000)
    parser.add_argument("--kills", type=int, default=200)
    parser.add_argument("--more-kills", type=int, default=200)
    chosen = parser.parse_args()
    rows: list[Row] = []
    for part in (
        lambda: hostile(chosen.requests),
        files,
        lambda: kills(chosen.kills),
        lambda: _rows(attacks.kills(chosen.more_kills)),
        lambda: _rows(attacks.full()),
        disks,
    ):
        made = part()
        rows += made
        for row in made:
            print(f"{'ok ' if row.good else 'NO '} {row.what}: {row.came}")
    DOC.write_text(_table(rows), "utf-8")
    sys.exit(0 if all(row.good for row in rows) else 1)


if __name__ == "__main__":
    main()
