"""Kinds of form, and how each can be built: one table each, with what it needs."""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True, slots=True)
class FormKind:
    """One kind of form. has_opposite: whether other parts press from the far side."""

    key: str
    name: str
    says: str
    has_opposite: bool
    needs: tuple[str, ...]


KINDS: dict[str, FormKind] = {
    k.key: k
    for k in (
        FormKind(
            "one_sided",
            "one-sided",
            "One face; the far side is free for clamps, a band or a bag.",
            False,
            ("cauls to spread the clamps, as long as the lay-up is wide", "wax, film or tape on the face"),
        ),
        FormKind(
            "two_part",
            "two-part",
            "Two halves that close on the lay-up; the far half is its own parallel, never the same curve again.",
            True,
            ("clamps or bolts that draw the halves together", "film on both faces", "register blocks on both sides"),
        ),
        FormKind(
            "three_part",
            "three-part",
            "A base, a presser over the middle, and two side pressers for the legs.",
            True,
            ("clamps in three directions", "film on all faces", "register blocks", "the middle first, then the sides"),
        ),
        FormKind(
            "ring",
            "ring or drum",
            "A drum the layers run round, drawn up by a band.",
            False,
            ("a band clamp longer than once around", "film on the drum", "a slot or a loose part to free the ring"),
        ),
        FormKind(
            "posts",
            "posts and brackets on a table",
            "Posts stand along the curve on a table; the lay-up is drawn to them and clamped at each.",
            False,
            ("a flat table larger than the curve", "a batten or thick lamina against the posts", "film on the table"),
        ),
        FormKind(
            "in_place",
            "in place, against a finished part",
            "Lamina by lamina against the part it belongs to, each fixed before the next.",
            False,
            ("the finished part, held still", "film on it", "clamps or pins for every lamina", "a stop at the middle"),
        ),
    )
}

BUILDS: dict[str, tuple[str, str]] = {
    "stack": ("stack of sheet layers", "Layers of sheet goods, each copied from the first perfect one."),
    "ribs": ("ribs with a skin", "Ribs on a platform, a bending skin over them: light, for wide work."),
    "solid": ("solid block", "One block sawn to the line."),
    "sawn_sides": ("sawn sides with spacers", "Two sides sawn to the line, spacers between, slats over them."),
}
