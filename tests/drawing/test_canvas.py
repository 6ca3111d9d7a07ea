"""Where there is room on a drawing: against looking at every cell, and by hand."""

import numpy as np
import pytest

from bright_willow.drawing.canvas import (
    CELL_PX,
    WIDTH_PX,
    Box,
    Canvas,
    Frame,
    FreeSpace,
)

FRAME = Frame(0.0, 400.0, 780.0, 400.0)  # one mm a pixel


def test_a_frame_holds_its_points_with_its_margins():
    points = np.array([[-100.0, 5.0], [700.0, 90.0], [40.0, 200.0]])
    frame = Frame.around(points, height_px=300, margin_px=(40, 60, 20, 50))
    seen = FreeSpace(frame).at(points)
    assert (seen >= [49.99, 39.99]).all() and (seen <= [WIDTH_PX - 59.99, 300 - 19.99]).all()
    assert frame.height / frame.px == pytest.approx(300)
    again = Frame.parse(frame.written)
    assert again is not None and (again.left, again.top) == pytest.approx((frame.left, frame.top), abs=1e-3)


def test_free_places_are_free_and_all_of_them_are_found():
    space = FreeSpace(FRAME)
    rng = np.random.default_rng(3)
    for _ in range(12):
        x, y = rng.uniform(0, 700), rng.uniform(0, 340)
        space.take(Box(x, y, x + rng.uniform(20, 160), y + rng.uniform(10, 90)))
    found = {tuple(c) for c in space.free(100, 40).tolist()}
    rows, columns = 40 // 4 + 1, 100 // 4 + 1
    for i in range(0, space.cells.shape[0] - rows, 3):
        for j in range(0, space.cells.shape[1] - columns, 5):
            free = space.cells[i : i + rows, j : j + columns].sum() == 0
            inside = i * CELL_PX + 40 <= space.high and j * CELL_PX + 100 <= space.wide
            assert ((j * CELL_PX, i * CELL_PX) in found) == (free and inside)
    nearest = space.nearest(100, 40, 390.0, 200.0)
    assert nearest is not None and space.overlap(nearest) == 0
    away = [np.hypot(x + 50 - 390, y + 20 - 200) for x, y in found]
    assert np.hypot(nearest.x0 + 50 - 390, nearest.y0 + 20 - 200) == pytest.approx(min(away))
    assert space.nearest(2000, 40, 0, 0) is None


def test_an_area_and_a_line_take_what_lies_in_them():
    space = FreeSpace(FRAME)
    square = np.array([[100.0, 100.0], [300.0, 100.0], [300.0, 300.0], [100.0, 300.0]])
    space.take_area(square)
    inside = space.overlap(Box(120, 120, 280, 280))
    assert inside == 1.0 and space.overlap(Box(320, 120, 480, 280)) == 0.0
    line = FreeSpace(FRAME)
    line.take_line(np.array([[0.0, 200.0], [780.0, 200.0]]), 20.0, gap_px=0)
    assert line.overlap(Box(300, 182, 400, 218)) == 1.0 and line.overlap(Box(300, 100, 400, 170)) == 0.0


def test_a_label_goes_where_there_is_room_and_takes_it():
    canvas = Canvas(FRAME)
    canvas.space.take(Box(0, 0, 390, 400))
    here = canvas.label([(100.0, 200.0, "start"), (500.0, 200.0, "start")], "a place for this")
    assert 'x="500"' in here
    there = canvas.label([(500.0, 200.0, "start"), (500.0, 100.0, "start")], "and not for this")
    assert 'y="-100"' in there
    # nowhere free: the least taken, but never out of the window
    canvas.space.cells[:] = 1
    assert 'x="200"' in canvas.label([(2000.0, 200.0, "start"), (200.0, 200.0, "start")], "somewhere")
