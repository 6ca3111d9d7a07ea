"""What is done of each job, and which jobs are in the shop's week."""

from peewee import CharField, DateTimeField, ForeignKeyField, IntegerField, Model


def up(migrator, db):
    class Job(Model):
        class Meta:
            database, table_name = db, "job"

    class Done(Model):
        job = ForeignKeyField(Job, on_delete="CASCADE")
        key = CharField()
        number = IntegerField()
        from_at = DateTimeField()
        to_at = DateTimeField(null=True)

        class Meta:
            database, table_name = db, "done"
            indexes = ((("job", "key", "number"), True),)

    db.create_tables([Done])
    db.execute_sql("ALTER TABLE job ADD COLUMN in_week INTEGER NOT NULL DEFAULT 0")


def down(migrator, db):
    db.execute_sql('DROP TABLE "done"')
    db.execute_sql("ALTER TABLE job DROP COLUMN in_week")
