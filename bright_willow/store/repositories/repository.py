"""What every repository has: the open database of the shop."""

from __future__ import annotations

from ..database import Database


class Repository:
    """Reads and writes the documents of one kind. It returns documents, never rows, and calls no other repository."""

    def __init__(self, database: Database) -> None:
        self.database = database
