"""Presets of the shop: jobs to begin others from."""


def up(migrator, db):
    db.execute_sql(
        "CREATE TABLE preset (id INTEGER PRIMARY KEY, name VARCHAR(255) NOT NULL, at DATETIME NOT NULL,"
        " body TEXT NOT NULL)"
    )


def down(migrator, db):
    db.execute_sql("DROP TABLE preset")
