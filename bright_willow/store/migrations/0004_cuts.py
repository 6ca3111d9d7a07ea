"""Boards cut for a job: what was taken off the rack and what went back to it."""

from peewee import DateTimeField, ForeignKeyField, Model, TextField


def up(migrator, db):
    class Job(Model):
        class Meta:
            database, table_name = db, "job"

    class Cut(Model):
        job = ForeignKeyField(Job, on_delete="CASCADE")
        at = DateTimeField()
        taken_back = DateTimeField(null=True)
        body = TextField()

        class Meta:
            database, table_name = db, "cut"

    db.create_tables([Cut])


def down(migrator, db):
    db.execute_sql('DROP TABLE "cut"')
