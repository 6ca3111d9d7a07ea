"""What the pages show, worked out before a template sees it."""

from __future__ import annotations

import datetime as dt
from dataclasses import dataclass

from markupsafe import Markup

from ..core.book.built_form import MISHAPS, Comparison, compare
from ..core.book.mates import Mates, Reading, hands_say, mated
from ..core.experience.belief import Learnt
from ..core.form.closing import STILL_OPEN_MM
from ..core.form.kinds import KINDS as FORM_KINDS
from ..core.form.kinds import FormKind
from ..core.form.schools import SCHOOLS
from ..core.ground.errors import OutOfRange
from ..core.ground.findings import Finding, Level, worst
from ..core.ground.units import Unit, format_length, format_temperature, format_wood
from ..core.heat.reading import HeatReading
from ..core.job.job import Job, JobFaulty
from ..core.plan.compare import WAY_ROWS, WayReading, compare_ways
from ..core.plan.plan import checked_plan
from ..core.plan.result import Plan
from ..core.shape.arc import FACES
from ..core.shape.outline import fitted
from ..core.shape.shapes import Outline
from ..core.shop.shop import Shop
from ..core.ways.cold_lamination import feel_of
from ..core.ways.heat_bend import HEAT_WAYS
from ..core.wood.sheets import Sheet, sheet_table
from ..core.wood.species import Species, wood_table
from ..drawing.board import Frame, Measured, OffTheForm, board_svg
from ..drawing.heat_chart import chamber_svg, heat_chart
from ..drawing.nest_drawing import nest_svgs
from ..drawing.refused import refused_svg
from ..drawing.sheet_drawing import sheet_svg
from ..store.book import JobState, KeptForm, Piece
from .fields import OWN_FIELDS, Field, fields_for
from .rack import LotLine
from .typed import shown_in

STAGES: tuple[tuple[str, str], ...] = (
    ("shape", "Shape"),
    ("way", "Way"),
    ("stock", "Stock"),
    ("build_up", "Build-up"),
    ("form", "Form"),
    ("measure", "Measure"),
)
STAGE_NAMES = dict(STAGES)


@dataclass(frozen=True)
class Leaf:
    """A stage on the stem."""

    key: str
    name: str
    number: int
    is_here: bool
    is_settled: bool
    level: Level
    says: str


@dataclass(frozen=True)
class Quantity:
    """A number of the sill, with its grade and what it is made of."""

    label: str
    value: str
    grade: str
    note: str = ""
    level: Level = "fit"


@dataclass(frozen=True)
class Input:
    """A field with what stands in it and what is wrong with it."""

    field: Field
    text: str
    fault: str


@dataclass(frozen=True)
class PieceLine:
    """One measurement of one piece, against what was expected."""

    piece: Piece
    measurement_id: int
    day: dt.date
    chord: str
    chord_off: str
    rise: str
    rise_off: str
    tip_off: str
    verdict: str
    level: Level
    is_first: bool
    is_last: bool
    face: str


@dataclass
class JobView:
    """Everything a job page or a part of it needs."""

    state: JobState
    job: Job
    stage: str
    unit: Unit
    shop: Shop
    plan: Plan | None
    fault: str
    board: Markup
    stem: list[Leaf]
    numbers: list[Quantity]
    findings: tuple[Finding, ...]
    inputs: dict[str, Input]
    form: KeptForm | None
    form_fits: bool
    pieces: list[PieceLine]
    wood: Species
    today: str
    next_stage: str | None
    piece_typed: dict[str, str]
    piece_faults: dict[str, str]
    next_label: str
    passing: bool
    file_says: str
    file_fault: bool
    fit_says: str
    attempt: Markup
    other_faults: tuple[str, ...]
    rows: list[list[Input]]
    ways: tuple[WayReading, ...]
    lots: list[LotLine]
    failed: list[Piece]
    mates: tuple[Mates, ...]
    hands_say: str
    next_hand: str
    sheet_drawings: list[Markup]
    heat_chart: Markup
    chamber_drawing: Markup
    nest_drawings: list[Markup]
    mishaps: tuple[tuple[str, str], ...] = tuple(MISHAPS.items())
    faces: tuple[tuple[str, str], ...] = tuple(FACES.items())

    @property
    def mishap_says(self) -> dict[str, str]:
        """Words for what went wrong."""
        return MISHAPS

    @property
    def sheets(self) -> list[Sheet]:
        """Sheets a layer can be of."""
        return list(sheet_table().values())

    @property
    def heat(self) -> HeatReading | None:
        """What the plan says about heat."""
        return self.plan.heat if self.plan else None

    @property
    def is_hot(self) -> bool:
        """Whether the way bends with heat."""
        return self.job.way in HEAT_WAYS

    @property
    def way_name(self) -> str:
        """The way, in words."""
        return next(r.name for r in WAY_ROWS if r.key == self.job.way)

    @property
    def still_open_mm(self) -> float:
        """How far from home the cavity of a closing form is judged."""
        return STILL_OPEN_MM

    @property
    def form_kind(self) -> FormKind:
        """The kind of form it is: a ring has its own."""
        return FORM_KINDS["ring" if self.job.shape.is_closed else self.job.form.kind]

    @property
    def school_says(self) -> str:
        """What the chosen allowance for springback does."""
        return SCHOOLS[self.job.form.school].says

    @property
    def own_fields(self) -> tuple[str, ...]:
        """The fields only this kind of shape has."""
        return tuple(f.name for f in OWN_FIELDS[self.job.shape.kind])

    @property
    def texts(self) -> dict[str, str]:
        """What stands in each input."""
        return {name: i.text for name, i in self.inputs.items()}


def job_view(
    state: JobState,
    job: Job,
    *,
    stage: str,
    shop: Shop,
    learnt: Learnt,
    forms: list[KeptForm],
    today: dt.date,
    typed: dict[str, str] | None = None,
    faults: dict[str, str] | None = None,
    frame: str = "",
    lots: list[LotLine] | None = None,
    refused: JobFaulty | None = None,
    piece_typed: dict[str, str] | None = None,
    piece_faults: dict[str, str] | None = None,
    passing: bool = False,
    file_says: str = "",
    file_fault: bool = False,
) -> JobView:
    """The view of a job at a stage; `job` may be a preview that is not saved, `passing` soon followed by another."""
    unit = shop.units
    answer = checked_plan(job, shop, learnt, brief=passing)
    plan = None if isinstance(answer, OutOfRange) else answer
    said = answer.says(unit) if isinstance(answer, OutOfRange) else ""
    form = forms[-1] if forms else None
    lines, measured = _pieces(form, unit) if form and stage == "measure" else ([], [])
    board = attempt = Markup("")
    if refused and refused.job and stage == "shape":
        attempt = _attempted(refused.job, unit)
    if not plan:
        board = Markup(refused_svg(job, answer, unit)) if isinstance(answer, OutOfRange) else board
    elif stage != "way":
        off = OffTheForm(form.built, measured) if form and stage == "measure" else None
        seen = Frame.parse(frame)
        board = Markup(board_svg(job, plan, stage=stage, unit=unit, off_form=off, frame=seen, segments=not passing))
    findings = plan.findings if plan else ()
    inputs = _inputs(job, stage, shop, typed or {}, faults or {})
    hands = _hands(job, form)
    at = [key for key, _ in STAGES].index(stage)
    return JobView(
        state=state,
        job=job,
        stage=stage,
        unit=unit,
        shop=shop,
        plan=plan,
        fault=said,
        board=board,
        stem=_stem(state, stage, findings, said, form, answer.field if isinstance(answer, OutOfRange) else ""),
        numbers=_numbers(plan, job, unit, stage, form) if plan and not (stage == "measure" and not form) else [],
        findings=findings,
        inputs=inputs,
        form=form,
        form_fits=bool(form and form.built.matches(job)),
        pieces=lines,
        wood=wood_table(shop.woods).get(job.stock.species) or next(iter(wood_table().values())),
        today=today.isoformat(),
        next_stage=STAGES[at + 1][0] if at + 1 < len(STAGES) else None,
        piece_typed=piece_typed or {},
        piece_faults=piece_faults or {},
        next_label=_next_label(form),
        passing=passing,
        file_says=file_says,
        file_fault=file_fault,
        fit_says=_fit_says(job, unit) if stage == "shape" else "",
        attempt=attempt,
        other_faults=tuple(says for name, says in (faults or {}).items() if name not in inputs),
        rows=_rows(inputs),
        ways=compare_ways(job, shop, learnt) if stage == "way" else (),
        lots=lots or [],
        failed=[p for p in form.pieces if not p.measurements] if form else [],
        mates=_mates(job, form, unit) if form else (),
        hands_say=hands_say(*hands),
        next_hand="right" if hands[0] > hands[1] else "left",
        nest_drawings=[Markup(d) for d in nest_svgs(plan, unit)] if plan and stage == "form" and not passing else [],
        heat_chart=Markup(heat_chart(plan.heat.steam, unit))
        if plan and plan.heat and plan.heat.steam and stage == "build_up"
        else Markup(""),
        chamber_drawing=_chamber_drawing(job, plan, shop) if plan and stage == "build_up" else Markup(""),
        sheet_drawings=[Markup(sheet_svg(c, unit)) for c in plan.quantities.sheets]
        if plan and stage == "build_up" and not passing
        else [],
    )


def _chamber_drawing(job: Job, plan: Plan, shop: Shop) -> Markup:
    if plan.heat is None or plan.heat.chamber is None:
        return Markup("")
    box, wide = plan.heat.chamber, job.part.width_mm + shop.clean_up_mm
    pieces = box.rows * box.columns
    return Markup(chamber_svg(box, thickness_mm=job.part.thickness_mm, width_mm=wide, pieces=pieces, unit=shop.units))


def _attempted(job: Job, unit: Unit) -> Markup:
    """The drawing of a shape that was asked for and cannot be, with the places that stop it."""
    try:
        job.mid_line()
    except OutOfRange as error:
        return Markup(refused_svg(job, error, unit))
    return Markup("")


def _rows(inputs: dict[str, Input]) -> list[list[Input]]:
    """The inputs of a list, row by row."""
    rows: dict[str, list[Input]] = {}
    for name, one in inputs.items():
        parts = name.split(".")
        if len(parts) == 4:
            rows.setdefault(parts[2], []).append(one)
    return list(rows.values())


def _hands(job: Job, form: KeptForm | None) -> tuple[int, int]:
    """Lefts and rights that came out whole."""
    if form is None or job.part.copies != "pairs":
        return 0, 0
    whole = [p.hand for p in form.pieces if not p.has_failed]
    return whole.count("left"), whole.count("right")


def _mates(job: Job, form: KeptForm, unit: Unit) -> tuple[Mates, ...]:
    if job.part.copies != "pairs":
        return ()
    sides: dict[str, list[Reading]] = {"left": [], "right": []}
    for piece in form.pieces:
        if piece.hand in sides and piece.measurements and not piece.has_failed:
            last = piece.measurements[-1]
            sides[piece.hand].append(Reading(piece.label, last.chord_mm, last.rise_mm))
    return mated(sides["left"], sides["right"], tolerance_mm=job.part.mate_tolerance_mm)


def _fit_says(job: Job, unit: Unit) -> str:
    """How near the smoothed curve runs to the points it was made from."""
    if not isinstance(job.shape, Outline):
        return ""
    try:
        fit = fitted(job.shape.points_mm, job.shape.slack_mm)
    except OutOfRange:
        return ""
    off, place = format_length(fit.largest_mm, unit, decimals=2), format_length(fit.at_mm, unit)
    return f"{len(job.shape.points_mm)} points; the curve leaves them by at most {off}, {place} from the start."


def _next_label(form: KeptForm | None) -> str:
    """The first number no piece of this form is called by."""
    taken = {p.label for p in form.pieces} if form else set()
    return next(str(n) for n in range(1, len(taken) + 2) if str(n) not in taken)


def _inputs(job: Job, stage: str, shop: Shop, typed: dict[str, str], faults: dict[str, str]) -> dict[str, Input]:
    data = job.model_dump()
    made = {}
    for field in fields_for(stage, job, shop.woods):
        stands = shown_in(field, data, shop.units)
        text = typed.get(field.name, stands) if faults else stands
        made[field.name] = Input(field, text, faults.get(field.name, ""))
    return made


def _stem(
    state: JobState, stage: str, findings: tuple[Finding, ...], fault: str, form: KeptForm | None, field: str
) -> list[Leaf]:
    leaves = []
    room = field.split(".")[0]
    fault_stage = room if room in STAGE_NAMES else "shape"
    for number, (key, name) in enumerate(STAGES, 1):
        own = [f.level for f in findings if f.stage == key]
        level: Level = "stop" if fault and key == fault_stage else worst(own)
        settled = key in state.settled
        if key == "form":
            settled = form is not None
        if key == "measure":
            settled = bool(form and form.pieces)
        words = {"fit": "nothing against it", "watch": "something to watch", "stop": "something stops it"}
        leaves.append(Leaf(key, name, number, key == stage, settled, level, words[level]))
    return leaves


def _numbers(plan: Plan, job: Job, unit: Unit, stage: str, form: KeptForm | None) -> list[Quantity]:
    """The figures of the sill."""

    def length(mm: float) -> str:
        return format_length(mm, unit)

    if stage == "measure" and form:
        chord, rise = form.built.expected_on(job.shape.face)
        face = FACES[job.shape.face]
        return [
            Quantity(
                "Chord to expect",
                length(chord.likely),
                chord.grade,
                f"{length(chord.low)} to {length(chord.high)}, 8 in 10 · {face}",
            ),
            Quantity(
                "Rise to expect",
                length(rise.likely),
                rise.grade,
                f"{length(rise.low)} to {length(rise.high)}, 8 in 10 · {face}",
            ),
        ]
    tip, use = plan.springback.tip_mm, plan.use_of_strain
    level = worst([f.level for f in plan.findings if f.code.startswith(("strain.", "heat.breaks", "heat.tight"))])
    stock = plan.quantities.stock
    return [
        Quantity("Use of the limit", f"{use.value:.0%}", use.grade, _limit_says(plan), level)
        if plan.heat
        else Quantity("Use of strain", f"{use.value:.0%}", use.grade, feel_of(use.value), level),
        Quantity(
            "Tips spring back", length(tip.likely), tip.grade, f"{length(tip.low)} to {length(tip.high)}, 8 in 10"
        ),
        Quantity(
            "Form face radius" if plan.form.is_one_arc else "Tightest on form",
            length(plan.form.face.least_radius_mm or 0),
            plan.form.grade,
            f"sweeps {plan.form.face.sweep_deg:.1f}°"
            if plan.form.is_one_arc
            else f"over {length(plan.form.face.length_mm)}",
        ),
        _to_cut(plan, unit),
        Quantity(
            "Wood",
            format_wood(stock.volume_m3, unit),
            "allowance",
            f"{stock.times_finished:.1f} × the finished wood" if stock.strips else "nothing to saw",
        ),
        _in_the_steam(plan.heat, unit)
        if plan.heat
        else Quantity(
            "Glue", f"{plan.quantities.glue_g.value:.0f} g", "allowance", f"{job.build_up.count - 1} lines a piece"
        ),
    ]


def _limit_says(plan: Plan) -> str:
    limits = plan.heat.limits if plan.heat else None
    return f"R/T {limits.ratio:.1f}, wants {limits.needed:.1f}" if limits else "bent back a little"


def _in_the_steam(heat: HeatReading, unit: Unit) -> Quantity:
    if heat.steam is None:
        return Quantity("Bends", f"{len(heat.dry)}", "physics", "tightest first")
    time = heat.steam.time
    says = f"hot through after {time.earliest_min:.0f} min at {format_temperature(round(heat.steam.chamber_c), unit)}"
    return Quantity("In the steam", f"{time.planned_min:.0f} min", "allowance", says)


def _to_cut(plan: Plan, unit: Unit) -> Quantity:
    """Strips to saw, or the sheets and veneers where nothing is sawn."""
    stock, pieces = plan.quantities.stock, plan.quantities.pieces + plan.quantities.spares
    if plan.heat:
        return Quantity("Blanks", f"{pieces}", "allowance", f"{format_length(stock.strip_length_mm, unit)} long each")
    says = f"for {pieces} piece{'s' if pieces > 1 else ''}, {format_length(stock.strip_length_mm, unit)} long"
    if not stock.strips:
        return Quantity("Sheets and veneer", f"{plan.quantities.sheet_m2:.1f} m²", "allowance", says)
    if plan.quantities.sheet_m2:
        says += f"; and {plan.quantities.sheet_m2:.1f} m² of sheets"
    return Quantity("Strips to cut", f"{stock.strips}", "allowance", says)


def _pieces(form: KeptForm, unit: Unit) -> tuple[list[PieceLine], list[Measured]]:
    """Measurements as lines of the table, and the last of each piece for the drawing."""
    lines, drawn = [], []

    def bare(mm: float) -> str:
        return format_length(mm, unit, with_unit=False)

    for piece in form.pieces:
        if not piece.measurements:
            continue
        for i, m in enumerate(piece.measurements):
            seen = compare(form.built, chord_mm=m.chord_mm, rise_mm=m.rise_mm, face=m.face, error_mm=m.error_mm)
            level, verdict = _verdict(seen, piece)
            lines.append(
                PieceLine(
                    piece,
                    m.id,
                    m.day,
                    bare(m.chord_mm),
                    _signed(seen.chord_off_mm, unit),
                    bare(m.rise_mm),
                    _signed(seen.rise_off_mm, unit),
                    f"{bare(seen.tip_off_mm)} {'open' if seen.opens else 'closed'}",
                    verdict,
                    level,
                    i == 0,
                    i == len(piece.measurements) - 1,
                    FACES[m.face],
                )
            )
        if not piece.left_out:
            drawn.append(Measured(piece.label, seen.mid_line))
    return lines, drawn


def _verdict(seen: Comparison, piece: Piece) -> tuple[Level, str]:
    if piece.has_failed:
        return "stop", MISHAPS[piece.mishap]
    if piece.left_out:
        return "watch", "left out"
    if not seen.teaches:
        return "watch", "springback lost in measuring" if seen.ratio > 0 else "tighter than the form"
    if seen.within_band:
        return "fit", "as expected"
    return "watch", "opened more than expected" if seen.chord_off_mm > 0 else "opened less than expected"


def _signed(mm: float, unit: Unit) -> str:
    text = format_length(abs(mm), unit, with_unit=False)
    return text if text == "0" else ("+" if mm > 0 else "−") + text
