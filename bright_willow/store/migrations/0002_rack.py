"""The rack of lots; pieces know which hand they are, and may have failed before they could be measured."""

from peewee import CharField, Model, TextField


def up(migrator, db):
    class Lot(Model):
        name = CharField(unique=True)
        body = TextField()

        class Meta:
            database, table_name = db, "lot"

    db.create_tables([Lot])
    db.execute_sql("ALTER TABLE piece ADD COLUMN hand VARCHAR(255) NOT NULL DEFAULT ''")


def down(migrator, db):
    db.execute_sql('DROP TABLE "lot"')
    db.execute_sql("ALTER TABLE piece DROP COLUMN hand")
