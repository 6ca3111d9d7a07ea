"""What lies on what: a section from below upwards, every layer with its name; thin ones as lines."""

from __future__ import annotations

from ..core.common.units import Unit, format_length
from ..core.gluing.stack_section import Section, StackLayer
from .canvas import WIDTH_PX, Canvas, Frame
from .svg import named, num, tag

HEIGHT_PX = 440.0
TOP_PX, FOOT_PX, LEFT_PX, BAND_PX = 62.0, 24.0, 40.0, 250.0
THIN_PX, LEAST_PX, MOST_PX, ROW_PX = 4.0, 12.0, 70.0, 15.0
MOST_ROWS = 22


def section_svg(section: Section, unit: Unit) -> str:
    """The section; many laminae alike are drawn together and counted."""
    rows = _rows(section.layers)
    canvas = Canvas(Frame(0.0, HEIGHT_PX, WIDTH_PX, HEIGHT_PX))
    heights = _heights(rows)
    room = HEIGHT_PX - TOP_PX - FOOT_PX
    scale = min(1.0, room / sum(heights))
    y = FOOT_PX + (room - sum(heights) * scale) / 2
    names, spots = [], []
    for (layer, count), high in zip(rows, heights, strict=True):
        high *= scale
        size = {"x": num(LEFT_PX), "y": num(-y - high), "width": num(BAND_PX), "height": num(high)}
        canvas.parts.append(tag("rect", named(layer.name), class_=f"lies lies-{layer.of}", **size))
        for i in range(1, count):
            at = y + high * i / count
            canvas.parts.append(canvas.line(LEFT_PX, at, LEFT_PX + BAND_PX, at, "glue"))
        names.append(_said(layer, count, unit))
        spots.append(y + high / 2)
        y += high
    for text, spot, at in zip(names, spots, _spread(spots), strict=True):
        x = LEFT_PX + BAND_PX
        canvas.parts.append(canvas.line(x + 4, spot, x + 34, at, "leader"))
        canvas.parts.append(canvas.text(x + 40, at - 4.5, text, "note", "start", 13))
    canvas.parts.append(canvas.text(16, HEIGHT_PX - 24, f"{section.name}: clamping stack", "figure", "start", 14))
    canvas.parts.append(canvas.text(16, HEIGHT_PX - 44, section.message, "note", "start", 13))
    return canvas.drawn(f"{section.name}: clamping stack, from below", "board section", role="img")


def _rows(layers: tuple[StackLayer, ...]) -> list[tuple[StackLayer, int]]:
    """Layers from below; laminae of one thickness after another as one row, with how many they are."""
    made: list[tuple[StackLayer, int]] = []
    for layer in layers:
        last = made[-1][0] if made else None
        alike = last is not None and layer.of == "wood" == last.of and layer.thick_mm == last.thick_mm
        if alike and layer.name.partition(":")[2] == last.name.partition(":")[2]:  # type: ignore[union-attr]
            made[-1] = (made[-1][0], made[-1][1] + 1)
        else:
            made.append((layer, 1))
    return made[:MOST_ROWS]


def _heights(rows: list[tuple[StackLayer, int]]) -> list[float]:
    """Layout pixels for each row: in proportion, none too thin to see, none taking all the room."""
    thick = [(layer.thick_mm or 0.0) * count for layer, count in rows]
    unit = (HEIGHT_PX - TOP_PX - FOOT_PX) / max(1.0, sum(min(t, 60.0) for t in thick))
    made = []
    for (layer, count), t in zip(rows, thick, strict=True):
        if not layer.thick_mm or layer.of in ("film", "paper", "tape"):
            made.append(THIN_PX)
        else:
            made.append(min(max(MOST_PX, LEAST_PX * count), max(LEAST_PX, t * unit)))
    return made


def _said(layer: StackLayer, count: int, unit: Unit) -> str:
    size = f", {format_length(layer.thick_mm, unit)}" if layer.thick_mm else ""
    if count == 1:
        return f"{layer.name}{size}"
    number, _, name = layer.name.partition(":")
    return f"{number} to {int(number) + count - 1}:{name}{size} each, glue between"


def _spread(spots: list[float]) -> list[float]:
    """Heights for names: as near to their layers as they can stand apart."""
    made = list(spots)
    for _ in range(60):
        for i in range(1, len(made)):
            gap = made[i] - made[i - 1]
            if gap < ROW_PX:
                made[i - 1] -= (ROW_PX - gap) / 2
                made[i] += (ROW_PX - gap) / 2
    over = max(0.0, made[-1] - (HEIGHT_PX - TOP_PX))
    under = max(0.0, FOOT_PX - made[0])
    return [m - over + under for m in made]
