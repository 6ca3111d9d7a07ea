"""The rows kept in SQLite. Jobs and forms are JSON documents inside them; pieces and measurements are rows."""

from __future__ import annotations

from peewee import (
    BlobField,
    BooleanField,
    CharField,
    CompositeKey,
    DatabaseProxy,
    DateField,
    DateTimeField,
    FloatField,
    ForeignKeyField,
    IntegerField,
    Model,
    TextField,
)

database = DatabaseProxy()


class BaseRow(Model):
    """Base of all rows."""

    class Meta:
        database = database
        legacy_table_names = False


class ShopRow(BaseRow):
    """The one shop."""

    body = TextField()

    class Meta:
        table_name = "shop"


class JobRow(BaseRow):
    """A job: which of its revisions is current, and which stages are settled."""

    created = DateTimeField()
    archived = DateTimeField(null=True)
    current = IntegerField(null=True)
    settled = CharField(default="")
    name = CharField(default="")  # as its current revision has it, for lists
    changed = DateTimeField(null=True)
    in_week = BooleanField(default=False)  # as its current revision has it

    class Meta:
        table_name = "job"


class RevisionRow(BaseRow):
    """A job as it stood; never changed, never removed."""

    job = ForeignKeyField(JobRow, backref="revisions", on_delete="CASCADE")
    parent = ForeignKeyField("self", null=True, on_delete="SET NULL")
    at = DateTimeField()
    what = CharField()
    body = TextField()

    class Meta:
        table_name = "revision"


class FormRow(BaseRow):
    """A form as it was built."""

    job = ForeignKeyField(JobRow, backref="forms", on_delete="CASCADE")
    at = DateTimeField()
    body = TextField()
    way = CharField(default="")  # as its body has them, for sums over all forms
    stock_group = CharField(default="")
    mean_curvature = FloatField(null=True)  # 1/mm, on the form, over its whole length
    origin = CharField(default="")  # the shop it was brought from; empty: this one's own

    class Meta:
        table_name = "built_form"


class PieceRow(BaseRow):
    """A piece that came off a form."""

    form = ForeignKeyField(FormRow, backref="pieces", on_delete="CASCADE")
    label = CharField()
    mishap = CharField(default="")
    left_out = BooleanField(default=False)
    note = TextField(default="")
    hand = CharField(default="")
    run = IntegerField(null=True)  # which piece of which run at the bench it was, from 0
    number = IntegerField(null=True)
    verdict = CharField(default="")  # kept, to be corrected, rejected; empty: not said
    correction = CharField(default="")  # how it is corrected
    corrected_in = IntegerField(null=True)  # the job that was made for it

    class Meta:
        table_name = "piece"


class MeasurementRow(BaseRow):
    """Chord and rise of a piece on a day."""

    piece = ForeignKeyField(PieceRow, backref="measurements", on_delete="CASCADE")
    day = DateField()
    chord_mm = FloatField()
    rise_mm = FloatField()
    face = CharField()
    error_mm = FloatField()
    readings = TextField(default="")  # how it was read, where otherwise than by chord and rise: JSON

    class Meta:
        table_name = "measurement"


class PresetRow(BaseRow):
    """A job kept to begin others from."""

    name = CharField()
    at = DateTimeField()
    body = TextField()

    class Meta:
        table_name = "preset"


class LotRow(BaseRow):
    """A lot of boards on the rack."""

    name = CharField(unique=True)
    body = TextField()

    class Meta:
        table_name = "lot"


class CutRow(BaseRow):
    """Boards cut for a job: what was taken off the rack and what went back to it, until it is taken back."""

    job = ForeignKeyField(JobRow, backref="cuts", on_delete="CASCADE")
    at = DateTimeField()
    taken_back = DateTimeField(null=True)
    body = TextField()

    class Meta:
        table_name = "cut"


class JobLineRow(BaseRow):
    """What lists show of a job, worked out from its plan; `revision` and `mark` say what it was worked out from."""

    job = ForeignKeyField(JobRow, primary_key=True, on_delete="CASCADE")
    revision = IntegerField()
    mark = TextField()
    lot = TextField(default="")
    boards = IntegerField(default=0)
    body = TextField()

    class Meta:
        table_name = "job_line"


class TaughtRow(BaseRow):
    """What a measured piece teaches, worked out from its form, its run and its measurements."""

    piece = ForeignKeyField(PieceRow, primary_key=True, on_delete="CASCADE")
    body = TextField()
    later = TextField(default="")  # what it gave up since, where it was measured again: JSON
    built = TextField(default="")  # the form as it was bent on it, where its hours there were recorded: JSON

    class Meta:
        table_name = "taught"


class DoneRow(BaseRow):
    """An operation of a job's piece or load (−1: of the job) that was begun, and when it ended. UTC."""

    job = ForeignKeyField(JobRow, backref="done", on_delete="CASCADE")
    key = CharField()
    number = IntegerField()
    from_at = DateTimeField()
    to_at = DateTimeField(null=True)

    class Meta:
        table_name = "done"
        indexes = ((("job", "key", "number"), True),)


class RunRow(BaseRow):
    """A run at the bench: started, rehearsed or played. ended: while it is put away; watched: when a page last was."""

    job = ForeignKeyField(JobRow, backref="runs")
    kind = CharField()
    at = DateTimeField()
    ended = DateTimeField(null=True)
    watched = FloatField(default=0.0)  # of a game, seconds since 1970

    class Meta:
        table_name = "run"


class BriefRow(BaseRow):
    """The plan a run goes by; a later one where it went over to another. Never changed, never removed."""

    run = ForeignKeyField(RunRow, backref="briefs")
    at = DateTimeField()
    revision = IntegerField()
    body = TextField()

    class Meta:
        table_name = "brief"


class EventRow(BaseRow):
    """What happened in a run. Never changed, never removed. client: its own name, once in a run."""

    run = ForeignKeyField(RunRow, backref="events")
    wall_s = FloatField()
    at_s = FloatField()
    kind = CharField()
    client = CharField()
    body = TextField(default="")  # what else there is of it

    class Meta:
        table_name = "event"
        indexes = ((("run", "client"), True),)


class PhotoRow(BaseRow):
    """A picture taken at the bench, made small, with nothing of where."""

    run = ForeignKeyField(RunRow, backref="photos")
    client = CharField()
    piece = IntegerField(default=-1)
    at_s = FloatField()
    body = BlobField()

    class Meta:
        table_name = "photo"
        indexes = ((("run", "client"), True),)


class PictureRow(BaseRow):
    """A picture of a job or of one of its pieces, made anew with nothing of where, and what is marked on it (JSON)."""

    job = ForeignKeyField(JobRow, backref="pictures", on_delete="CASCADE")
    piece = ForeignKeyField(PieceRow, backref="pictures", null=True, on_delete="SET NULL")
    at = DateTimeField()
    note = CharField(default="")
    wide = IntegerField()
    high = IntegerField()
    body = BlobField()
    marks = TextField(default="")

    class Meta:
        table_name = "picture"


class TrialRow(BaseRow):
    """A trial of a job's stock, as a JSON document."""

    job = ForeignKeyField(JobRow, backref="trials")
    at = DateTimeField()
    body = TextField()

    class Meta:
        table_name = "trial"


class ProbeRow(BaseRow):
    """A probe that may send readings: what it measures, and what its key hashes to."""

    name = CharField()
    kind = CharField()
    key_hash = CharField(unique=True)
    at = DateTimeField()
    gone = DateTimeField(null=True)

    class Meta:
        table_name = "probe"


class ReadingRow(BaseRow):
    """One reading: seconds since 1970, in the unit of its kind."""

    probe = IntegerField()
    at = FloatField()
    value = FloatField()

    class Meta:
        table_name = "reading"
        primary_key = CompositeKey("probe", "at")
        without_rowid = True


class MetaRow(BaseRow):
    """Small facts of the whole: who filled it, how often the book has changed."""

    key = TextField(primary_key=True)
    value = TextField()

    class Meta:
        table_name = "meta"


ALL = (
    ShopRow,
    LotRow,
    JobRow,
    RevisionRow,
    FormRow,
    PieceRow,
    MeasurementRow,
    CutRow,
    DoneRow,
    JobLineRow,
    TaughtRow,
    RunRow,
    BriefRow,
    EventRow,
    PhotoRow,
    PictureRow,
    TrialRow,
    ProbeRow,
    ReadingRow,
    PresetRow,
    MetaRow,
)
