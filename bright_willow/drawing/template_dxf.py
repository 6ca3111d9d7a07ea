"""A template as a DXF file in mm, arcs as true arcs, on named layers."""

from __future__ import annotations

import io

from .template_lines import LAYERS, Template

_COLOURS = {"FACE": 7, "RIB": 5, "SKIN": 3, "BODY": 8, "HOLES": 4, "MARKS": 1, "TEXT": 3} | {
    "BOARD": 8,
    "STRIP": 7,
    "KEPT": 5,
    "FLAW": 1,
}


def template_dxf(template: Template) -> str:
    """The text of the file (DXF R2000, $INSUNITS millimetres)."""
    import ezdxf
    from ezdxf import units
    from ezdxf.enums import TextEntityAlignment

    document = ezdxf.new("R2000", setup=["linetypes"])
    document.units = units.MM
    for name in LAYERS:
        document.layers.add(name, color=_COLOURS[name])
    space = document.modelspace()
    for chain in template.chains:
        bulges = list(chain.bulges) + [0.0] * (len(chain.points) - len(chain.bulges))
        rows = [(float(x), float(y), float(b)) for (x, y), b in zip(chain.points, bulges, strict=True)]
        look = {"layer": chain.layer, **({"linetype": "DASHED"} if chain.dashed else {})}
        space.add_lwpolyline(rows, format="xyb", close=chain.closed, dxfattribs=look)
    for words in template.words:
        text = space.add_text(
            words.text, height=words.height_mm, rotation=words.angle_deg, dxfattribs={"layer": words.layer}
        )
        text.set_placement((words.x, words.y), align=TextEntityAlignment.BOTTOM_CENTER)
    out = io.StringIO()
    document.write(out)
    return out.getvalue()
