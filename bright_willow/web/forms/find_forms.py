"""Forms that find something in a list: jobs, and measured pieces of the logbook."""

from __future__ import annotations

from collections.abc import Collection, Mapping, Sequence

from ...core.common.units import Unit
from ...core.methods.method_registry import WAYS
from ...store.records import LogbookQuery
from ...store.repositories.job_search import ORDERS, STATES, JobQuery
from .fields import Field
from .form_spec import FieldView, FormSpec

OUTCOMES = (("", "any"), ("teaches", "used for predictions"), ("left_out", "left out"), ("failed", "failed"))
PIECE_FINDING = FormSpec(
    (
        Field("q", "Find", "search", example="job, piece, note or wood", longest=80),
        Field("way", "method", "choice"),
        Field("outcome", "outcome", "choice", choices=OUTCOMES),
        Field("since", "measured from", "day"),
        Field("until", "to", "day"),
    ),
    prefix="b",
)
FIND_LABELS = {"way": "Method", "wood": "Wood", "state": "State", "tag": "Tag", "order": "Order"}


def job_finding(
    sought: JobQuery, methods: Collection[str], woods: Mapping[str, str], tags: Sequence[str]
) -> list[FieldView]:
    """Return the inputs that find jobs: only methods, woods and tags there are."""
    choices = {
        "way": (("", "any method"), *((w.key, w.name) for w in WAYS.values() if w.key in methods or not methods)),
        "wood": (("", "any wood"), *sorted(woods.items(), key=lambda w: w[1])),
        "state": (("", "any state"), *STATES.items()),
        "tag": (("", "any tag"), *((t, t) for t in tags)),
        "order": tuple(ORDERS.items()),
    }
    form = FormSpec(
        (
            Field("find", "Find by name", "search", example="find by name"),
            *(
                Field(name, FIND_LABELS[name], "choice", choices=c)
                for name, c in choices.items()
                if name != "tag" or tags
            ),
        ),
        prefix="find",
    )
    stands = {"find": sought.name, "way": sought.way, "wood": sought.wood, "state": sought.state, "tag": sought.tag}
    return list(form.inputs("mm", stands | {"order": sought.order}).values())


def piece_finding(
    sought: LogbookQuery, methods: Collection[str], typed: Mapping[str, str], faults: Mapping[str, str], unit: Unit
) -> list[FieldView]:
    """Return the inputs that find measured pieces: only methods there are."""
    ways = (("", "any method"), *((k, w.name) for k, w in WAYS.items() if k in methods))
    form = PIECE_FINDING.choosing(way=ways)
    stands = {"q": sought.words, "way": sought.way, "outcome": sought.outcome}
    return list(form.inputs(unit, stands, typed, faults).values())
