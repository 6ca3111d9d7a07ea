"""Old databases on the present law, and pieces whose hours on the form a run recorded."""

import datetime as dt
import gzip
import json
import sqlite3
from contextlib import closing
from pathlib import Path

import pytest

from bright_willow.core.execution.events import Event
from bright_willow.core.execution.run_plan import brief_of
from bright_willow.core.measuring.built_form import BuiltForm
from bright_willow.core.plan.plan import plan
from bright_willow.store.store import Store
from tests.core.methods.jobs import job_for

OLD = Path(__file__).parents[1] / "files" / "marrow-lane-0.1.0.sqlite3.gz"
T0 = 1_764_000_000.0


def test_an_old_database_is_predicted_anew_once_and_a_copy_is_put_by(tmp_path):
    (tmp_path / "bright-willow.sqlite3").write_bytes(gzip.decompress(OLD.read_bytes()))
    store = Store(tmp_path)
    with store.connected():
        form = next(f for f in store.forms.find() if f.built.way == "steam_strap")
        (copy,) = (tmp_path / "copies").glob("before-*.sqlite3")
        was = json.loads(raw_of(copy, form.id))
        assert form.built.expected == tuple(was["expected"]) and form.built.law == 1
        lost_then = was["form_curvature"][1] - was["predicted_curvature"][1]
        lost_now = form.built.form_curvature[1] - form.built.predicted_curvature[1]
        assert lost_now < 0.9 * lost_then  # the old law lost too much of it
        ratios = [form.compared(p, p.measurements[0]).ratio for p in form.pieces]
        taught = [b.ratio for b in store.training.bends() if b.way == "steam_strap"]
        assert taught == pytest.approx(ratios) and len(taught) == 3
        bodies = [r[0] for r in store.db.execute_sql("select body from taught order by piece_id").fetchall()]
        mark = store.training.mark()
    store.close()
    again = Store(tmp_path)
    with again.connected():
        assert [r[0] for r in again.db.execute_sql("select body from taught order by piece_id").fetchall()] == bodies
        assert again.training.mark() == mark  # nothing was done a second time


def raw_of(copy: Path, form_id: int) -> str:
    with closing(sqlite3.connect(copy)) as plain:
        return str(plain.execute("select body from built_form where id = ?", (form_id,)).fetchone()[0])


def test_hours_a_run_recorded_count_for_its_piece_and_for_no_other(store):
    job = job_for("steam_strap", heat={"on_form_h": 24})
    drawn = plan(job)
    with store.connected():
        job_id = store.jobs.add(job)
        form_id = store.logbook.save_form(job_id, BuiltForm.of(drawn))
        brief = brief_of(drawn, places=2, people=2, started_s=T0)
        run_id = store.runs.start(job_id, "run", store.jobs.get(job_id).revision, brief)
        off = next(o.key for o in brief.operations if "form" in o.frees)
        taps = [("done", "bend", 600.0), ("done", off, 600.0 + 2 * 3600)]
        store.runs.add_events(run_id, [Event(T0 + t, k, f"tap-{n}", key, 0) for n, (k, key, t) in enumerate(taps)])
        built = store.forms.get(form_id).built
        came = built.bent_by(1.0)
        chord, rise, _ = built.on_face(came, "inner")
        read = {"day": dt.date(2026, 5, 21), "chord_mm": chord, "rise_mm": rise, "face": "inner", "error_mm": 0.5}
        store.logbook.add_piece(form_id, label="by the clock", of_run=(run_id, 0), **read)
        store.logbook.add_piece(form_id, label="by the plan", **read)
        form = store.forms.get(form_id)
        seen, planned = form.pieces
        assert planned.built is None and form.under(planned) == form.built
        lost = [b.form_curvature[1] - b.predicted_curvature[1] for b in (form.under(seen), form.built)]
        assert lost[0] > 1.2 * lost[1]  # two hours set it less than the day that was planned
        by_clock, by_plan = (b.ratio for b in store.training.bends())
        assert by_plan == pytest.approx(1.0, abs=1e-6) and by_clock == pytest.approx(
            form.compared(seen, seen.measurements[0]).ratio
        )
        assert by_clock < 1.0
        store.db.execute_sql("update taught set built = '{' where built != ''")
        assert all(p.built is None for p in store.forms.get(form_id).pieces)  # damaged: as its form was built
