"""What can be seen on a piece, as small drawings of our own: the same bent strip, with what went wrong marked."""

from __future__ import annotations

from .svg import named, tag

WIDE, HIGH = 120, 74
STRIP = "M12 62C16 14 104 14 108 62L96 62C92 30 28 30 24 62Z"
OUTER, INNER = "M12 62C16 14 104 14 108 62", "M24 62C28 30 92 30 96 62"
MID = "M18 62C22 22 98 22 102 62"
WANTED = "M20 66C24 20 96 20 100 66"
MARKS: dict[str, tuple[tuple[str, str], ...]] = {
    "splinter": (("mark", "M44 29L40 20M52 26L50 15M60 25L61 13M69 26L73 16"),),
    "across": (("mark", "M60 24L55 30L62 34L57 39"),),
    "along": (("mark", "M36 40C48 30 66 29 84 36"),),
    "wrinkle": (("mark", "M46 40L48 35L51 40L54 34L57 40L60 34L63 40L66 34L69 40L72 35L74 40"),),
    "checks": (("mark", "M26 50L33 40M40 36L52 32M60 31L74 33M80 37L88 47"),),
    "stop": (("thing", "M0 60L12 60L12 70L0 70Z"), ("mark", "M16 66L26 66M16 70L30 70")),
    "kink": (("mark", "M22 44L34 32M30 24L24 36"), ("thin", "M24 40A9 9 0 1 0 42 34A9 9 0 1 0 24 40")),
    "flats": (("mark", "M30 35L48 27L70 27L90 35"),),
    "ends_back": (("mark", "M12 62C8 66 6 70 10 73M108 62C112 66 114 70 110 73"),),
    "stiff": (("thin", WANTED), ("mark", "M60 8L60 20M55 14L60 20L65 14")),
    "opens": (("thin", WANTED), ("mark", "M10 66L2 66M6 63L2 66L6 69M110 66L118 66M114 63L118 66L114 69")),
    "closes": (("thin", WANTED), ("mark", "M2 66L10 66M6 63L10 66L6 69M118 66L110 66M114 63L110 66L114 69")),
    "one_end": (("thin", WANTED), ("mark", "M110 66L118 66M114 63L118 66L114 69")),
    "twist": (("mark", "M12 62L24 72M96 72L108 62M20 70C40 60 80 76 100 64"),),
    "cup": (("thing", "M44 70C52 62 68 62 76 70L76 73C68 66 52 66 44 73Z"), ("mark", "M44 58L44 66M76 58L76 66")),
    "ends_straight": (("mark", "M18 62L24 44M102 62L96 44"),),
    "gap_middle": (("gap", "M50 28C56 25 64 25 70 28C64 30 56 30 50 28Z"),),
    "gap_ends": (("gap", "M18 62C18 54 20 48 23 43C23 50 22 56 22 62ZM102 62C102 54 100 48 97 43C97 50 98 56 98 62Z"),),
    "gap_edges": (("gap", "M34 35L40 31L46 33L38 37Z"), ("gap", "M86 35L80 31L74 33L82 37Z")),
    "open_line": (("gap", "M40 32C56 22 66 24 84 33C66 28 56 28 40 32Z"),),
    "starved": (("mark", "M36 38L40 35M46 32L51 30M58 29L64 29M70 30L75 32M82 36L86 40"),),
    "slip": (("thing", "M20 66L100 66L106 71L26 71Z"), ("mark", "M44 60L76 60M71 57L76 60L71 63")),
    "stain": (("blot", "M48 27C54 20 66 22 68 28C66 36 52 36 48 27Z"),),
    "stuck": (("thing", "M24 62C28 30 92 30 96 62L96 73L24 73Z"), ("mark", "M52 36L56 42M60 35L60 42M68 36L64 42")),
    "will_not_close": (
        ("thing", "M24 62C28 36 92 36 96 62L96 73L24 73Z"),
        ("thing", "M20 44C30 8 90 8 100 44L100 2L20 2Z"),
    ),
    "bag": (("thin", "M4 70C8 4 112 4 116 70"), ("mark", "M98 18L104 10M102 22L111 17M105 27L115 26")),
}  # fmt: skip


def symptom_svg(key: str, name: str) -> str:
    """A symptom's small drawing. Raises: KeyError for one there is not."""
    parts = [named(name), tag("path", d=STRIP, class_="strip-shape"), tag("path", d=MID, class_="thin")]
    parts += [tag("path", d=d, class_=look) for look, d in MARKS[key]]
    return tag("svg", "".join(parts), viewBox=f"0 0 {WIDE} {HIGH}", class_="symptom", role="img")
