"""Two changes made on the same thing, joined: what only one of them changed is taken, what both changed is named."""

from __future__ import annotations

from typing import Any


def joined(base: Any, mine: Any, theirs: Any, name: str = "") -> tuple[Any, list[str]]:
    """A document changed twice from the same beginning: plain data, as model_dump() gives it.

    Returns the joined data, and the dotted names of fields both changed differently; theirs stands there. A thing
    whose kind one of them changed, and a list whose length one of them changed, is one field.

    >>> joined({"a": 1, "b": 2}, {"a": 5, "b": 2}, {"a": 1, "b": 7})
    ({'a': 5, 'b': 7}, [])
    >>> joined({"a": 1}, {"a": 5}, {"a": 7})
    ({'a': 7}, ['a'])
    """
    if mine in (theirs, base):
        return theirs, []
    if theirs == base:
        return mine, []
    parts = _parts(base, mine, theirs)
    if parts is None:
        return theirs, [name]
    made, clashes = {}, []
    for part in parts:
        own = f"{name}.{part}" if name else str(part)
        made[part], found = joined(base[part], mine[part], theirs[part], own)
        clashes += found
    return (made if isinstance(base, dict) else type(theirs)(made.values())), clashes


def _parts(base: Any, mine: Any, theirs: Any) -> list[Any] | None:
    """What three versions of one thing are all made of; None where they are not made alike."""
    if all(isinstance(x, dict) for x in (base, mine, theirs)):
        alike = base.keys() == mine.keys() == theirs.keys() and base.get("kind") == mine.get("kind") == theirs.get(
            "kind"
        )
        return list(base) if alike else None
    if all(isinstance(x, list | tuple) for x in (base, mine, theirs)):
        alike = len(base) == len(mine) == len(theirs) and all(isinstance(x, dict) for x in base)
        return list(range(len(base))) if alike else None
    return None
