"""The form as a full-size template: arcs, lines and words on named layers, in mm, ready for any file format.

Coordinates are those of the form: x from the middle, y above the base line through the ends of the face. Every line is
the finished edge; no cutter or kerf is allowed for, and the template says so.
"""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from ..core.common.arrays import Array
from ..core.common.errors import PlanError
from ..core.common.units import Unit, format_length
from ..core.form.carcase import SPACER_HIGH_MM
from ..core.form.face import FormFace
from ..core.form.hold_downs import outward
from ..core.form.parts import FormPart, dense
from ..core.form.site import Site
from ..core.heat.drying_restraint import HELD_BY
from ..core.job.job import Job
from ..core.plan.result import Plan
from ..core.shape.arc import SIDES
from ..core.workpiece.end_cuts import EndCut
from .clear_text import cleared
from .frame_drawing import strip_corners
from .template_lines import Chain, Template, TemplateText

CLEAR_MM = 40.0  # between parts drawn beside one another
BLOCK_MM = 60.0  # of a register block
MOST_TRAMMELS = 12  # runs of a face that are each marked with the setting of a trammel


def form_template(job: Job, plan: Plan, unit: Unit, part: int | None = None) -> Template:
    """One part of the form where it lies, or, without a number, all that carry a face, the pressers moved clear.

    Raises: PlanError for a part that is not there, or a form of which nothing is drawn.
    """
    of_pair = f"{job.hand_text}: " if job.hand_text else ""
    build = plan.build
    if part is not None:
        chosen = next((p for p in build.parts if p.number == part), None)
        if chosen is None:
            raise PlanError("part", "This form has no such part.")
        template = Template(f"{of_pair}{job.name}: {chosen.name}")
        _draw_part(template, job, plan, chosen, unit)
        return cleared(template)
    template = Template(f"{of_pair}{job.name}: form")
    face = plan.face
    if plan.form.kind in ("posts", "in_place"):
        return cleared(_table(template, job, plan, face, unit))
    if build.problem:
        raise PlanError("form", build.problem)
    clear = 0.0
    carrying = [p for p in build.parts if p.end_mm > 0]
    for one in (p for p in carrying if not p.is_hold_down):
        own = Template("")
        _draw_part(own, job, plan, one, unit)
        _, bottom, _, top = own.bounds()
        lift = clear - bottom if clear else 0.0
        _put(template, own, 0.0, lift)
        clear = top + lift + CLEAR_MM
    across = template.bounds()[0]
    for one in (p for p in carrying if p.is_hold_down):  # small: side by side, so that they take few sheets
        own = Template("")
        _draw_part(own, job, plan, one, unit)
        left, bottom, right, _ = own.bounds()
        _put(template, own, across - left, clear - bottom)
        across += right - left + CLEAR_MM
    return cleared(template)


def _put(template: Template, own: Template, dx: float, dy: float) -> None:
    """A part's drawing into that of the whole form, moved."""
    template.chains += [c.moved(dx, dy) for c in own.chains]
    template.words += [replace(w, x=w.x + dx, y=w.y + dy) for w in own.words]


def _draw_part(template: Template, job: Job, plan: Plan, part: FormPart, unit: Unit) -> None:
    """A part in the form's own frame: face or rib line, outline, the skin's face, holes, marks, words."""
    face = plan.face
    template.chains.append(Chain.edge(part.face_edge))
    template.chains += [Chain.edge(e) for e in part.edges if e is not part.face_edge]
    for hole in part.holes:
        template.chains.append(Chain.edge(hole.edge, "HOLES"))
    if part.end_mm <= 0:
        size = f"{format_length(part.width_mm, unit)} × {format_length(part.height_mm, unit)}"
        message = f"{part.number}  {part.name}: {size}, {part.count} of them"
        template.words.append(TemplateText(part.width_mm / 2, part.height_mm / 2, message, 6.0))
        return
    if part.face_edge.layer == "RIB" and part.number == 1:
        template.chains.append(replace(Chain.of("SKIN", face.curve, face), dashed=True))
    number = part.number - 1
    for x, y in plan.form.spacers[number] if number < len(plan.form.spacers) else ():
        w, h = job.form.sheet_mm / 2, SPACER_HIGH_MM / 2
        corners = ((x - w, y - h), (x + w, y - h), (x + w, y + h), (x - w, y + h), (x - w, y - h))
        template.chains.append(Chain.line("MARKS", *corners, dashed=True))
    if plan.form.spacers:
        _centre_line(template, part)
    if job.shape.is_closed:
        _drum(template, job, plan, face, unit, on_skin=part.face_edge.layer == "RIB")
    elif part.number == 1:
        _marks(template, job, plan, unit)
        line = template.chains[0]
        left, right = float(line.points[0, 0]), float(line.points[-1, 0])
        template.chains.append(Chain.line("MARKS", (left, 0.0), (right, 0.0), dashed=True))
        message = "base line: the heights in the table are above it"
        template.words.append(TemplateText(left + 160.0, 4.0, message, beside_line=False))
    elif part.is_hold_down:
        _hold_down_words(template, job, part, plan.site)
    else:
        _presser_marks(template, job, plan, part, face)


def _centre_line(template: Template, part: FormPart) -> None:
    """An upright from the foot of a rib to its face, where ribs are lined up on their platform."""
    line = dense(part.outline)
    x = float(line[:, 0].min() + line[:, 0].max()) / 2 if part.number > 1 else 0.0
    low, high = float(line[:, 1].min()), float(line[:, 1].max())
    template.chains.append(Chain.line("MARKS", (x, low), (x, high)))
    template.words.append(TemplateText(x + 4, (low + high) / 2, "center line; dashed: spacers", 4.5, 90.0))


def _hold_down_words(template: Template, job: Job, part: FormPart, site: Site) -> None:
    """What a caul or a cleat is, how many layers of it, and which of its edges goes to the strip."""
    push = outward(site, (part.start_mm + part.end_mm) / 2)
    line = dense(part.face_edge)
    way = line[-1] - line[0]
    turned = float(np.degrees(np.arctan2(way[1], way[0])))
    layers = f", {part.count} layers" if part.count > 1 else ""
    lines = [f"{part.number}  {part.name}{layers}", "this edge to the strip"]
    lines[1:1] = [job.name] if part.role == "caul" else []
    for row, text in enumerate(lines):
        spot = line[len(line) // 2] + push * (11.0 * (len(lines) - row) - 4.0)
        template.words.append(TemplateText(float(spot[0]), float(spot[1]), text, 4.0 if row == 0 else 3.2, turned))


def _presser_marks(template: Template, job: Job, plan: Plan, part: FormPart, face: FormFace) -> None:
    """The same marks on a part that presses, its number, and where its register blocks stand."""
    line = dense(part.face_edge)
    along = np.concatenate(([0.0], np.cumsum(np.hypot(*np.diff(line, axis=0).T))))
    sense = 1.0 if face.side == "inner" else -1.0
    places = [(face.part_start_mm, "finished end"), (face.middle_mm, "center"), (face.part_end_mm, "finished end")]
    for station, name in places:
        if not part.start_mm + 1 < station < part.end_mm - 1:
            continue
        share = (station - part.start_mm) / (part.end_mm - part.start_mm) * along[-1]
        i = int(np.clip(np.searchsorted(along, share), 1, len(line) - 1))
        way = (line[i] - line[i - 1]) / max(1e-9, float(np.hypot(*(line[i] - line[i - 1]))))
        away = np.array([-way[1], way[0]]) * sense
        foot = line[i]
        tip, at = foot + away * 25, foot + away * 32
        template.chains.append(Chain.line("MARKS", (foot[0], foot[1]), (tip[0], tip[1])))
        heading = float(np.degrees(np.arctan2(way[1], way[0])))
        template.words.append(TemplateText(float(at[0]), float(at[1]), name, 5.0, heading))
    _register_blocks(template, part, line)
    i = len(line) // 2
    way = (line[i] - line[i - 1]) / max(1e-9, float(np.hypot(*(line[i] - line[i - 1]))))
    away = np.array([-way[1], way[0]]) * sense
    turned = float(np.degrees(np.arctan2(way[1], way[0])))
    far = "outside" if face.side == "inner" else "inside"
    lines = [job.name, f"{part.number}  {part.name}, {part.count} of them"]
    lines += [f"this face to the wood: {far} face of the part"]
    lines[1:1] = [job.hand_text] if job.hand_text else []
    lines += ["dashed: a register block at each end", "the line is the finished edge"]
    for row, text in enumerate(lines):
        spot = line[i] + away * (min(0.9 * job.form.depth_mm, 92.0) - 9.0 * row * sense)
        template.words.append(TemplateText(float(spot[0]), float(spot[1]), text, 6.0 if row == 0 else 4.5, turned))


def _register_blocks(template: Template, part: FormPart, line: Array) -> None:
    """Where a block stands against either end of a part that presses, half on it and half on the base."""
    corners = np.array(part.outline.points_mm)[-2:]  # the back of the part: above its last and its first end
    for end, back, outwards in ((line[-1], corners[0], 1.0), (line[0], corners[1], -1.0)):
        up = (back - end) / max(1e-9, float(np.hypot(*(back - end))))
        side = np.array([up[1], -up[0]]) * outwards
        foot = end + up * BLOCK_MM * 0.2
        spots = [foot, foot + side * BLOCK_MM * 0.5, foot + side * BLOCK_MM * 0.5 + up * BLOCK_MM, foot + up * BLOCK_MM]
        for a, b in zip(spots, [*spots[1:], spots[0]], strict=True):
            ends = ((float(a[0]), float(a[1])), (float(b[0]), float(b[1])))
            template.chains.append(Chain.line("MARKS", *ends, dashed=True))


def _table(template: Template, job: Job, plan: Plan, face: FormFace, unit: Unit) -> Template:
    """The face on a table, with the posts along it."""
    template.chains.append(Chain.of("FACE", face.curve, face))
    for post in plan.form.posts:
        template.chains.append(Chain.circle("HOLES", post.x_mm, post.y_mm, 2.0))
        angle, length = np.radians(post.angle_deg), 60.0
        sense = -1.0 if face.side == "inner" else 1.0
        a = np.array([post.x_mm, post.y_mm])
        b = a + np.array([-np.sin(angle), np.cos(angle)]) * length * sense
        template.chains.append(Chain.line("MARKS", (float(a[0]), float(a[1])), (float(b[0]), float(b[1]))))
        template.words.append(TemplateText(float(b[0]), float(b[1]), f"{post.number}", 5.0, post.angle_deg))
    _marks(template, job, plan, unit)
    return template


def _drum(template: Template, job: Job, plan: Plan, face: FormFace, unit: Unit, *, on_skin: bool) -> None:
    """On the drum of a closed ring: its centre, the joint of each layer, and what its face is."""
    radius = face.curve.length_mm / (2 * np.pi)
    centre = face.laid(face.curve.points_mm[:1])[0] + np.array([0.0, radius])
    for dx, dy in ((15.0, 0.0), (0.0, 15.0)):
        a, b = (float(centre[0] - dx), float(centre[1] - dy)), (float(centre[0] + dx), float(centre[1] + dy))
        template.chains.append(Chain.line("MARKS", a, b))
    inwards = -1.0 if face.side == "inner" else 1.0
    for layer in plan.laid_up.ring if plan.laid_up else ():
        (point,), _ = face.curve.at(np.array([layer.joint_deg / 360 * face.curve.length_mm]))
        foot = face.laid(np.array([point]))[0]
        out = (foot - centre) / radius * inwards
        a, b = foot, foot + out * 12
        template.chains.append(Chain.line("MARKS", (float(a[0]), float(a[1])), (float(b[0]), float(b[1]))))
        spot = foot + out * 18
        template.words.append(TemplateText(float(spot[0]), float(spot[1]) - 2, f"{layer.number}", 5.0))
    lines = [job.name, f"this face to the wood: {SIDES[face.side]} face of the ring"]
    lines += [
        f"diameter {format_length(2 * radius, unit)}",
        "numbers: joint of each ply",
        "the dashed line is the face of the skin" if on_skin else "the line is the finished edge",
    ]
    for i, text in enumerate(lines):
        template.words.append(
            TemplateText(float(centre[0]), float(centre[1]) - 28 - 11 * i, text, 6.0 if i == 0 else 4.5)
        )


def _end_text(cut: EndCut) -> str:
    """What a finished end is called on the form."""
    if cut.kind == "long":
        return "left long"
    return "finished end" if cut.mitre_deg < 0.05 else f"finished end, cut {cut.mitre_deg:.1f}° off square"


def _radius_line(template: Template, point: Array, heading: float, curvature: float) -> None:
    """From a place of the face to the center of its arc, where that is on the drawing: where the trammel's pin goes."""
    center = point - np.array([-np.sin(heading), np.cos(heading)]) / curvature
    left, bottom, right, top = template.bounds()
    if not (left <= center[0] <= right and bottom <= center[1] <= top):
        return
    x, y = float(center[0]), float(center[1])
    template.chains.append(Chain.line("MARKS", (x, y), (float(point[0]), float(point[1])), dashed=True))
    template.chains.append(Chain.line("MARKS", (x - 5, y), (x + 5, y), dashed=True))
    template.chains.append(Chain.line("MARKS", (x, y - 5), (x, y + 5), dashed=True))


def _witness(template: Template, point: Array, inwards: Array, heading: float) -> None:
    """A V across the face near one end: every piece carries the same, so that all go on the same way round."""
    along = np.array([np.cos(heading), np.sin(heading)])
    tip = point + inwards * 14
    for side in (-6.0, 6.0):
        foot = point + along * side
        template.chains.append(Chain.line("MARKS", (float(foot[0]), float(foot[1])), (float(tip[0]), float(tip[1]))))
    at = point + inwards * 22
    template.words.append(TemplateText(float(at[0]), float(at[1]), "witness mark", 4.5, float(np.degrees(heading))))


def _marks(template: Template, job: Job, plan: Plan, unit: Unit) -> None:
    """Ticks across the face at the finished ends and the middle, and what each is."""
    face = plan.face
    sense = -1.0 if face.side == "inner" else 1.0
    left, right = (_end_text(cut) for cut in plan.ends)
    places = [(face.part_start_mm, left), (face.middle_mm, "center"), (face.part_end_mm, right)]
    long = plan.bend.target.length_mm
    places += [(face.along_mm(mark.station_mm / long), mark.name) for mark in plan.own_marks]
    depth = min(30.0, face.depth_mm / 2)

    def foot(station: float) -> tuple[Array, Array, float]:
        """A place of the face, the way into the body there, and its heading, as the form is laid."""
        points, headings = face.curve.at(np.array([station]))
        heading = float(headings[0]) + face.tilt_rad
        return face.laid(points)[0], np.array([-np.sin(heading), np.cos(heading)]) * sense, heading

    for station, name in places:
        point, inwards, heading = foot(station)
        tip, at = point + inwards * depth, point + inwards * (depth + 8)
        template.chains.append(Chain.line("MARKS", (point[0], point[1]), (tip[0], tip[1])))
        template.words.append(TemplateText(float(at[0]), float(at[1]), name, 5.0, float(np.degrees(heading))))
    if plan.witness_mm is not None:
        _witness(template, *foot(face.along_mm(plan.witness_mm / plan.bend.target.length_mm)))
    runs = face.curve.merged()
    if 1 < runs.lengths_mm.size <= MOST_TRAMMELS:
        for start, length, k in zip(runs.stations_mm, runs.lengths_mm, runs.curvature, strict=False):
            if abs(length * k) < np.radians(8):
                continue  # a straight, or too little of a circle to swing
            point, inwards, heading = foot(float(start + length / 2))
            at = point + inwards * (depth + 8)
            message = f"trammel {format_length(1 / abs(float(k)), unit)}"
            _radius_line(template, point, heading, float(k))
            template.words.append(TemplateText(float(at[0]), float(at[1]), message, 4.5, float(np.degrees(heading))))
    middle, across, _ = foot(face.middle_mm)
    radius = plan.face_figures.least_radius_mm
    lines = [job.name, f"this face to the wood: {SIDES[face.side]} face of the part"]
    lines[1:1] = [job.hand_text] if job.hand_text else []
    if plan.is_one_arc and radius:
        _radius_line(template, *foot(face.middle_mm)[::2], float(runs.curvature[0]))
        lines.append(
            f"trammel {format_length(radius, unit)}, form arc {plan.face_figures.sweep_deg:.2f}° with the extra length"
        )
    lines.append("the line is the finished edge")
    for i, text in enumerate(lines):
        spot = middle + across * min(depth + 20 + 11 * i, face.depth_mm - 6 + 11 * i)
        template.words.append(TemplateText(float(spot[0]), float(spot[1]), text, 7.0 if i == 0 else 5.0))


def frame_template(job: Job, plan: Plan, unit: Unit) -> Template:
    """What holds it while it dries: the released piece and its frame, tie, strip or disc. Raises: PlanError."""
    if plan.hot is None:
        raise PlanError("way", "Only pieces bent hot are held while they dry.")
    if not plan.hot.drying.has_jig:
        raise PlanError("heat.held_by", "Nothing holds this piece while it dries, so there is no jig to draw.")
    of_pair = f"{job.hand_text}: " if job.hand_text else ""
    template = Template(f"{of_pair}{job.name}: held with {HELD_BY[plan.hot.drying.held.by]} while it dries")
    half, mid = job.part.thickness_mm / 2, plan.held_to
    for layer, offset in (("FACE", -half), ("BODY", half)):
        curve = mid.parallel(offset)
        edges = curve.cut_finer(max(2, int(curve.length_mm / 150)))
        bulges = -np.tan(edges.lengths_mm * edges.curvature / 4)
        template.chains.append(Chain(layer, edges.points_mm, bulges))
    held = plan.hot.drying.held
    if held.by == "strip":
        template.chains.append(Chain("SKIN", strip_corners(held), np.zeros(4), closed=True))
    if held.by == "disc" and held.disc:
        x, y, radius = held.disc
        template.chains.append(Chain.circle("SKIN", x, y, 2 * radius))
    template.chains.append(Chain.line("MARKS", *held.ends_mm, dashed=True))
    middle = np.array(held.ends_mm).mean(axis=0)
    lines = (job.name, *held.message(unit).rstrip(".").split(", ", 1))
    for i, text in enumerate(lines):
        template.words.append(
            TemplateText(float(middle[0]), float(middle[1]) - 12.0 * (i + 1), text, 6.0 if i == 0 else 4.5)
        )
    return template
