"""Trials of a job's stock."""


def up(migrator, db):
    db.execute_sql(
        "CREATE TABLE trial (id INTEGER PRIMARY KEY, job_id INTEGER NOT NULL REFERENCES job (id),"
        " at DATETIME NOT NULL, body TEXT NOT NULL)"
    )
    db.execute_sql("CREATE INDEX trial_job ON trial (job_id)")


def down(migrator, db):
    db.execute_sql("DROP TABLE trial")
