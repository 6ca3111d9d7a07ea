"""The rows kept in SQLite. Jobs and forms are JSON documents inside them; pieces and measurements are rows."""

from __future__ import annotations

from peewee import (
    BooleanField,
    CharField,
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


class Row(Model):
    """Base of all rows."""

    class Meta:
        database = database
        legacy_table_names = False


class ShopRow(Row):
    """The one shop."""

    body = TextField()

    class Meta:
        table_name = "shop"


class JobRow(Row):
    """A job: which of its revisions is current, and which stages are settled."""

    created = DateTimeField()
    archived = DateTimeField(null=True)
    current = IntegerField(null=True)
    settled = CharField(default="")

    class Meta:
        table_name = "job"


class RevisionRow(Row):
    """A job as it stood; never changed, never removed."""

    job = ForeignKeyField(JobRow, backref="revisions", on_delete="CASCADE")
    parent = ForeignKeyField("self", null=True, on_delete="SET NULL")
    at = DateTimeField()
    what = CharField()
    body = TextField()

    class Meta:
        table_name = "revision"


class FormRow(Row):
    """A form as it was built."""

    job = ForeignKeyField(JobRow, backref="forms", on_delete="CASCADE")
    at = DateTimeField()
    body = TextField()

    class Meta:
        table_name = "built_form"


class PieceRow(Row):
    """A piece that came off a form."""

    form = ForeignKeyField(FormRow, backref="pieces", on_delete="CASCADE")
    label = CharField()
    mishap = CharField(default="")
    left_out = BooleanField(default=False)
    note = TextField(default="")
    hand = CharField(default="")

    class Meta:
        table_name = "piece"


class MeasurementRow(Row):
    """Chord and rise of a piece on a day."""

    piece = ForeignKeyField(PieceRow, backref="measurements", on_delete="CASCADE")
    day = DateField()
    chord_mm = FloatField()
    rise_mm = FloatField()
    face = CharField()
    error_mm = FloatField()

    class Meta:
        table_name = "measurement"


class LotRow(Row):
    """A lot of boards on the rack."""

    name = CharField(unique=True)
    body = TextField()

    class Meta:
        table_name = "lot"


ALL = (ShopRow, LotRow, JobRow, RevisionRow, FormRow, PieceRow, MeasurementRow)
