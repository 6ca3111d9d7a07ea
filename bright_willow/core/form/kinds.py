"""Kinds of form, and how each can be built: one table each, with what it needs."""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True, slots=True)
class FormKind:
    """One kind of form. has_opposite: whether other parts press from the far side."""

    key: str
    name: str
    message: str
    has_opposite: bool
    needs: tuple[str, ...]


KINDS: dict[str, FormKind] = {
    k.key: k
    for k in (
        FormKind(
            "one_sided",
            "single form",
            "One face; the other side is free for clamps, a band or a bag.",
            False,
            ("cauls to spread the clamps, as long as the layup is wide", "wax, film or tape on the face"),
        ),
        FormKind(
            "two_part",
            "matched form",
            "Two halves that close on the layup. The outer half is offset by its thickness, not the same curve.",
            True,
            ("clamps or bolts that draw the halves together", "film on both faces", "register blocks on both sides"),
        ),
        FormKind(
            "three_part",
            "three-piece form",
            "A base, a middle caul, and two side cauls for the legs.",
            True,
            (
                "clamps in three directions",
                "film on all faces",
                "register blocks",
                "clamp the middle first, then the sides",
            ),
        ),
        FormKind(
            "ring",
            "round form",
            "A round form the plies go around, pulled tight by a band.",
            False,
            (
                "a band clamp longer than once around",
                "film on the round form",
                "a slot or a loose part to free the ring",
            ),
        ),
        FormKind(
            "posts",
            "bending table with brackets",
            "Brackets along the curve on a table; the layup is pulled against them and clamped at each.",
            False,
            ("a flat table larger than the curve", "a batten or thick strip against the brackets", "film on the table"),
        ),
        FormKind(
            "in_place",
            "in place, against a finished part",
            "Strip by strip against the finished part, each fixed before the next.",
            False,
            ("the finished part, held still", "film on it", "clamps or pins for every strip", "a stop at the middle"),
        ),
    )
}

BUILDS: dict[str, tuple[str, str]] = {
    "stack": ("stack of sheet layers", "Layers of sheet material, each copied from a perfect first one."),
    "ribs": ("ribs with a skin", "Ribs on a platform with a bent skin over them: light, for wide work."),
    "solid": ("solid block", "One block sawn to the line."),
    "sawn_sides": ("sawn sides with spacers", "Two sides sawn to the line, spacers between, slats over them."),
}
