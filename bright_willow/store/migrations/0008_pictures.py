"""Pictures of jobs and pieces with what is marked on them; how a measurement was read; what becomes of a piece; whose
a form is."""

TABLES = (
    "CREATE TABLE picture (id INTEGER PRIMARY KEY AUTOINCREMENT,"
    " job_id INTEGER NOT NULL REFERENCES job (id) ON DELETE CASCADE,"
    " piece_id INTEGER REFERENCES piece (id) ON DELETE SET NULL, at DATETIME NOT NULL,"
    " note VARCHAR(255) NOT NULL DEFAULT '', wide INTEGER NOT NULL, high INTEGER NOT NULL,"
    " body BLOB NOT NULL, marks TEXT NOT NULL DEFAULT '')",
    "CREATE INDEX picture_job ON picture (job_id)",
    "CREATE INDEX picture_piece ON picture (piece_id)",
    "ALTER TABLE measurement ADD COLUMN readings TEXT NOT NULL DEFAULT ''",
    "ALTER TABLE piece ADD COLUMN verdict VARCHAR(255) NOT NULL DEFAULT ''",
    "ALTER TABLE piece ADD COLUMN correction VARCHAR(255) NOT NULL DEFAULT ''",
    "ALTER TABLE piece ADD COLUMN corrected_in INTEGER",
    "ALTER TABLE taught ADD COLUMN later TEXT NOT NULL DEFAULT ''",
    # what was measured again teaches anew, how it settled too
    "DELETE FROM taught WHERE piece_id IN (SELECT piece_id FROM measurement GROUP BY piece_id HAVING COUNT(*) > 1)",
    "DELETE FROM meta WHERE key = 'taught'",
    "ALTER TABLE built_form ADD COLUMN origin VARCHAR(255) NOT NULL DEFAULT ''",
)


def up(migrator, db):
    for statement in TABLES:
        db.execute_sql(statement)


def down(migrator, db):
    db.execute_sql("DROP TABLE picture")
    for table, column in (
        ("taught", "later"),
        ("measurement", "readings"),
        ("piece", "verdict"),
        ("piece", "correction"),
        ("piece", "corrected_in"),
        ("built_form", "origin"),
    ):
        db.execute_sql(f"ALTER TABLE {table} DROP COLUMN {column}")
