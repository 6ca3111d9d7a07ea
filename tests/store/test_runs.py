"""Runs in the store: insert only, each event once, durable; probes, readings, tablets; older databases."""

from __future__ import annotations

import sqlite3

import pytest
from peewee import IntegrityError

from bright_willow.core.common.errors import PlanError
from bright_willow.core.execution.events import Event
from bright_willow.core.execution.run_plan import brief_of
from bright_willow.core.execution.run_state import state_of
from bright_willow.core.learning.durations import ObservedTime
from bright_willow.core.learning.steam_times import SteamedSample, own_trials
from bright_willow.core.plan.plan import plan
from bright_willow.core.plan.read_job import read_job
from bright_willow.store.records import NotFound, NotKept
from bright_willow.store.repositories.runs import BRIEFS, read_brief
from tests.core.execution.runs import GLUED, T0, Bench, brief
from tests.core.methods.jobs import JOBS, job_for
from tools.yardstick import Measured


@pytest.fixture
def run(store, rib):
    with store.connected():
        yield store, store.runs.start(store.jobs.add(rib), "run", 1, brief())


def test_what_is_told_comes_back_as_it_was(run):
    store, run_id = run
    at = Bench(brief())
    at.tap("begin", "look_over", at=3.25)
    at.tap("broke", number=2, text="“split”", where="at an end", value=0.5, of="x", source="tablet", wall_s=T0 + 4)
    assert store.runs.add_events(run_id, at.events) == 2
    assert [e for _, e in store.runs.events(run_id)] == at.events
    later = at.tap("note", text="more")
    assert store.runs.add_events(run_id, [*at.events]) == 1  # sent again after a lost connection
    rows = store.runs.events(run_id)
    assert [e for _, e in store.runs.events(run_id, rows[1][0])] == [later]
    assert store.runs.add_events(run_id, [Event(0, "done", later.client)]) == 0
    assert [e for _, e in store.runs.events(run_id)] == at.events  # the first word stands
    with pytest.raises(NotFound):
        store.runs.add_events(99, at.events)
    with pytest.raises(NotKept):
        store.runs.add_events(run_id, [Event(float("nan"), "done", "nan")])
    assert store.runs.event_count(run_id) == 3


@pytest.mark.parametrize("table", ["event", "brief"])
@pytest.mark.parametrize(
    "what",
    ["update {} set run_id = 7", "delete from {}", "insert or replace into {0} select * from {0}"],
)
def test_what_happened_cannot_be_changed_or_removed(run, table, what):
    store, run_id = run
    store.runs.add_events(run_id, [Event(T0, "done", "abcd", "look_over")])
    with pytest.raises((IntegrityError, sqlite3.IntegrityError), match="never changed"):
        store.db.execute_sql(what.format(table))
    assert store.runs.event_count(run_id) == 1


def test_a_run_keeps_the_plan_it_began_with_until_it_goes_over(run):
    store, run_id = run
    kept = store.runs.get(run_id)
    assert BRIEFS.dump_json(kept.brief) == BRIEFS.dump_json(brief())
    at = Bench(brief())
    at.all_before("load")
    assert state_of(kept.brief, at.events, T0 + 9).marks == at.state(9).marks  # the read one folds the same
    store.runs.change_plan(run_id, 5, brief(GLUED))
    assert store.runs.get(run_id).revision == 5 and store.runs.get(run_id).brief.of.keys() == brief(GLUED).of.keys()
    assert store.runs.open_of_job(kept.job_id).id == run_id
    store.runs.add_events(run_id, [Event(T0, "end", "ended")])
    assert store.runs.get(run_id).ended and store.runs.open_of_job(kept.job_id) is None
    store.runs.add_events(run_id, [Event(T0, "open", "again")])
    assert [r.id for r in store.runs.find(is_open=True)] == [run_id]


def test_pictures_are_kept_once(run):
    store, run_id = run
    for body in (b"one", b"two"):
        store.runs.add_photo(run_id, "pic1", 2, T0, body)
    assert store.runs.photo(run_id, "pic1") == b"one" and [p[1:] for p in store.runs.photos(run_id)] == [("pic1", 2)]
    with pytest.raises(NotFound):
        store.runs.photo(run_id, "pic2")


def test_times_seen_stand_in_place_of_the_table(run):
    store, run_id = run
    before = store.summaries.mark()
    slow = ObservedTime(600.0, 400.0, (("clamp", 20.0, 20.0),))
    store.observed.save_times(run_id, [slow] * 2)
    assert store.shop_settings.get().learnt_times == ()  # twice is not often enough
    store.observed.save_times(run_id, [slow] * 4)
    learnt = store.shop_settings.get().learnt_times[0]
    assert learnt.key == "clamp" and 26 < learnt.seconds < 30 and learnt.low_s < learnt.seconds < learnt.high_s
    assert store.summaries.mark() != before
    kept = store.shop_settings.get()
    store.shop_settings.save(kept.model_copy(update={"kerf_mm": 2.5}))
    assert "learnt_times" not in store.raw("shop", 1)  # learnt anew from the runs, never typed
    assert store.shop_settings.get().learnt_times == kept.learnt_times
    store.observed.save_times(run_id, [])
    assert store.shop_settings.get().learnt_times == ()


def test_pieces_steamed_become_own_trials(run):
    store, run_id = run
    store.observed.save_steamed(
        run_id, [SteamedSample("ash|green", 20.0, m, m >= 30) for m in (20.0, 30.0, 34.0, 50.0)]
    )
    made = own_trials(store.observed.steamed(), group="ash|green", thickness_mm=18.0)
    assert (made.count, made.whole, made.minutes.likely) == (4, 3, 34.0)
    assert (
        own_trials(store.observed.steamed(), group="ash|green", thickness_mm=17.0).count == 0
    )  # thinner by more than 15 %
    assert own_trials(store.observed.steamed(), group="oak|green", thickness_mm=20.0).count == 0
    assert own_trials(store.observed.steamed()[:3], group="ash|green", thickness_mm=20.0).minutes is None


def test_keys_of_probes_are_nowhere_kept(store):
    with store.connected():
        probe, key = store.probes.add("box", "chamber")
        assert [p.name for p in store.probes.by_key_hash().values()] == ["box"]
        dump = "".join(store.db.connection().iterdump())
        assert key not in dump and "box" in dump
        store.probes.remove(probe)
        assert store.probes.find() == [] and store.probes.by_key_hash() == {}
        with pytest.raises(NotFound):
            store.probes.remove(probe)


def test_old_readings_are_thinned_and_new_ones_are_not(store):
    now = 1_800_000_000.0
    with store.connected():
        store.probes.add_readings((1, now - 7200 + n * 0.5, 90 + n / 100) for n in range(1000))  # two hours ago, 500 s
        store.probes.add_readings((1, now - 300 + n * 0.5, 95.0) for n in range(600))
        assert store.probes.thin_readings(now) == 950
        old = store.probes.readings(1, now - 7200, now - 3600)
        assert [at % 10 for at, _ in old] == [0.0] * 50
        assert old[3] == (now - 7200 + 30, 90.6)  # the first of its ten seconds
        assert len(store.probes.readings(1, now - 300, now)) == 600
        assert store.probes.thin_readings(now) == 0
        mean = store.probes.readings_in_steps(1, now - 7200, now - 7101, 50.0)
        assert [round(v, 2) for _, v in mean] == [90.4, 91.4]  # of 0, 10 … 40 s, and of 50 … 90
        assert store.probes.thin_readings(now + 2 * 86_400) > 500


def test_an_hour_of_eight_probes_takes_little_room(store):
    with store.connected():
        start = store.path.stat().st_size
        with Measured() as took:
            for probe in range(8):
                store.probes.add_readings((probe, 1.8e9 + n / 10, 90 + n % 100 / 10) for n in range(36_000))
        store.db.execute_sql("pragma wal_checkpoint(truncate)")
        assert (store.path.stat().st_size - start) / 1e6 < 20  # the aim is 50 MB
        assert took.seconds < 60
        with Measured() as took:
            assert len(store.probes.readings_in_steps(3, 1.8e9, 1.8e9 + 3600, 5.0)) == 720
        assert took.seconds < 0.3


def test_one_run_of_a_job_is_under_way_at_a_time(run):
    """Start pressed twice at once, past every question the program asks: the database itself refuses the second."""
    store, first = run
    job = store.runs.get(first).job_id
    assert store.runs.start(job, "run", 1, brief()) == first
    with pytest.raises((IntegrityError, sqlite3.IntegrityError)):
        store.db.execute_sql("insert into run (job_id, kind, at, watched) values (?, 'run', '2026-01-01', 0)", (job,))
    assert store.runs.start(job, "rehearsal", 1, brief()) != first  # practice goes on beside it
    store.runs.add_events(first, [Event(T0, "end", "ends")])
    second = store.runs.start(job, "run", 1, brief())
    with pytest.raises(PlanError, match=f"Run {second} of this job is under way"):
        store.runs.add_events(first, [Event(T0, "open", "opens")])
    assert store.runs.get(first).ended and "opens" not in {e.client for _, e in store.runs.events(first)}
    store.runs.add_events(second, [Event(T0, "end", "ends")])
    store.runs.add_events(first, [Event(T0, "open", "opens")])
    assert store.runs.open_of_job(job).id == first


def test_a_run_that_cannot_be_read_is_named(run):
    store, run_id = run
    store.db.execute_sql("insert into brief (run_id, at, revision, body) values (?, '2026-01-01', 1, '{}')", (run_id,))
    with pytest.raises(NotFound, match="cannot be read"):
        _ = store.runs.get(run_id).brief
    assert store.raw("run", run_id) == "{}"  # and can be taken away as it is


def test_it_is_on_the_disk_when_it_is_said(run):
    """Another reader of the file sees every event that was acknowledged, at once; and writes are full."""
    store, run_id = run
    assert store.db.execute_sql("pragma synchronous").fetchone()[0] == 2
    for n in range(5):
        store.runs.add_events(run_id, [Event(T0, "note", f"note{n}")])
        other = sqlite3.connect(store.path)
        assert other.execute("select count(*) from event").fetchone()[0] == n + 1
        other.close()


@pytest.mark.parametrize("way", sorted(JOBS))
def test_the_largest_run_this_program_makes_can_be_read_again(way):
    """500 pieces and 100 spares, glued in as many goes as can be asked for."""
    data = job_for(way).model_dump()
    data["part"] |= {"count": 500, "spares": 100}
    data["glue_up"]["goes"] = 6 if way == "cold_lamination" else data["glue_up"]["goes"]
    made = brief_of(plan(read_job(data)), places=2, people=2, started_s=T0)
    read = read_brief(BRIEFS.dump_json(made, by_alias=True).decode())
    assert made.pieces == read.pieces == 600 and [o.key for o in read.operations] == [o.key for o in made.operations]
