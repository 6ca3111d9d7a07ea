"""What a piece teaches holds the form as that piece was bent on it, where its hours on the form were recorded."""


def up(migrator, db):
    db.execute_sql("ALTER TABLE taught ADD COLUMN built TEXT NOT NULL DEFAULT ''")


def down(migrator, db):
    db.execute_sql("ALTER TABLE taught DROP COLUMN built")
