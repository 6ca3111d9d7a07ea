"""Somebody taps at the bench while the program is killed, again and again: nothing acknowledged may be lost."""

from __future__ import annotations

import json
import os
import random
import signal
import sqlite3
import threading
import time
from collections.abc import Callable
from contextlib import closing, suppress
from http.client import HTTPException
from pathlib import Path

from bright_willow.store.open_folder import FILE
from tools.running import Program

JOB = 5


def tap_until_killed(folder: Path, times: int, seed: int) -> tuple[int, int, int]:
    """Taps acknowledged, those of them lost, databases not sound. Two tablets tap, one of them sends each tap twice."""
    dice, told, lost, broken = random.Random(seed), set[str](), 0, 0
    program = Program(folder, "demo", often=True)
    run = 0
    for turn in range(times):
        program.start()
        if not run:
            program.ask("POST", f"/jobs/{JOB}/bench/start?kind=run")
            run = 1
        killed = threading.Event()
        tablets = [
            threading.Thread(target=_taps, args=(program, run, f"{turn}-{n}", told, killed, n)) for n in range(2)
        ]
        for one in tablets:
            one.start()
        if turn % 2:  # half the kills fall among acknowledged taps however slow the machine, half wherever they fall
            _until(lambda turn=turn: any(one.startswith(f"kill-{turn}-") for one in tuple(told)), within_s=10.0)
        killed.wait(dice.uniform(0.0, 0.5))
        os.kill(program.pid, signal.SIGKILL)
        killed.set()
        for one in tablets:
            one.join()
        program.end(signal.SIGKILL)
        with closing(sqlite3.connect(folder / FILE)) as db:
            broken += db.execute("pragma quick_check").fetchone()[0] != "ok"
            rows = [r[0] for r in db.execute("select client from event where run_id = ?", (run,))]
            lost += len(told - set(rows)) + (len(rows) - len(set(rows)))
    return len(told), lost, broken


def _until(so: Callable[[], bool], within_s: float) -> None:
    end = time.monotonic() + within_s
    while not so() and time.monotonic() < end:
        time.sleep(0.01)


def _taps(program: Program, run: int, name: str, told: set[str], killed: threading.Event, twice: int) -> None:
    n = 0
    while not killed.is_set():
        n += 1
        client = f"kill-{name}-{n}"
        body = json.dumps({"events": [{"client": client, "kind": "count", "text": "water", "value": 1}]}).encode()
        for _ in range(1 + twice):
            with suppress(OSError, HTTPException):
                status, _ = program.ask("POST", f"/runs/{run}/events", body, content_type="application/json")
                if status == 200:
                    told.add(client)
