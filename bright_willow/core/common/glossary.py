"""Trade terms in two sentences each, with a small drawing: one file for the page and for every question mark."""

from __future__ import annotations

import tomllib
from dataclasses import dataclass
from functools import cache
from importlib.resources import files


@dataclass(frozen=True, slots=True)
class Term:
    """A trade term. says: two sentences. drawing: SVG elements in a frame of 120 × 60. labels: what else it is called
    on pages, in lower case."""

    key: str
    name: str
    message: str
    drawing: str
    labels: tuple[str, ...]


@cache
def glossary() -> tuple[Term, ...]:
    """Return every term, by name."""
    data = tomllib.loads((files(__package__) / "data" / "glossary.toml").read_text("utf-8"))
    terms = (
        Term(
            key,
            row["name"],
            row["says"],
            data["drawing"][row["draws"]],
            tuple(label.lower() for label in (row["name"], *row.get("also", ()))),
        )
        for key, row in data["term"].items()
    )
    return tuple(sorted(terms, key=lambda t: t.name.lower().lstrip("% ")))


@cache
def _by_label() -> dict[str, Term]:
    return {label: term for term in glossary() for label in term.labels}


def term_of(label: str) -> Term | None:
    """Return the term a label of a field or figure names, in any case; None where it needs no explaining.

    >>> term_of("Springback, each end").name, term_of("How many")
    ('Springback', None)
    """
    return _by_label().get(label.strip().lower())


def terms_with(words: str) -> list[Term]:
    """Return the terms whose name or sentences hold every word, those named so first; all of them for no words.

    >>> [t.name for t in terms_with("resaw")], len(terms_with("")) == len(glossary())
    (['Resaw'], True)
    """
    asked = words.lower().split()
    found = [t for t in glossary() if all(w in f"{t.name} {t.message}".lower() for w in asked)]
    return sorted(found, key=lambda t: not all(w in t.name.lower() for w in asked))
