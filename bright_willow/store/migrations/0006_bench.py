"""Runs at the bench with what happened in them, photos, probes with their readings, tablets that have joined."""

KEPT_FOR_GOOD = ("brief", "event")
TABLES = (
    "CREATE TABLE run (id INTEGER PRIMARY KEY, job_id INTEGER NOT NULL REFERENCES job (id), kind VARCHAR(255) NOT NULL,"
    " at DATETIME NOT NULL, ended DATETIME, watched REAL NOT NULL DEFAULT 0)",
    "CREATE INDEX run_job ON run (job_id)",
    "CREATE TABLE brief (id INTEGER PRIMARY KEY, run_id INTEGER NOT NULL REFERENCES run (id), at DATETIME NOT NULL,"
    " revision INTEGER NOT NULL, body TEXT NOT NULL)",
    "CREATE INDEX brief_run ON brief (run_id)",
    "CREATE TABLE event (id INTEGER PRIMARY KEY, run_id INTEGER NOT NULL REFERENCES run (id), wall_s REAL NOT NULL,"
    " at_s REAL NOT NULL, kind VARCHAR(255) NOT NULL, client VARCHAR(255) NOT NULL, body TEXT NOT NULL DEFAULT '')",
    "CREATE UNIQUE INDEX event_once ON event (run_id, client)",
    "CREATE TABLE photo (id INTEGER PRIMARY KEY, run_id INTEGER NOT NULL REFERENCES run (id),"
    " client VARCHAR(255) NOT NULL, piece INTEGER NOT NULL DEFAULT -1, at_s REAL NOT NULL, body BLOB NOT NULL)",
    "CREATE UNIQUE INDEX photo_once ON photo (run_id, client)",
    "CREATE TABLE probe (id INTEGER PRIMARY KEY, name VARCHAR(255) NOT NULL, kind VARCHAR(255) NOT NULL,"
    " key_hash VARCHAR(255) NOT NULL UNIQUE, at DATETIME NOT NULL, gone DATETIME)",
    "CREATE TABLE reading (probe INTEGER NOT NULL, at REAL NOT NULL, value REAL NOT NULL, PRIMARY KEY (probe, at))"
    " WITHOUT ROWID",
    "CREATE TABLE guest (id INTEGER PRIMARY KEY, token VARCHAR(255) NOT NULL UNIQUE, name VARCHAR(255) NOT NULL,"
    " at DATETIME NOT NULL, seen DATETIME NOT NULL, put_out DATETIME)",
    "ALTER TABLE piece ADD COLUMN run INTEGER",
    "ALTER TABLE piece ADD COLUMN number INTEGER",
)


def up(migrator, db):
    for statement in TABLES:
        db.execute_sql(statement)
    for table in KEPT_FOR_GOOD:
        for what in ("UPDATE", "DELETE"):
            db.execute_sql(
                f"CREATE TRIGGER {table}_no_{what.lower()} BEFORE {what} ON {table}"
                f" BEGIN SELECT RAISE(ABORT, 'what happened at the bench is never changed'); END"
            )


def down(migrator, db):
    for table in ("guest", "reading", "probe", "photo", "event", "brief", "run"):
        db.execute_sql(f"DROP TABLE {table}")
    db.execute_sql("ALTER TABLE piece DROP COLUMN run")
    db.execute_sql("ALTER TABLE piece DROP COLUMN number")
