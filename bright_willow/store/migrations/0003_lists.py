"""What lists show is kept with each job, what a piece teaches with each piece; a shop knows what changed it."""

from peewee import ForeignKeyField, IntegerField, Model, TextField


def up(migrator, db):
    class Job(Model):
        class Meta:
            database, table_name = db, "job"

    class Piece(Model):
        class Meta:
            database, table_name = db, "piece"

    class JobLine(Model):
        job = ForeignKeyField(Job, primary_key=True, on_delete="CASCADE")
        revision = IntegerField()
        mark = TextField()
        lot = TextField(default="", index=True)
        boards = IntegerField(default=0)
        body = TextField()

        class Meta:
            database, table_name = db, "job_line"

    class Taught(Model):
        piece = ForeignKeyField(Piece, primary_key=True, on_delete="CASCADE")
        body = TextField()

        class Meta:
            database, table_name = db, "taught"

    class Fact(Model):
        key = TextField(primary_key=True)
        value = TextField()

        class Meta:
            database, table_name = db, "meta"

    db.create_tables([JobLine, Taught, Fact])
    for name in ("way", "stock_group"):
        db.execute_sql(f"ALTER TABLE built_form ADD COLUMN {name} VARCHAR(255) NOT NULL DEFAULT ''")
    db.execute_sql(
        "UPDATE built_form SET way = coalesce(json_extract(body, '$.way'), 'cold_lamination'),"
        " stock_group = coalesce(json_extract(body, '$.group'), '') WHERE json_valid(body)"
    )
    db.execute_sql("ALTER TABLE built_form ADD COLUMN mean_curvature REAL")
    db.execute_sql(
        "UPDATE built_form SET mean_curvature = (SELECT sum(l.value * k.value) / sum(l.value)"
        " FROM json_each(body, '$.lengths_mm') l JOIN json_each(body, '$.form_curvature') k ON k.key = l.key)"
        " WHERE json_valid(body)"
    )
    db.execute_sql("ALTER TABLE job ADD COLUMN name VARCHAR(255) NOT NULL DEFAULT ''")
    db.execute_sql("ALTER TABLE job ADD COLUMN changed DATETIME")
    db.execute_sql(
        "UPDATE job SET changed = (SELECT at FROM revision r WHERE r.id = job.current),"
        " name = coalesce((SELECT CASE WHEN json_valid(r.body) THEN json_extract(r.body, '$.name') END"
        " FROM revision r WHERE r.id = job.current), '')"
    )
    db.execute_sql("CREATE INDEX job_changed ON job (archived, changed)")


def down(migrator, db):
    db.execute_sql("DROP INDEX job_changed")
    for column in ("changed", "name"):
        db.execute_sql(f"ALTER TABLE job DROP COLUMN {column}")
    for column in ("mean_curvature", "stock_group", "way"):
        db.execute_sql(f"ALTER TABLE built_form DROP COLUMN {column}")
    for table in ("meta", "taught", "job_line"):
        db.execute_sql(f'DROP TABLE "{table}"')
