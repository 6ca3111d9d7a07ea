"""Presets of the shop in the store: jobs to begin others from."""

from __future__ import annotations

from dataclasses import dataclass

from pydantic import ValidationError

from ...core.job.job import Job
from ...core.job.schedule_choice import Days
from ..database import now
from ..records import NotFound
from ..tables import PresetRow
from .repository import Repository

MOST_PRESETS = 100


@dataclass(frozen=True)
class Preset:
    """A job kept to begin others from; job: none where it can no longer be read."""

    id: int
    name: str
    job: Job | None


class PresetRepository(Repository):
    """The shop's presets."""

    def find(self) -> list[Preset]:
        """Return every preset, the newest first."""
        rows = PresetRow.select().order_by(PresetRow.id.desc()).limit(MOST_PRESETS)
        return [_preset(row) for row in rows]

    def get(self, preset_id: int) -> Preset:
        """Return one preset. Raises: NotFound."""
        row = PresetRow.get_or_none(PresetRow.id == preset_id)
        if row is None:
            raise NotFound("There is no such preset.")
        return _preset(row)

    def add(self, job: Job) -> bool:
        """Save a job as a preset, without its place in the schedule. Returns if there was room. Raises: NotKept."""
        kept = job.model_copy(update={"days": Days()})
        with self.database.writing():
            if PresetRow.select().count() >= MOST_PRESETS:
                return False
            PresetRow.create(name=job.name, at=now(), body=kept.model_dump_json())
        return True

    def rename(self, preset_id: int, name: str) -> None:
        """Give a preset another name; jobs begun from it later have it too. Raises: NotFound, NotKept."""
        with self.database.writing():
            preset = self.get(preset_id)
            body = {"body": preset.job.model_copy(update={"name": name}).model_dump_json()} if preset.job else {}
            PresetRow.update(name=name, **body).where(PresetRow.id == preset_id).execute()

    def remove(self, preset_id: int) -> None:
        """Remove a preset; jobs begun from it stay. Raises: NotFound, NotKept."""
        with self.database.writing():
            if not PresetRow.delete().where(PresetRow.id == preset_id).execute():
                raise NotFound("There is no such preset.")


def _preset(row: PresetRow) -> Preset:
    try:
        return Preset(row.id, row.name, Job.model_validate_json(row.body))
    except ValidationError:
        return Preset(row.id, row.name, None)
