"""Real SQLite: revisions, pieces, migrations, sudden death."""

import ast
import datetime as dt
import json
import os
import signal
import sqlite3
import subprocess
import sys
from pathlib import Path

import pytest
from peewee import SqliteDatabase
from playhouse.migrations import Runner

from bright_willow.core.measuring.built_form import BuiltForm
from bright_willow.core.plan.plan import plan
from bright_willow.core.wood.lot import Lot
from bright_willow.store import store as store_module
from bright_willow.store.store import MIGRATIONS, NotFound, Store

DAY = dt.date(2026, 5, 1)


def with_laminae(job, n):
    return job.model_copy(update={"build_up": job.build_up.model_copy(update={"laminae": n})})


def test_undo_redo_and_branches_lose_nothing(store, rib):
    with store.connected():
        job_id = store.jobs.add(rib)
        for n in (9, 10):
            assert store.jobs.save(job_id, with_laminae(rib, n), f"{n} laminae")
        assert not store.jobs.save(job_id, with_laminae(rib, 10), "the same again")
        assert store.jobs.undo(job_id)
        assert store.jobs.get(job_id).job.build_up.laminae == 9
        assert store.jobs.get(job_id).can_redo
        store.jobs.save(job_id, with_laminae(rib, 12), "another way")  # the branch with 10 stays in the history
        assert store.jobs.undo(job_id) and store.jobs.undo(job_id)
        assert not store.jobs.undo(job_id)
        assert store.jobs.redo(job_id) and store.jobs.get(job_id).job.build_up.laminae == 9
        assert (
            store.jobs.redo(job_id) and store.jobs.get(job_id).job.build_up.laminae == 12
        )  # the newest branch, not the oldest
        assert not store.jobs.redo(job_id)
        history = store.jobs.history(job_id)
        assert [r.what for r in history] == ["another way", "10 laminae", "9 laminae", "started"]
        store.jobs.go_back_to(job_id, history[1].id)
        assert store.jobs.get(job_id).job.build_up.laminae == 10
        with pytest.raises(NotFound):
            store.jobs.go_back_to(job_id, 999)


def test_reopened_it_is_all_there(tmp_path, rib):
    first = Store(tmp_path)
    with first.connected():
        job_id = first.jobs.add(rib)
        first.jobs.mark_done(job_id, "stock")
        form = first.logbook.save_form(job_id, BuiltForm.of(plan(rib)))
        piece = first.logbook.add_piece(
            form, label="1", day=DAY, chord_mm=1805, rise_mm=494, face="inner", error_mm=0.5
        )
        first.logbook.measure_again(
            piece, day=DAY + dt.timedelta(7), chord_mm=1806, rise_mm=493, face="inner", error_mm=0.5
        )
    second = Store(tmp_path)
    with second.connected():
        assert second.jobs.get(job_id).job == rib
        assert second.jobs.get(job_id).settled == {"stock"}
        (kept,) = second.forms.find(job_id)
        assert [m.chord_mm for m in kept.pieces[0].measurements] == [1805, 1806]
        assert second.training.bends()[0].chord_mm == 1805  # the first measurement is nearest to release


def test_a_form_built_again_unchanged_is_the_same_form(store, rib):
    with store.connected():
        job_id = store.jobs.add(rib)
        built = BuiltForm.of(plan(rib))
        assert store.logbook.save_form(job_id, built) == store.logbook.save_form(job_id, built)
        other = BuiltForm.of(plan(with_laminae(rib, 9)))
        assert store.logbook.save_form(job_id, other) != store.forms.find(job_id)[0].id


def test_learning_follows_every_change(store, rib):
    with store.connected():
        job_id = store.jobs.add(rib)
        form = store.logbook.save_form(job_id, BuiltForm.of(plan(rib)))
        assert store.training.learned().used == 0
        piece = store.logbook.add_piece(
            form, label="1", day=DAY, chord_mm=1808, rise_mm=490, face="inner", error_mm=0.5
        )
        assert store.training.learned().used == 1
        assert store.training.learned() is store.training.learned()
        store.logbook.leave_out(piece, True)
        assert store.training.learned().used == 0
        store.logbook.leave_out(piece, False)
        measurement = store.forms.find(job_id)[0].pieces[0].measurements[0].id
        assert store.logbook.remove_measurement(measurement) == job_id
        assert store.forms.find(job_id)[0].pieces == ()
        assert store.training.learned().used == 0


def test_put_away_and_back_keeps_teaching(demo_store):
    with demo_store.connected():
        before = demo_store.training.learned().used
        demo_store.jobs.archive(1)
        assert 1 not in {s.id for s in demo_store.jobs.find()}
        assert demo_store.training.learned().used == before
        demo_store.jobs.archive(1, away=False)
        assert 1 in {s.id for s in demo_store.jobs.find()}


def test_what_is_not_there_says_so(store):
    with store.connected():
        for ask in (
            store.jobs.get,
            store.pieces.get,
            store.forms.get,
            store.logbook.remove_measurement,
            store.jobs.history,
        ):
            with pytest.raises(NotFound):
                ask(12345)


def test_migrations_run_once_and_write_ahead_is_on(tmp_path):
    Store(tmp_path)
    Store(tmp_path)
    raw = sqlite3.connect(tmp_path / "bright-willow.sqlite3")
    names = [n for (n,) in raw.execute("select name from schema_migration order by id")]
    assert names == sorted(p.stem for p in MIGRATIONS.glob("[0-9]*.py"))
    assert raw.execute("pragma journal_mode").fetchone() == ("wal",)
    raw.close()


def test_a_database_of_the_first_version_keeps_all_it_holds(tmp_path, rib):
    """Filled under the first migration alone, then opened by the program of today."""
    path = tmp_path / "bright-willow.sqlite3"
    first = tmp_path / "first"
    first.mkdir()
    (first / "0001_start.py").write_text((MIGRATIONS / "0001_start.py").read_text())
    old = SqliteDatabase(str(path))
    Runner(old, directory=str(first)).up()
    job = rib.model_dump(mode="json")
    for room, fields in (
        ("part", ("copies", "hand", "mate_tolerance_mm")),
        ("stock", ("figured", "moisture_pct", "lot")),
    ):
        for field in fields:  # a job as it was written then knew none of these
            job[room].pop(field)
    job.pop("heat")
    old.execute_sql("insert into job (created, settled, current) values ('2026-01-02 03:04:05', 'shape', 1)")
    old.execute_sql(
        "insert into revision (job_id, at, what, body) values (1, '2026-01-02', 'started', ?)", (json.dumps(job),)
    )
    built = BuiltForm.of(plan(rib)).model_dump(mode="json")
    for field in ("side", "kind", "build", "liner_mm", "trim_mm"):
        built.pop(field)
    old.execute_sql("insert into built_form (job_id, at, body) values (1, '2026-01-03', ?)", (json.dumps(built),))
    old.execute_sql("insert into piece (form_id, label, mishap, left_out, note) values (1, 'a', '', 0, 'dry')")
    old.execute_sql(
        "insert into measurement (piece_id, day, chord_mm, rise_mm, face, error_mm) values (1, '2026-01-05', 1806, "
        "493, 'inner', 0.5)"
    )
    old.close()
    store = Store(tmp_path)
    with store.connected():
        assert store.jobs.get(1).job == rib and store.jobs.get(1).settled == {"shape"}
        (form,) = store.forms.find(1)
        assert (form.pieces[0].label, form.pieces[0].hand, form.pieces[0].note) == ("a", "", "dry")
        assert form.built.side == "inner" and store.training.learned().used == 1
        lot = store.rack.save(Lot(name="Ash", species="ash_white", thickness_mm=50, width_mm=150, length_mm=2000))
        assert store.rack.lot(lot).lot.name == "Ash" and store.rack.save(store.rack.lot(lot).lot) is None
        store.rack.remove(lot)
        with pytest.raises(NotFound):
            store.rack.lot(lot)


def test_pieces_that_failed_count_for_the_yield(store, rib):
    with store.connected():
        form = store.logbook.save_form(store.jobs.add(rib), BuiltForm.of(plan(rib)))
        store.logbook.add_piece(
            form, label="1", day=DAY, chord_mm=1805, rise_mm=494, face="inner", error_mm=0.5, hand="left"
        )
        store.logbook.add_piece(
            form, label="2", day=DAY, chord_mm=1805, rise_mm=494, face="inner", error_mm=0.5, mishap="cracked"
        )
        broke = store.logbook.add_unmeasured(form, label="3", mishap="broke")
        assert (
            store.training.learned().made == {("cold_lamination", "ash_white|rigid"): (1, 2)}
            and len(store.training.bends()) == 2
        )
        assert store.logbook.remove_piece(broke) == 1
        assert store.training.learned().made == {("cold_lamination", "ash_white|rigid"): (1, 1)}


def test_an_unreadable_job_does_not_hide_the_others(store, rib):
    with store.connected():
        good, bad = store.jobs.add(rib), store.jobs.add(rib)
        store.db.execute_sql('update revision set body = \'{"format": "of the future"}\' where job_id = ?', (bad,))
        assert [s.id for s in store.jobs.find()] == [good]


def test_killed_in_the_middle_nothing_acknowledged_is_lost(tmp_path):
    """A process says each save aloud and is killed; every save it spoke of is there."""
    script = (
        "import sys; from pathlib import Path; from bright_willow.store.store import Store;"
        "from bright_willow.core.plan.read_job import read_job; from tests.conftest import RIB\n"
        "s = Store(Path(sys.argv[1]))\n"
        "with s.connected():\n"
        "    j = s.jobs.add(read_job(RIB))\n"
        "    for n in range(2, 10000):\n"
        "        s.jobs.save(j, read_job({**RIB, 'name': f'save {n}'}), f'save {n}'); print(n, flush=True)\n"
    )
    with subprocess.Popen([sys.executable, "-c", script, str(tmp_path)], stdout=subprocess.PIPE, text=True) as worker:
        for _ in range(25):
            spoken = int(worker.stdout.readline())
        os.kill(worker.pid, signal.SIGKILL)
        rest = worker.stdout.read().split()
    spoken = int(rest[-1]) if rest else spoken
    store = Store(tmp_path)
    with store.connected():
        saved = {r.what for r in store.jobs.history(1)}
    assert {f"save {n}" for n in range(2, spoken + 1)} <= saved


def test_a_repository_calls_no_other_and_hands_out_no_rows():
    rooms = sorted((Path(store_module.__file__).parent / "repositories").glob("*.py"))
    trees = {path.stem: ast.parse(path.read_text()) for path in rooms}
    found = {c.name: (room, c) for room, tree in trees.items() for c in tree.body if isinstance(c, ast.ClassDef)}
    repositories = {name for name, (_, c) in found.items() if any(ast.unparse(b) == "Repository" for b in c.bases)}
    assert len(repositories) > 10
    for name in repositories:
        room, repository = found[name]
        used = {n.id for n in ast.walk(trees[room]) if isinstance(n, ast.Name)}
        assert used & (repositories - {name}) == set(), name
        public = [m for m in repository.body if isinstance(m, ast.FunctionDef) and not m.name.startswith("_")]
        assert [m.name for m in public if m.returns and "Row" in ast.unparse(m.returns).replace("DamagedRow", "")] == []
