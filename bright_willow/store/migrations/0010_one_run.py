"""One run of a job is under way at the bench at a time; tablets that have joined are kept beside this file."""


def up(migrator, db):
    db.execute_sql(
        "UPDATE run SET ended = at WHERE kind = 'run' AND ended IS NULL AND id NOT IN"
        " (SELECT MAX(id) FROM run WHERE kind = 'run' AND ended IS NULL GROUP BY job_id)"
    )
    db.execute_sql("CREATE UNIQUE INDEX run_open ON run (job_id) WHERE kind = 'run' AND ended IS NULL")
    db.execute_sql("DROP TABLE guest")


def down(migrator, db):
    db.execute_sql("DROP INDEX run_open")
    db.execute_sql(
        "CREATE TABLE guest (id INTEGER PRIMARY KEY, token VARCHAR(255) NOT NULL UNIQUE, name VARCHAR(255) NOT NULL,"
        " at DATETIME NOT NULL, seen DATETIME NOT NULL, put_out DATETIME)"
    )
