"""Strips out of boards: by hand, as laws, and against trying every choice of boards."""

import csv
import io
import itertools

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from bright_willow.core.common.errors import PlanError
from bright_willow.core.plan.plan import plan, sketch
from bright_willow.core.plan.read_job import read_job
from bright_willow.core.stock.boards import Board, Strips, dealt, letter_of
from bright_willow.core.stock.cutting import cut_plan
from bright_willow.core.stock.sawing import sawings
from bright_willow.drawing.cut_list import strips_csv
from tests.conftest import RIB
from tests.searching import examples
from tools.yardstick import Measured

SIZES = {"strip_thick_mm": 6.0, "strip_wide_mm": 46.0, "kerf_mm": 3.0}


def overlaps(a, b):
    apart = 1e-9
    return (
        a.x_mm < b.x_mm + b.wide_mm - apart
        and b.x_mm < a.x_mm + a.wide_mm - apart
        and a.y_mm < b.y_mm + b.high_mm - apart
        and b.y_mm < a.y_mm + a.high_mm - apart
    )


def test_both_ways_by_hand():
    """150 wide, 20 held: (130 + 3) / 9 = 14 ripped. 52 thick: (52 + 3) / 9 = 6 layers, (150 + 3) / 49 = 3 widths."""
    ways = sawings(board_thick_mm=52, board_wide_mm=150, **SIZES)
    assert [s.how for s in ways] == ["resaw", "rip"]  # the one that gives most first
    found = {s.how: s for s in ways}
    assert (found["rip"].strips, found["resaw"].strips) == (14, 18)
    assert [s.how for s in sawings(board_thick_mm=30, board_wide_mm=150, **SIZES)] == ["resaw"]
    assert [s.how for s in sawings(board_thick_mm=52, board_wide_mm=40, **SIZES)] == ["rip"]
    (halves,) = sawings(board_thick_mm=25, board_wide_mm=44, **SIZES)
    assert halves.how == "joined" and halves.strips == len(halves.places) // 2 == 1  # (24 + 3) / 9 = 3 halves
    assert sawings(board_thick_mm=20, board_wide_mm=30, **SIZES) == ()
    for bad in (0, -1, float("nan")):
        with pytest.raises(PlanError):
            sawings(board_thick_mm=bad, board_wide_mm=150, **SIZES)


@given(thick=st.floats(8, 120), wide=st.floats(20, 400), t=st.floats(1, 20), w=st.floats(10, 120), kerf=st.floats(0, 6))
def test_strips_lie_in_the_board_a_kerf_apart(thick, wide, t, w, kerf):
    for sawing in sawings(board_thick_mm=thick, board_wide_mm=wide, strip_thick_mm=t, strip_wide_mm=w, kerf_mm=kerf):
        room = wide - sawing.held_mm
        for a, b in itertools.combinations(sawing.places[:30], 2):
            assert not overlaps(a, b)
        for p in sawing.places:
            assert p.x_mm + p.wide_mm <= room + 1e-6 and p.y_mm + p.high_mm <= thick + 1e-6
        lanes = sawing.lanes
        for lane, i in itertools.product(range(lanes.lanes), range(sawing.in_a_lane)):
            own = lanes.places(lane, i * lanes.takes_mm(t), t)
            assert lanes.reach_mm(lane, i * lanes.takes_mm(t), t) == pytest.approx(max(p.x_mm + p.wide_mm for p in own))
        assert sawing.strips * lanes.strips_each == len(sawing.places)
        taken = sum((p.wide_mm + kerf) * (p.high_mm + kerf) for p in sawing.places)
        assert taken <= (room + kerf + 1e-6) * (thick + kerf + 1e-6)


def most_alone(board, strips):
    """Strips one board gives, counted by walking along it a saw cut at a time."""
    ways = sawings(
        board_thick_mm=board.thickness_mm,
        board_wide_mm=board.width_mm,
        strip_thick_mm=strips.kinds[0].thick_mm,
        strip_wide_mm=strips.wide_mm,
        kerf_mm=strips.kerf_mm,
    )
    if not ways:
        return 0
    lengths, at = 0, 0.0
    while at + strips.long_mm <= board.length_mm + 1e-9:
        flaw = next((f for f in board.flaws if f[0] < at + strips.long_mm and f[1] > at), None)
        if flaw:
            at = flaw[1]
            continue
        lengths, at = lengths + 1, at + strips.long_mm + strips.kerf_mm
    return lengths * ways[0].strips


boards = st.lists(
    st.builds(
        lambda t, w, length, a, b: Board(t, w, length, ((a * length, min(1.0, a + b) * length),) if b > 0.02 else ()),
        st.sampled_from([30.0, 52.0, 65.0]),
        st.sampled_from([60.0, 120.0, 190.0]),
        st.floats(600, 3000),
        st.floats(0, 0.9),
        st.floats(0, 0.3),
    ),
    min_size=1,
    max_size=6,
)


@settings(max_examples=examples(25))
@given(boards=boards, count=st.integers(1, 120), long=st.floats(300, 1500))
def test_no_choice_of_fewer_boards_gives_as_many(boards, count, long):
    strips = Strips.alike(count, 6.0, 46.0, long, 3.0)
    alone = [most_alone(b, strips) for b in boards]
    if not any(alone):
        with pytest.raises(PlanError):
            cut_plan(boards, strips)
        return
    made = cut_plan(boards, strips)
    assert made.found == min(count, sum(alone)) and made.short == max(0, count - sum(alone))
    if not made.short:
        for fewer in range(1, len(made.boards)):
            assert max(sum(c) for c in itertools.combinations(alone, fewer)) < count
        volume = [b.thickness_mm * b.width_mm * b.length_mm for b in boards]
        best = min(
            sum(volume[i] for i in c)
            for c in itertools.combinations(range(len(boards)), len(made.boards))
            if sum(alone[i] for i in c) >= count
        )
        used = sum(volume[b.number - 1] for b in made.boards)
        assert used == pytest.approx(best)
    for b in made.boards:
        for length in b.lengths:
            assert length.end_mm <= b.board.length_mm + 1e-6
            assert all(end <= length.start_mm + 1e-6 or start >= length.end_mm - 1e-6 for start, end in b.board.flaws)


def test_letters_numbers_and_order():
    made = cut_plan([Board(52, 150, 2400)] * 3, Strips.alike(40, 6.0, 46.0, 1100.0, 3.0), saw="rip")
    assert [b.letter for b in made.boards] == ["A", "B"] and made.boards[0].labels[:3] == ("A1", "A2", "A3")
    assert made.boards[0].labels[14] == "A15" and len(set(made.labels)) == len(made.labels) == 40
    assert made.other.how == "resaw" and letter_of(27) == "AB"
    pairs = dealt(made.labels, made.kinds, pieces=4, layers=[0] * 9, pairs=True)
    assert [p.hand for p in pairs] == ["left", "right", "left", "right"]
    assert (
        pairs[0].strips == made.labels[:9]
        and pairs[0].reserve == (made.labels[9],)
        and pairs[1].strips[0] == made.labels[10]
    )
    assert sum(len(p.strips) for p in pairs) == 36 and len({s for p in pairs for s in p.strips}) == 36
    tight = dealt(made.labels[:37], made.kinds[:37], pieces=4, layers=[0] * 9, pairs=False)
    assert all(p.reserve == () for p in tight) and tight[1].strips[0] == made.labels[9]


@pytest.mark.parametrize(
    ("prepare", "code"),
    [
        ({"boards": 1, "thickness_mm": 27}, "prepare.short"),
        ({"length_mm": 900}, "prepare.no_strips"),
        ({"thickness_mm": 35, "width_mm": 60, "boards": 60}, "prepare.joined"),
        ({"boards": 4, "flaws": [{"board": 9, "start_mm": 0, "end_mm": 50}]}, "prepare.no_strips"),
        ({"flaws": [{"board": 1, "start_mm": 80, "end_mm": 50}]}, "prepare.no_strips"),
    ],
)
def test_what_stands_in_the_way_is_said_and_cleared(prepare, code):
    job = read_job({**RIB, "prepare": {"length_mm": 2600, "boards": 12, **prepare}})
    finding = next(f for f in plan(job).findings if f.code == code)
    assert finding.stage == "prepare" and finding.message.endswith(".") and finding.reason.endswith(".")
    if finding.fix:
        data = job.model_dump()
        data["prepare"]["boards"] = finding.fix.sets["prepare.boards"]
        assert code not in {f.code for f in plan(read_job(data)).findings}


def test_the_table_of_strips_holds_every_piece_from_the_inside_out():
    job = read_job({**RIB, "prepare": {"length_mm": 2600, "boards": 12}})
    made = sketch(job)
    rows = list(csv.DictReader(io.StringIO(strips_csv(made.prepared))))
    own = [r for r in rows if r["layer_from_inside"].isdecimal()]
    laminae, pieces = job.build_up.laminae, job.part.count + job.part.spares
    assert len(own) == laminae * pieces
    assert [r["layer_from_inside"] for r in own[:laminae]] == [str(n) for n in range(1, laminae + 1)]
    assert float(own[0]["thick_mm"]) == pytest.approx(made.quantities.stock.strip_rough_mm, abs=0.005)


def test_two_hundred_strips_over_thirty_boards_in_time():
    many = [Board(52, 150 + i, 2400 + 13 * i, ((400.0 + i, 460.0 + i),)) for i in range(30)]
    with Measured() as took:
        made = cut_plan(many, Strips.alike(200, 6.0, 46.0, 700.0, 3.0))
        dealt(made.labels, made.kinds, pieces=20, layers=[0] * 10, pairs=True)
    assert took.seconds < 0.1 and not made.short


VENEERED = {
    "lay_up": "layers",
    "layers": [{"thickness_mm": 0.6, "material": "ash_white"}]
    + [{"thickness_mm": 5.0, "material": "flex_ply_5"}] * 4
    + [{"thickness_mm": 0.6, "material": "ash_white"}],
}


IN_THE_WAY = {
    "prepare.kerf": {"build_up": {"laminae": 40}},
    "prepare.wide": {"prepare": {"abreast": 4, "length_mm": 2600}},
    "prepare.profile": {"prepare": {"profile": {"kind": "cove", "size_mm": 30, "blanks": 1}}},
    "press.ratio": {},
    "press.cold": {"glue_up": {"temperature_c": 2, "by_weight": 25}},
    "press.tent": {"glue_up": {"tent": "film", "tent_c": 12, "cold_c": 2}},
    "press.bleed": {"part": {"thickness_mm": 21.2}, "build_up": VENEERED, "prepare": {"show": "outer"}},
}


@pytest.mark.parametrize(("code", "rooms"), IN_THE_WAY.items())
def test_each_thing_in_the_way_is_said_at_its_stage_and_what_is_advised_clears_it(code, rooms):
    data = {**RIB, **{room: {**RIB.get(room, {}), **own} for room, own in rooms.items()}}
    job = read_job(data)
    finding = next(f for f in plan(job).findings if f.code == code)
    assert finding.stage == code.split(".")[0] and finding.message.endswith(".") and finding.reason.endswith(".")
    if finding.fix:
        again = job.model_dump()
        for name, value in finding.fix.sets.items():
            *rooms_down, field = name.split(".")
            place = again
            for room in rooms_down:
                place = place[room]
            place[field] = value
        assert code not in {f.code for f in plan(read_job(again)).findings}
