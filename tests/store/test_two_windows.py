"""Two windows on one job, in any order of looking, changing, undoing: nobody's change is lost unsaid."""

import tempfile
from pathlib import Path

from hypothesis import settings
from hypothesis import strategies as st
from hypothesis.stateful import RuleBasedStateMachine, initialize, invariant, rule

from bright_willow.core.plan.read_job import read_job
from bright_willow.store.store import Store
from tests.conftest import RIB
from tests.searching import examples

FIELDS = ("width_mm", "count", "trim_mm")


class TwoWindows(RuleBasedStateMachine):
    """A model of what stands: each field as it was last changed and acknowledged."""

    @initialize()
    def open_both(self):
        self.folder = tempfile.TemporaryDirectory()
        self.store = Store(Path(self.folder.name))
        with self.store.connected():
            self.id = self.store.jobs.add(read_job(RIB))
            state = self.store.jobs.get(self.id)
        self.stands = {state.revision: self.part(state.job)}
        self.now = state.revision
        self.seen = [state.revision, state.revision]
        self.parents = {state.revision: None}

    @staticmethod
    def part(job):
        return {name: getattr(job.part, name) for name in FIELDS}

    def after(self, changed):
        state = self.store.jobs.get(self.id)
        if changed:
            self.parents[state.revision] = self.now
        self.now = state.revision
        self.stands[self.now] = self.part(state.job)

    @rule(window=st.integers(0, 1))
    def look(self, window):
        self.seen[window] = self.now

    @rule(window=st.integers(0, 1), name=st.sampled_from(FIELDS), value=st.integers(20, 26))
    def change(self, window, name, value):
        base, before = self.stands[self.seen[window]], self.stands[self.now]
        with self.store.connected():
            job = self.store.jobs.revision(self.id, self.seen[window])
            mine = job.model_copy(
                update={"part": job.part.model_copy(update={name: type(getattr(job.part, name))(value)})}
            )
            kept = self.store.jobs.save_change(self.id, self.seen[window], mine, "changed")
            self.after(kept.changed)
        stands = self.stands[self.now]
        if base[name] != value and before[name] not in (base[name], value):
            assert kept.clashes == (f"part.{name}",) and stands[name] == before[name]  # said, and theirs stands
        elif base[name] != value:
            assert not kept.clashes and stands[name] == value
        for other in set(FIELDS) - {name}:
            assert stands[other] == before[other]  # what this window did not touch is never written back
        self.seen[window] = self.now

    @rule(window=st.integers(0, 1))
    def undo(self, window):
        before = self.now
        with self.store.connected():
            done = self.store.jobs.undo(self.id, self.seen[window])
            self.after(False)
        assert done == (self.seen[window] == before and self.parents[before] is not None)
        assert self.now == (self.parents[before] if done else before)
        self.seen[window] = self.now

    @invariant()
    def one_line_of_history(self):
        if not hasattr(self, "store"):
            return
        with self.store.connected():
            assert len({r.id for r in self.store.jobs.history(self.id)}) == self.store.jobs.revision_count(self.id)
            assert self.store.jobs.get(self.id).revision == self.now

    def teardown(self):
        if hasattr(self, "folder"):
            self.folder.cleanup()


TestTwoWindows = TwoWindows.TestCase
TestTwoWindows.settings = settings(max_examples=examples(12), stateful_step_count=12, deadline=None)
