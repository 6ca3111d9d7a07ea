"""A shop taken along and brought back; copies made by themselves; files that are refused."""

import datetime as dt
import gzip
import os
import shutil
import sqlite3
import stat
from pathlib import Path

import pytest

from bright_willow.store import nightly_backup
from bright_willow.store.backup import (
    KEPT,
    archive_copy,
    copied,
    nightly,
    restored,
    restored_live,
)
from bright_willow.store.open_folder import FILE, only_one
from bright_willow.store.records import CannotOpen
from bright_willow.store.store import Store

OLD = Path(__file__).parents[1] / "files" / "marrow-lane-0.1.0.sqlite3.gz"
TABLES = ("shop", "lot", "job", "revision", "built_form", "piece", "measurement")


def everything(path):
    db = sqlite3.connect(path)
    try:
        return {t: db.execute(f"select * from {t} order by id").fetchall() for t in TABLES}
    finally:
        db.close()


def test_all_of_a_shop_goes_and_comes_back(demo_store, tmp_path):
    with demo_store.connected():  # in use meanwhile
        copied(demo_store.path, tmp_path / "mine.sqlite3")
    before = everything(demo_store.path)
    assert everything(tmp_path / "mine.sqlite3") == before and all(before.values())
    assert stat.S_IMODE((tmp_path / "mine.sqlite3").stat().st_mode) == 0o600
    done = restored(tmp_path / "other", tmp_path / "mine.sqlite3")
    assert (done.aside, done.left_out) == (None, ()) and everything(tmp_path / "other" / FILE) == before
    with demo_store.connected():
        demo_store.jobs.archive(1)
    done = restored(tmp_path / "other", demo_store.path)
    assert everything(done.aside) == before  # what stood there is kept


def test_brought_back_while_it_is_open(demo_store, tmp_path):
    copied(demo_store.path, tmp_path / "mine.sqlite3")
    with demo_store.connected():
        learnt = demo_store.training.learned().used
        for piece in demo_store.forms.find(1)[0].pieces:
            demo_store.logbook.remove_piece(piece.id)
        demo_store.jobs.archive(2)
        assert demo_store.training.learned().used < learnt
        aside = restored_live(demo_store.path, tmp_path / "mine.sqlite3").aside
        demo_store.taken_over()
        assert demo_store.training.learned().used == learnt and demo_store.jobs.count(away=True) == 0
    assert everything(aside)["piece"] != everything(tmp_path / "mine.sqlite3")["piece"]


def test_what_is_no_sound_copy_is_refused_and_nothing_changes(demo_store, tmp_path):
    good = tmp_path / "good.sqlite3"
    copied(demo_store.path, good)
    newer, cut, letter, foreign, empty = (
        tmp_path / f"{n}.sqlite3" for n in ("newer", "cut", "letter", "foreign", "empty")
    )
    shutil.copy(good, newer)
    with sqlite3.connect(newer) as db:
        db.execute("insert into schema_migration (name, applied) values ('9999_later', '2030-01-01')")
    cut.write_bytes(good.read_bytes()[:40_000])
    letter.write_text("a letter " * 40)
    with sqlite3.connect(foreign) as db:
        db.execute("create table recipes (id integer)")
    empty.write_bytes(b"")
    before = everything(demo_store.path)
    message = {
        newer: "newer",
        cut: "damaged",
        letter: "not a shop",
        foreign: "not a shop's",
        empty: "empty",
        tmp_path / "no": "no file",
    }
    for file, word in message.items():
        for bring in (lambda f: restored_live(demo_store.path, f), lambda f: restored(demo_store.path.parent, f)):
            with pytest.raises(CannotOpen, match=word):
                bring(file)
    assert everything(demo_store.path) == before


def test_an_old_shop_is_copied_before_it_is_brought_up_to_date(tmp_path):
    (tmp_path / FILE).write_bytes(gzip.decompress(OLD.read_bytes()))
    before = everything(tmp_path / FILE)
    store = Store(tmp_path)
    (copy,) = (tmp_path / "copies").glob("before-0003_lists-*.sqlite3")
    assert everything(copy) == before
    with store.connected():
        names = {s.id: s.job.name for s in store.jobs.find()}
        assert store.jobs.names(set(names)) == names
        assert all(
            f.built.mean_curvature == pytest.approx(k)
            for f, k in zip(store.forms.find(), curvatures(store), strict=True)
        )
        assert (
            store.training.learned().used
            == len([b for b in store.training.bends() if not b.left_out]) - store.training.learned().unusable
            > 5
        )
        assert {(f.built.way, f.built.group) for f in store.forms.find()} >= set(store.training.learned().made)
    Store(tmp_path)
    assert len(list((tmp_path / "copies").iterdir())) == 1  # nothing more to bring up to date


def curvatures(store):
    return [row[0] for row in store.db.execute_sql("select mean_curvature from built_form order by id").fetchall()]


def test_fourteen_nights_stay(demo_store):
    day = dt.date(2026, 3, 1)
    for n in range(KEPT + 3):
        assert nightly(demo_store.path, day + dt.timedelta(n))
    assert nightly(demo_store.path, day + dt.timedelta(KEPT + 2)) is None  # made already
    nights = sorted(p.name for p in (demo_store.path.parent / "copies").iterdir())
    assert (
        len(nights) == KEPT and nights[0] == "nightly-2026-03-04.sqlite3" and nights[-1] == "nightly-2026-03-17.sqlite3"
    )


def test_one_program_at_a_time_and_nobody_else_reads(tmp_path):
    folder = tmp_path / "shop"
    with only_one(folder) as address:
        address.write_text("http://127.0.0.1:1234/")
        with pytest.raises(CannotOpen, match="open already, at http://127.0.0.1:1234/"), only_one(folder):
            pass
        Store(folder)
        assert stat.S_IMODE(folder.stat().st_mode) == 0o700
        assert {stat.S_IMODE(p.stat().st_mode) for p in folder.iterdir() if p.is_file()} == {0o600}
    with only_one(folder):
        assert not (folder / "in-use.address").read_text()


def test_copies_dated_in_the_future_do_not_cost_the_one_just_made(demo_store):
    """As after a clock that was ahead: the new copy stays, the one made first goes."""
    folder = demo_store.path.parent / "copies"
    folder.mkdir(exist_ok=True)
    for n in range(KEPT):
        ahead = folder / f"before-restore-2099-01-{n + 1:02}-000000-000000.sqlite3"
        shutil.copyfile(demo_store.path, ahead)
        os.utime(ahead, (1_700_000_000 + n, 1_700_000_000 + n))
    made = archive_copy(demo_store.path, "before-restore", "2026-11-30-120000-000000")
    left = sorted(p.name for p in folder.glob("before-restore-*"))
    assert made.exists() and len(left) == KEPT and "before-restore-2099-01-01-000000-000000.sqlite3" not in left


def test_the_copy_of_the_day_has_the_day_of_the_shop(monkeypatch, tmp_path):
    seen = []
    night = nightly_backup.NightlyBackup(tmp_path / "shop.sqlite3", lambda: dt.date(2026, 3, 4))
    monkeypatch.setattr(nightly_backup, "AFTER_START_S", 0.0)
    monkeypatch.setattr(nightly_backup, "nightly", lambda _, day: (seen.append(day), night.stop()))
    night._run()
    assert seen == [dt.date(2026, 3, 4)]
