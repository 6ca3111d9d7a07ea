"""The first tables: shop, jobs with their revisions, forms built, pieces, measurements."""

from peewee import (
    BooleanField,
    CharField,
    DateField,
    DateTimeField,
    FloatField,
    ForeignKeyField,
    IntegerField,
    Model,
    TextField,
)


def up(migrator, db):
    class Shop(Model):
        body = TextField()

        class Meta:
            database, table_name = db, "shop"

    class Job(Model):
        created = DateTimeField()
        archived = DateTimeField(null=True)
        current = IntegerField(null=True)
        settled = CharField(default="")

        class Meta:
            database, table_name = db, "job"

    class Revision(Model):
        job = ForeignKeyField(Job, on_delete="CASCADE")
        parent = ForeignKeyField("self", null=True, on_delete="SET NULL")
        at = DateTimeField()
        what = CharField()
        body = TextField()

        class Meta:
            database, table_name = db, "revision"

    class BuiltForm(Model):
        job = ForeignKeyField(Job, on_delete="CASCADE")
        at = DateTimeField()
        body = TextField()

        class Meta:
            database, table_name = db, "built_form"

    class Piece(Model):
        form = ForeignKeyField(BuiltForm, on_delete="CASCADE")
        label = CharField()
        mishap = CharField(default="")
        left_out = BooleanField(default=False)
        note = TextField(default="")

        class Meta:
            database, table_name = db, "piece"

    class Measurement(Model):
        piece = ForeignKeyField(Piece, on_delete="CASCADE")
        day = DateField()
        chord_mm = FloatField()
        rise_mm = FloatField()
        face = CharField()
        error_mm = FloatField()

        class Meta:
            database, table_name = db, "measurement"

    db.create_tables([Shop, Job, Revision, BuiltForm, Piece, Measurement])


def down(migrator, db):
    for table in ("measurement", "piece", "built_form", "revision", "job", "shop"):
        db.execute_sql(f'DROP TABLE "{table}"')
