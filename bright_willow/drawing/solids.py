"""Parts of a small form as solids, for a printer or a mill: their outlines drawn out to their height; STL and 3MF."""

from __future__ import annotations

import io
import zipfile
from dataclasses import dataclass
from itertools import pairwise
from xml.sax.saxutils import quoteattr

import numpy as np

from ..core.common.arrays import Array
from ..core.common.errors import PlanError
from ..core.form.parts import FormPart, area_mm2, corners_of
from ..core.plan.result import Plan

SPACING_MM = 0.75  # between the corners an arc is told by: 0.001 mm off at R 70
BETWEEN_MM = 10.0
LARGEST_MM = 900.0  # of a part that is still a small form
WHOLE_IN = ("stack", "solid")  # builds whose parts are drawn out to the height of the whole form


@dataclass(frozen=True)
class Solid:
    """A closed body: corners (n, 3) mm, triangles (m, 3) of them, each seen anticlockwise from outside."""

    name: str
    corners: Array
    triangles: Array


def solids(plan: Plan) -> list[Solid]:
    """Every part that carries a face, side by side. Raises: PlanError where there are none, or one is too large."""
    parts = [p for p in plan.build.parts if p.end_mm > 0]
    if not parts:
        raise PlanError("form", plan.build.problem or "This form has no parts that carry a face.")
    largest = max(max(p.width_mm, p.height_mm) for p in parts)
    if largest > LARGEST_MM:
        raise PlanError(
            "form",
            "Solids are for small forms; this one is {size} across.",
            hint="Take the drawing for a cutter instead.",
            lengths_mm={"size": largest},
        )
    whole = plan.form.build in WHOLE_IN
    made, at = [], 0.0
    for part in parts:
        solid = extruded(part, plan.site.stack_mm if whole else part.thickness_mm)
        low = solid.corners.min(axis=0)
        made.append(Solid(solid.name, solid.corners + np.array([-low[0], at - low[1], 0.0]), solid.triangles))
        at = float(made[-1].corners[:, 1].max()) + BETWEEN_MM
    return made


def extruded(part: FormPart, height_mm: float) -> Solid:
    """A part drawn out to a height, its holes through it. Raises: PlanError for an outline that crosses itself."""
    from shapely import Polygon, constrained_delaunay_triangles
    from shapely.geometry.polygon import orient

    flat = Polygon(corners_of(part.outline, SPACING_MM)).buffer(0)
    whole = flat.area
    for edge in (*part.hollows, *(h.edge for h in part.holes)):
        flat = flat.difference(Polygon(corners_of(edge, SPACING_MM)).buffer(0))
    if not isinstance(flat, Polygon) or abs(whole / area_mm2(part.outline) - 1) > 0.01:
        raise PlanError("form", f"The outline of the {part.name} crosses itself: it is no solid.")
    flat = orient(flat.simplify(1e-4))
    corners: list[tuple[float, float, float]] = []
    known: dict[tuple[float, float, float], int] = {}

    def corner(x: float, y: float, z: float) -> int:
        key = (round(x, 5), round(y, 5), z)
        if key not in known:
            known[key] = len(corners)
            corners.append(key)
        return known[key]

    triangles: list[tuple[int, int, int]] = []
    for piece in constrained_delaunay_triangles(flat).geoms:
        a, b, c = (p for p in list(orient(piece).exterior.coords)[:3])
        triangles.append((corner(*c, 0.0), corner(*b, 0.0), corner(*a, 0.0)))
        triangles.append((corner(*a, height_mm), corner(*b, height_mm), corner(*c, height_mm)))
    for ring in (flat.exterior, *flat.interiors):
        line = list(ring.coords)
        for (x0, y0), (x1, y1) in pairwise(line):
            low0, low1 = corner(x0, y0, 0.0), corner(x1, y1, 0.0)
            high0, high1 = corner(x0, y0, height_mm), corner(x1, y1, height_mm)
            triangles += [(low0, low1, high1), (low0, high1, high0)]
    return Solid(part.name, np.array(corners), np.array(triangles))


def stl(made: list[Solid]) -> bytes:
    """Binary STL, all parts in one, in mm."""
    faces = np.concatenate([s.corners[s.triangles] for s in made]).astype("<f4")
    normals = np.cross(faces[:, 1] - faces[:, 0], faces[:, 2] - faces[:, 0])
    normals /= np.maximum(np.linalg.norm(normals, axis=1), 1e-12)[:, None]
    rows = np.zeros(len(faces), dtype=[("normal", "<f4", 3), ("corners", "<f4", (3, 3)), ("more", "<u2")])
    rows["normal"], rows["corners"] = normals, faces
    head = b"Bright Willow, mm".ljust(80, b" ")
    return head + np.uint32(len(faces)).tobytes() + rows.tobytes()


def three_mf(made: list[Solid], title: str) -> bytes:
    """A 3MF package, each part an object of its own, in mm."""
    objects, items = [], []
    for number, solid in enumerate(made, 1):
        points = "".join(f'<vertex x="{x:.5f}" y="{y:.5f}" z="{z:.5f}"/>' for x, y, z in solid.corners)
        faces = "".join(f'<triangle v1="{a}" v2="{b}" v3="{c}"/>' for a, b, c in solid.triangles)
        mesh = f"<mesh><vertices>{points}</vertices><triangles>{faces}</triangles></mesh>"
        objects.append(f'<object id="{number}" type="model" name={quoteattr(solid.name)}>{mesh}</object>')
        items.append(f'<item objectid="{number}"/>')
    model = (
        '<?xml version="1.0" encoding="UTF-8"?>'
        f'<model unit="millimeter" xml:lang="en" xmlns="{CORE}"><metadata name="Title">{_text(title)}</metadata>'
        f"<resources>{''.join(objects)}</resources><build>{''.join(items)}</build></model>"
    )
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as folder:
        for name, text in (("[Content_Types].xml", TYPES), ("_rels/.rels", RELATIONS), ("3D/3dmodel.model", model)):
            folder.writestr(zipfile.ZipInfo(name, (2026, 1, 1, 0, 0, 0)), text)  # the same plan, the same file
    return out.getvalue()


def _text(text: str) -> str:
    return text.replace("&", "&amp;").replace("<", "&lt;")


# names the format itself is told by; nothing is ever asked of them
CORE = "http://schemas.microsoft.com/3dmanufacturing/core/2015/02"
TYPES = (
    '<?xml version="1.0" encoding="UTF-8"?>'
    '<Types xmlns="http://schemas.openxmlformats.org/package/2006/content-types">'
    '<Default Extension="rels" ContentType="application/vnd.openxmlformats-package.relationships+xml"/>'
    '<Default Extension="model" ContentType="application/vnd.ms-package.3dmanufacturing-3dmodel+xml"/></Types>'
)
RELATIONS = (
    '<?xml version="1.0" encoding="UTF-8"?>'
    '<Relationships xmlns="http://schemas.openxmlformats.org/package/2006/relationships">'
    '<Relationship Target="/3D/3dmodel.model" Id="rel0" '
    'Type="http://schemas.microsoft.com/3dmanufacturing/2013/01/3dmodel"/></Relationships>'
)
