"""Which tests call which function: a plugin of pytest that writes it down for `make mutate`, one file a worker."""

from __future__ import annotations

import json
import os
import sys
import threading
from collections.abc import Iterator
from pathlib import Path
from types import CodeType, FrameType

import pytest

PROGRAM = str(Path(__file__).parents[1] / "bright_willow") + os.sep
FOLDER = Path(__file__).parents[1] / "build/mutation"
_called: set[CodeType] = set()
_by_test: dict[str, tuple[float, list[str]]] = {}


def _on_call(frame: FrameType, event: str, arg: object) -> None:
    _called.add(frame.f_code)


@pytest.hookimpl(wrapper=True)
def pytest_runtest_protocol(item: pytest.Item) -> Iterator[None]:
    """Note every function of the program that is called while a test is prepared and run."""
    _called.clear()
    threading.settrace(_on_call)
    sys.settrace(_on_call)
    try:
        return (yield)
    finally:
        sys.settrace(None)
        threading.settrace(None)  # type: ignore[arg-type]
        own = [c for c in _called if c.co_filename.startswith(PROGRAM)]
        names = sorted({f"{c.co_filename.removeprefix(PROGRAM)}::{c.co_qualname.split('.<locals>')[0]}" for c in own})
        seconds = _by_test.get(item.nodeid, (0.0, []))[0]
        _by_test[item.nodeid] = (seconds, names)


def pytest_runtest_logreport(report: pytest.TestReport) -> None:
    """Note how long a test takes; one that fails is of no use here."""
    seconds, names = _by_test.get(report.nodeid, (0.0, []))
    _by_test[report.nodeid] = (float("inf") if report.failed else seconds + report.duration, names)


def pytest_sessionfinish(session: pytest.Session) -> None:
    """Write the part of this worker."""
    if _by_test and (worker := os.environ.get("PYTEST_XDIST_WORKER")):
        FOLDER.mkdir(parents=True, exist_ok=True)
        (FOLDER / f"tests-{worker}.json").write_text(json.dumps(_by_test))
