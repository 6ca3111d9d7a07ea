"""Restoring: rows that fit come back, whatever else a file holds; the shop is never lost over a file that is none."""

from __future__ import annotations

import contextlib
import gzip
import shutil
import sqlite3
from pathlib import Path

import pytest
from peewee import SqliteDatabase
from playhouse.migrations import Runner
from starlette.testclient import TestClient

from bright_willow.core.execution.events import Event
from bright_willow.devices.port import KINDS
from bright_willow.store.backup import clear_unfinished, copied, restored, restored_live, temporary_folder
from bright_willow.store.open_folder import FILE, MIGRATIONS
from bright_willow.store.records import CannotOpen
from bright_willow.store.restore import PROBE_KINDS, rebuilt
from bright_willow.store.store import Store
from bright_willow.web.app import create_app
from tests.core.execution.runs import T0, brief

OLD = Path(__file__).parents[1] / "files" / "marrow-lane-0.1.0.sqlite3.gz"
LEVELS = sorted(p.stem for p in MIGRATIONS.glob("0*.py"))


def changed(path: Path, *statements: str) -> None:
    """Run statements on a file, past everything that forbids them."""
    with contextlib.closing(sqlite3.connect(path, isolation_level=None)) as db:
        for (name,) in db.execute("select name from sqlite_master where type = 'trigger'").fetchall():
            db.execute(f"drop trigger {name}")
        for statement in statements:
            db.execute(statement)


def rows(path: Path) -> dict[str, list]:
    with contextlib.closing(sqlite3.connect(path)) as db:
        names = [n for (n,) in db.execute("select name from sqlite_master where type = 'table' order by 1")]
        return {n: db.execute(f"select * from {n} order by 1, 2").fetchall() for n in names if n != "schema_migration"}


@pytest.fixture(scope="module")
def shop(tmp_path_factory):
    """The demo shop with a run, a probe with readings, marks of the days, a trial and a picture: a file to spoil."""
    from tests.sample import fill

    folder = tmp_path_factory.mktemp("shop")
    store = Store(folder)
    with store.connected():
        fill(store)
        run = store.runs.start(14, "run", store.jobs.get(14).revision, brief())
        store.runs.add_events(run, [Event(T0, "begin", "one", "look_over"), Event(T0 + 60, "done", "two", "look_over")])
        probe, _ = store.probes.add("box", "chamber")
        store.probes.add_readings([(probe, 1e9, 99.0)])
        store.db.execute_sql(
            "insert or replace into job_line (job_id, revision, mark, lot, boards, body) values (14, 1, 'x', '', 0, "
            "'<svg/>')"
        )
        store.db.execute_sql(
            "insert into picture (job_id, at, wide, high, body) values (14, '2026-01-01 08:00:00', 9, 9, x'00')"
        )
    whole = folder / "whole.sqlite3"
    copied(store.path, whole)
    store.close()
    return whole


@pytest.fixture
def spoiled(shop, tmp_path):
    """A copy of it for one test."""
    return Path(shutil.copyfile(shop, tmp_path / "spoiled.sqlite3"))


def test_all_rows_come_back_but_those_worked_out_anew(shop, tmp_path):
    assert rebuilt(shop, tmp_path / "new.sqlite3") == ()
    before, after = rows(shop), rows(tmp_path / "new.sqlite3")
    assert before.pop("job_line") and after.pop("job_line") == []  # its drawing would be trusted
    for made in (before, after):
        made.pop("sqlite_sequence")
    assert after == before and sum(map(len, before.values())) > 100


def test_a_hull_with_migration_marks_only_is_refused(store, spoiled):
    with contextlib.closing(sqlite3.connect(spoiled, isolation_level=None)) as db:
        db.execute("pragma foreign_keys = off")
        for name in rows(spoiled):
            with contextlib.suppress(sqlite3.OperationalError):
                db.execute(f"drop table {name}")
    before = rows(store.path)
    for bring in (lambda: restored_live(store.path, spoiled), lambda: restored(store.path.parent, spoiled)):
        with pytest.raises(CannotOpen, match="not a whole shop's file: “built_form” is missing"):
            bring()
    assert rows(store.path) == before
    (other := store.path.parent / "other").mkdir()
    shutil.copyfile(spoiled, other / FILE)
    with pytest.raises(CannotOpen, match="missing in it. Restore a backup"):
        Store(other)


@pytest.mark.parametrize(
    ("statement", "message"),
    [
        ("alter table measurement drop column error_mm", "“error_mm” is missing in “measurement”"),
        ("delete from schema_migration where name = '0004_cuts'", "record of versions has gaps"),
        ("delete from schema_migration", "record of versions has gaps"),
    ],
)
def test_what_is_not_as_any_version_wrote_it_is_refused(store, spoiled, statement, message):
    changed(spoiled, statement)
    with pytest.raises(CannotOpen, match=message):
        restored_live(store.path, spoiled)


@pytest.mark.parametrize(
    ("statement", "table"),
    [
        ("update probe set kind = 'nonsense'", "probe"),
        ("update run set kind = 'walk'", "run"),
        ("update measurement set face = 'back' where id = 1", "measurement"),
        ("update measurement set chord_mm = -3.0 where id = 1", "measurement"),
        ("update piece set mishap = 'eaten' where id = 1", "piece"),
        ("update revision set body = '{' where job_id = 14", "revision"),
        ("update meta set value = 'often' where key = 'book'", "meta"),
        ("update event set body = '[1]' where kind = 'done'", "event"),
    ],
)
def test_a_value_that_no_row_can_have_is_left_out_and_named(store, spoiled, statement, table):
    changed(spoiled, statement)
    said = restored_live(store.path, spoiled).left_out
    assert any(f"“{table}”" in one for one in said), said
    assert len(rows(store.path)[table]) < len(rows(spoiled)[table])


def test_nothing_of_a_file_is_run(store, spoiled):
    """Triggers, views, even an endless one in the place of the record of versions, and tables of no use."""
    changed(
        spoiled,
        "create trigger wipe after insert on revision begin delete from job; end",
        "create view extra as with recursive n(i) as (select 1 union all select i + 1 from n) select i from n",
        "create table secrets (a)",
        "create index odd on job (name)",
    )
    assert restored_live(store.path, spoiled).left_out == ()
    with contextlib.closing(sqlite3.connect(store.path)) as db:
        names = {n for (n,) in db.execute("select name from sqlite_master")}
    assert not names & {"wipe", "extra", "secrets", "odd"} and "event_no_update" in names
    changed(spoiled, "drop table schema_migration")
    changed(
        spoiled,
        "create view schema_migration as with recursive n(i) as (select 1 union all select i + 1 from n)"
        " select i as id, 'x' as name, 'x' as applied from n",
    )
    with pytest.raises(CannotOpen, match="not a shop's"):
        restored_live(store.path, spoiled)


@pytest.mark.parametrize("page_size", [512, 8192])
def test_files_of_another_page_size_or_encoding_come_back(store, shop, tmp_path, page_size):
    odd = tmp_path / "odd.sqlite3"
    with contextlib.closing(sqlite3.connect(odd, isolation_level=None)) as db:
        db.execute(f"pragma page_size = {page_size}")
        db.execute("pragma encoding = 'UTF-16'")
        with contextlib.closing(sqlite3.connect(shop)) as source:
            for line in source.iterdump():
                if "sqlite_sequence" not in line:
                    db.execute(line)
    assert restored_live(store.path, odd).left_out == ()
    assert rows(store.path)["job"] == rows(shop)["job"]
    with store.connected():
        store.taken_over()
        assert store.jobs.get(14).job.name


SPOILERS = (
    "'x'",
    "x'ff00'",
    "1e300",
    "-5",
    "99999999999999",
    "null",
    "'9999-12-31 00:00:00'",
    "'1969-01-01'",
    "cast(x'ff' as text)",
)
PAGES = "/ /days /bench /bench?ended=1 /book /book/learnt /book/track-record /rack /shop /book/bends.csv /jobs/14/bench"
PAGES += " /jobs/2/measure /jobs/14/days /days/week.pdf /jobs/14/pictures /jobs/14/trials /runs/1 /rack/woods"


@pytest.mark.parametrize("spoiler", SPOILERS)
def test_a_wrong_value_in_any_column_breaks_no_page(store, shop, tmp_path, spoiler):
    """In one row of every table each column in its turn is spoiled; what is left is shown by every shared page."""
    columns = []
    with contextlib.closing(sqlite3.connect(shop)) as db:
        for table in rows(shop):
            if table not in ("sqlite_sequence", "job_line"):
                columns += [(table, c[1]) for c in db.execute(f"pragma table_info({table})")]
    spoiled = Path(shutil.copyfile(shop, tmp_path / "spoiled.sqlite3"))
    with contextlib.closing(sqlite3.connect(spoiled, isolation_level=None)) as db:
        db.execute("pragma ignore_check_constraints = on")
        for (name,) in db.execute("select name from sqlite_master where type = 'trigger'").fetchall():
            db.execute(f"drop trigger {name}")
        db.execute("pragma writable_schema = on")  # so that a column may hold what its table forbids
        db.execute("update sqlite_master set sql = replace(sql, 'NOT NULL', '') where type = 'table'")
    with contextlib.closing(sqlite3.connect(spoiled, isolation_level=None)) as db:
        for n, (table, column) in enumerate(columns):
            count = db.execute(f"select count(*) from {table}").fetchone()[0]
            with contextlib.suppress(sqlite3.IntegrityError):
                which = f"(select {column} from {table} limit 1 offset {n % max(1, count)})"
                db.execute(f"update {table} set {column} = {spoiler} where {column} is {which}")
    done = restored_live(store.path, spoiled)
    assert done.left_out and all(one.endswith(".") and "left out" in one for one in done.left_out)
    with store.connected():
        store.taken_over()
    app = create_app(store)
    with contextlib.closing(TestClient(app, base_url="http://127.0.0.1", raise_server_exceptions=False)) as client:
        told = {path: client.get(path, headers={"accept": "text/html"}).status_code for path in PAGES.split()}
    app.state.reader.stop()
    assert not {p: s for p, s in told.items() if s >= 500}, told
    assert rows(store.path).keys() == rows(shop).keys()


@pytest.mark.parametrize("level", LEVELS)
def test_a_copy_of_every_version_opens_and_comes_back(tmp_path, level):
    """The oldest shop, brought to each version's own tables: opened by this program, and restored into another."""
    (tmp_path / "old").mkdir()
    path = tmp_path / "old" / FILE
    path.write_bytes(gzip.decompress(OLD.read_bytes()))
    db = SqliteDatabase(str(path))
    with db.connection_context():
        if level not in Runner(db, directory=str(MIGRATIONS)).applied():
            Runner(db, directory=str(MIGRATIONS)).up(level)
    names = {row[0] for row in rows(path)["job"]}
    done = restored(tmp_path / "new", path)
    assert done.left_out == ()
    for folder in ("old", "new"):
        store = Store(tmp_path / folder)
        with store.connected():
            assert {s.id for s in store.jobs.find()} == names and store.training.learned().used > 5
        store.close()


def test_a_program_killed_meanwhile_leaves_nothing_that_is_not_cleared(tmp_path, monkeypatch):
    shop, temporary = tmp_path / "shop", tmp_path / "temporary"
    temporary.mkdir()
    monkeypatch.setattr("tempfile.tempdir", str(temporary))
    Store(shop)
    (shop / "copies").mkdir()
    left = [shop / ".copy-abc", shop / "copies" / ".copy-def", shop / "bright-willow.fresh"]
    for path in left:
        path.write_bytes(b"left behind")
    with temporary_folder() as mine:
        kept = Path(shutil.copytree(mine, temporary / "bright-willow-killed", ignore=lambda *_: []))
        assert (kept / "in-use.lock").exists()
        clear_unfinished(shop)
        assert mine.exists() and not kept.exists() and not any(p.exists() for p in left)
    assert (shop / FILE).exists() and not mine.exists()


def test_what_the_store_knows_of_probes_is_what_the_devices_say():
    assert set(PROBE_KINDS) == set(KINDS)
