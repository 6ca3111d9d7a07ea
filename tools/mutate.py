"""Put small faults into the program, one at a time, and count how many the tests find. Run by `make mutate`.

The faults are drawn by a seed, as many of each room as it has lines. Each is tried in a process of its own against the
quickest tests that call its function; which those are is written down by a first run of all tests (`--map`, some
minutes, kept under build/ until it is asked for again). Writes tests/mutation.md.
"""

from __future__ import annotations

import argparse
import importlib.abc
import importlib.util
import json
import os
import random
import signal
import subprocess
import sys
import time
from collections import Counter, defaultdict
from collections.abc import Sequence
from dataclasses import dataclass
from importlib.machinery import ModuleSpec, SourceFileLoader
from itertools import zip_longest
from pathlib import Path
from types import CodeType

from tools.mutants import module_name, mutated, sites
from tools.mutation_map import FOLDER

ROOT = Path(__file__).parents[1]
PROGRAM = ROOT / "bright_willow"
REPORT = ROOT / "tests/mutation.md"
ROUNDS = ((0, 20, 6.0), (20, 220, 40.0))  # which of the quickest tests are run, and for how long at most: first the few
GIVEN_UP_S = 90.0  # a fault that makes a test run on and on is found
LATE = "ignore::pytest.PytestAssertRewriteWarning"  # plugins whose libraries were imported before the processes parted
LONGEST_S = 12.0  # a test that takes longer is not run
NO_TESTS = 5  # what pytest returns when it found none
LIBRARIES = ("numpy", "scipy.optimize", "scipy.stats", "shapely", "pydantic", "fastapi", "peewee", "reportlab", "ezdxf")


@dataclass(frozen=True)
class Mutant:
    """A fault: the file, the number of its place there, its function and line."""

    path: Path
    number: int
    function: str
    line: int

    @property
    def room(self) -> str:
        """The room it is in, of which the table tells."""
        parts = self.path.relative_to(PROGRAM).parts
        return "/".join(parts[:2]) if parts[0] == "core" else parts[0]


def drawn(count: int, seed: int) -> list[Mutant]:
    """Draw faults, as many of each room as it has lines of the program."""
    chance = random.Random(seed)
    by_room: dict[str, list[Mutant]] = defaultdict(list)
    lines: Counter[str] = Counter()
    for path in sorted(PROGRAM.rglob("*.py")):
        if "migrations" in path.parts:
            continue
        text = path.read_text()
        for site in sites(text):
            mutant = Mutant(path, site.number, site.function, site.line)
            by_room[mutant.room].append(mutant)
        lines[Mutant(path, 0, "", 0).room] += text.count("\n")
    whole = sum(lines.values())
    return [m for room, own in sorted(by_room.items()) for m in chance.sample(own, round(count * lines[room] / whole))]


def write_map(jobs: int) -> None:
    """Run all tests but the slow ones and those of the browser, and write down which functions each calls."""
    for old in FOLDER.glob("tests-*.json"):
        old.unlink()
    tests = [sys.executable, "-m", "pytest", "-q", "-p", "tools.mutation_map", "-n", str(jobs), "--dist", "loadfile"]
    subprocess.run([*tests, "--ignore-glob=*_slow.py", "--ignore", "tests/browser"], cwd=ROOT, check=False)


def tests_by_function() -> dict[str, list[tuple[float, str]]]:
    """Return the tests that call each function, and each file (by its name alone), the quickest first."""
    called: dict[str, set[tuple[float, str]]] = defaultdict(set)
    for part in FOLDER.glob("tests-*.json"):
        for test, (seconds, names) in json.loads(part.read_text()).items():
            if seconds < LONGEST_S:
                for name in names:
                    called[name].add((seconds, test))
                    called[name.split("::")[0]].add((seconds, test))
    return {name: sorted(tests) for name, tests in called.items()}


def chosen_tests(mutant: Mutant, called: dict[str, list[tuple[float, str]]], turn: int = 0) -> list[str]:
    """Return the quickest tests that call a fault's function, by turns of its own room and of its callers; those of
    its file where no function is told.

    turn: 0 for the few that are run first, 1 for those that are run where they missed it.
    """
    first, last, most_s = ROUNDS[turn]
    name = mutant.path.relative_to(PROGRAM).as_posix()
    tests = called.get(f"{name}::{mutant.function}") or called.get(name) or []
    room = f"tests/{Path(name).parent.as_posix()}/"
    own, others = ([t for t in tests if t[1].startswith(room) is is_own] for is_own in (True, False))
    turns = zip_longest(own, others)
    tests = [test for pair in turns for test in pair if test]
    chosen, spent = list[str](), 0.0
    for seconds, test in tests[first:last]:
        spent += seconds
        if chosen and spent > most_s:
            break
        chosen.append(test)
    return chosen


class _Spoiled(importlib.abc.MetaPathFinder, SourceFileLoader):
    """Imports one module of the program with a fault in it."""

    def __init__(self, mutant: Mutant, source: str) -> None:
        super().__init__(module_name(mutant.path, ROOT), str(mutant.path))
        self.source = source

    def find_spec(self, fullname: str, path: Sequence[str] | None, target: object = None) -> ModuleSpec | None:
        return (
            importlib.util.spec_from_file_location(fullname, self.path, loader=self) if fullname == self.name else None
        )

    def get_code(self, fullname: str) -> CodeType:
        return compile(self.source, self.path, "exec")


def _try(mutant: Mutant, source: str, tests: list[str]) -> int:
    """Begin a process that runs tests against a fault and ends with what pytest returns. Returns its number."""
    import pytest

    if child := os.fork():
        return child
    silent = os.open(os.devnull, os.O_WRONLY)
    os.dup2(silent, 1)
    os.dup2(silent, 2)
    sys.meta_path.insert(0, _Spoiled(mutant, source))
    # plain asserts: pytest would read a module it is given by name itself, and without the fault
    options = ["-x", "-q", "--assert=plain", "-p", "no:cacheprovider", "-p", "no:xdist", "-W", LATE]
    os._exit(pytest.main([*options, *tests]))


def check_without_faults(mutants: Sequence[Mutant]) -> None:
    """Run the tests of a few faults against the program as it is. Raises: SystemExit where they fail: they would find
    every fault."""
    called = tests_by_function()
    for mutant in mutants[:: max(1, len(mutants) // 5)]:
        if tests := chosen_tests(mutant, called):
            _, status = os.waitpid(_try(mutant, mutant.path.read_text(), tests), 0)
            if status:
                raise SystemExit(f"These tests fail without a fault ({status}): {' '.join(tests)}")


def tried(mutants: Sequence[Mutant], jobs: int) -> dict[Mutant, str]:
    """Try every fault. Returns `found`, `missed` or `no test` for each."""
    called, results = tests_by_function(), dict[Mutant, str]()
    waiting, running = [(m, 0) for m in reversed(mutants)], dict[int, tuple[Mutant, int, float]]()
    while waiting or running:
        while waiting and len(running) < jobs:
            mutant, turn = waiting.pop()
            tests = chosen_tests(mutant, called, turn)
            if not tests:
                results.setdefault(mutant, "no test")
                continue
            source, _, _ = mutated(mutant.path.read_text(), mutant.number)
            running[_try(mutant, source, tests)] = (mutant, turn, time.monotonic())
        time.sleep(0.05)
        for child, (mutant, turn, began) in list(running.items()):
            ended, status = os.waitpid(child, os.WNOHANG)
            if not ended:
                if time.monotonic() - began < GIVEN_UP_S:
                    continue
                os.kill(child, signal.SIGKILL)
                os.waitpid(child, 0)
                status = signal.SIGKILL
            results[mutant] = {0: "missed", NO_TESTS: "no test"}.get(os.waitstatus_to_exitcode(status), "found")
            del running[child]
            if results[mutant] == "missed" and turn == 0:
                waiting.append((mutant, 1))
            print(len(results), results[mutant], mutant.path.relative_to(ROOT), mutant.line, flush=True)
    return results


def report(results: dict[Mutant, str], seed: int) -> str:
    """Return the table of rooms and the list of what was missed, as a page."""
    rooms: dict[str, Counter[str]] = defaultdict(Counter)
    for mutant, result in results.items():
        rooms[mutant.room][result] += 1
    found = sum(c["found"] for c in rooms.values())
    lines = [
        "# What the tests find",
        "",
        f"Written by `make mutate`: {len(results)} small faults put into the program one at a time (seed {seed}), each",
        "tried against the quickest tests that call its function; tests in the browser and the slow ones are left out.",
        f"**{found} of {len(results)} were found, {found / len(results):.0%}.**",
        "",
        "| room | faults | found |",
        "|---|---|---|",
        *(f"| {room} | {sum(c.values())} | {c['found'] / sum(c.values()):.0%} |" for room, c in sorted(rooms.items())),
        "",
        "## Missed",
        "",
    ]
    for mutant, result in sorted(results.items(), key=lambda r: (str(r[0].path), r[0].line)):
        if result != "found":
            _, before, after = mutated(mutant.path.read_text(), mutant.number)
            where = f"{mutant.path.relative_to(PROGRAM).as_posix()}:{mutant.line}"
            lines.append(f"- {where} `{before[:90]}` → `{after[:90]}`" + (" (no test)" if result == "no test" else ""))
    return "\n".join(lines) + "\n"


def main() -> None:
    """Draw the faults, try them and write the report."""
    asked = argparse.ArgumentParser(description=__doc__)
    asked.add_argument("--count", type=int, default=300)
    asked.add_argument("--seed", type=int, default=1)
    asked.add_argument("--jobs", type=int, default=os.cpu_count() or 2)
    asked.add_argument("--room", default="", help="only faults of this room")
    asked.add_argument("--map", action="store_true", help="write down anew which test calls which function")
    options = asked.parse_args()
    if options.map or not list(FOLDER.glob("tests-*.json")):
        write_map(options.jobs)
    mutants = [m for m in drawn(options.count, options.seed) if options.room in ("", m.room)]
    for library in LIBRARIES:
        importlib.import_module(library)  # once for all processes made after this
    check_without_faults(mutants)
    text = report(tried(mutants, options.jobs), options.seed)
    print(text)
    if not options.room:
        REPORT.write_text(text)


if __name__ == "__main__":
    main()
