"""A template as an SVG file in true mm."""

from __future__ import annotations

from html import escape

from ..core.form.parts import bulge_arc
from .svg import named, num, point, tag
from .template_lines import Chain, Template

_LOOK = {
    "FACE": ("#000000", 0.35),
    "RIB": ("#000000", 0.35),
    "SKIN": ("#35702f", 0.25),
    "BODY": ("#555555", 0.25),
    "HOLES": ("#24543f", 0.25),
    "MARKS": ("#a3362f", 0.25),
    "TEXT": ("#000000", 0.0),
    "BOARD": ("#555555", 0.35),
    "STRIP": ("#000000", 0.35),
    "KEPT": ("#35702f", 0.35),
    "FLAW": ("#a3362f", 0.5),
}


def _path(chain: Chain) -> str:
    data = "M" + point(*chain.points[0])
    for a, b, bulge in chain.arcs():
        if abs(bulge) < 1e-9:
            data += "L" + point(*b)
        else:
            _, radius, _, turn = bulge_arc(a, b, bulge)
            r = f"{radius:.4f}"
            data += f"A{r} {r} 0 0 {0 if turn > 0 else 1} {point(*b)}"
    return data + ("Z" if chain.closed else "")


def template_svg(template: Template, *, margin_mm: float = 5.0) -> str:
    """The whole file; width and height in mm, one user unit a millimetre, a group for each layer."""
    left, bottom, right, top = template.bounds()
    width, height = right - left + 2 * margin_mm, top - bottom + 2 * margin_mm
    groups: dict[str, list[str]] = {}
    for chain in template.chains:
        colour, stroke = _LOOK[chain.layer]
        groups.setdefault(chain.layer, []).append(
            tag(
                "path",
                d=_path(chain),
                fill="none",
                stroke=colour,
                stroke__width=stroke,
                stroke__dasharray="6 3" if chain.dashed else None,
            )
        )
    for words in template.words:
        turn = f"rotate({num(-words.angle_deg)} {point(words.x, words.y)})" if words.angle_deg else None
        groups.setdefault(words.layer, []).append(
            tag(
                "text",
                escape(words.text),
                x=num(words.x),
                y=num(-words.y),
                font__size=num(words.height_mm),
                font__family="sans-serif",
                text__anchor="middle" if words.middle else None,
                transform=turn,
            )
        )
    body = named(template.name) + "".join(tag("g", "".join(items), id=layer) for layer, items in groups.items())
    return '<?xml version="1.0" encoding="UTF-8"?>\n' + tag(
        "svg",
        body,
        xmlns="http://www.w3.org/2000/svg",
        width=f"{num(width)}mm",
        height=f"{num(height)}mm",
        viewBox=f"{num(left - margin_mm)} {num(-top - margin_mm)} {num(width)} {num(height)}",
    )
