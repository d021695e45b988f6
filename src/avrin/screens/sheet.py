"""The sheet of cells as a display list, shared by the window, pictures, drawings and pages."""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence

from msgspec import Struct
from msgspec.structs import replace

from avrin.errors import AvrinError
from avrin.kinds.eliding import elided
from avrin.kinds.shapes import Box, Clip, Group, Shape, TextRun
from avrin.project.project import ScreenPart
from avrin.render.fonts import TextMeasure
from avrin.render.layout import Rect
from avrin.render.pictures import frame_shapes
from avrin.screens.axes import FULL, Cell, Grid
from avrin.screens.distance import DISTANCE, distance_shapes
from avrin.screens.spoken import Spoken

__all__ = ["CellSheet", "cell_shapes", "cells_laid_out", "screens_sheet"]

EDGE, GAP, HEAD, SIDE = 20.0, 14.0, 24.0, 104.0
INK, SECOND, DESK, LINE = "#24211d", "#5f5a50", "#f4f1ea", "#d9d2c4"
LINE_HIGH = 15.0  # pixels of a line below a cell
FIGURES = 9.5  # pixels on the sheet: of labels of text heights
LEAST = 120.0  # pixels of a cell's width: a smaller one cannot be judged
_MEASURE = TextMeasure()


class CellSheet(Struct, frozen=True):
    """Layout of a grid's cells, row by row; column and row heads precede them. size: of everything.

    flows: there is only one axis, whose cells are in as many rows as makes them largest, each below its own name.
    """

    boxes: tuple[tuple[Rect, ...], ...]
    size: tuple[float, float]
    left: float
    top: float
    flows: bool = False


def cells_laid_out(grid: Grid, width: float, height: float | None = None, below: float = 0.0) -> CellSheet:
    """Arrange cells as large as possible within a width and an optional height. below: room below each, for words.

    All columns have equal widths, a row is as high as its highest cell; a screen keeps its shape.
    """
    if height is not None and 1 in (len(grid.rows), len(grid.columns)) and len(grid.rows) != len(grid.columns):
        return _flowing(grid, width, height, below)
    left = EDGE + (SIDE if any(grid.rows) else 0.0)
    top = EDGE + (HEAD if any(grid.columns) else 0.0)
    across = max(1, len(grid.columns))
    wide = max(LEAST, (width - left - EDGE - GAP * (across - 1)) / across)
    shapes = [[cell.screen.size[1] / cell.screen.size[0] for cell in line] for line in grid.cells]
    if height is not None:
        room = height - top - EDGE - (GAP + below) * len(shapes)
        wide = max(LEAST, min(wide, room / max(1e-9, sum(max(line) for line in shapes))))
    y, boxes = top, []
    for line in shapes:
        tall = wide * max(line)
        boxes.append(tuple(Rect(left + i * (wide + GAP), y, wide, wide * shape) for i, shape in enumerate(line)))
        y += tall + below + GAP
    right = left + across * (wide + GAP) - GAP + EDGE
    return CellSheet(tuple(boxes), (math.ceil(max(width, right)), math.ceil(y - GAP + EDGE)), left, top)


def _flowing(grid: Grid, width: float, height: float, below: float) -> CellSheet:
    """Arrange the cells of one axis in the number of columns that makes them largest."""
    cells = [cell for line in grid.cells for cell in line]
    shapes = [cell.screen.size[1] / cell.screen.size[0] for cell in cells]

    def wide(across: int) -> float:
        lines = [max(shapes[at : at + across]) for at in range(0, len(shapes), across)]
        tall = (height - 2 * EDGE - (HEAD + GAP + below) * len(lines)) / sum(lines)
        return min((width - 2 * EDGE - GAP * (across - 1)) / across, tall)

    across = max(range(1, len(cells) + 1), key=wide)
    size = max(LEAST, wide(across))
    boxes, y = [], EDGE
    for at in range(0, len(cells), across):
        line = shapes[at : at + across]
        boxes += [Rect(EDGE + i * (size + GAP), y + HEAD, size, size * shape) for i, shape in enumerate(line)]
        y += HEAD + size * max(line) + below + GAP
    rows = [tuple(boxes)] if len(grid.rows) == 1 else [(box,) for box in boxes]
    right = 2 * EDGE + across * (size + GAP) - GAP
    return CellSheet(
        tuple(rows), (math.ceil(max(width, right)), math.ceil(y - GAP + EDGE)), EDGE, EDGE + HEAD, flows=True
    )


def screens_sheet(
    spoken: Spoken, frame: int, grid: Grid, width: float, words: Callable[[Cell], Sequence[str]] = lambda _: ()
) -> tuple[list[Shape], float]:
    """Return all cells at a frame below their names, and the height.

    words: a cell's findings, a line each, drawn below it. Raises AvrinError if a plate or a catalogue is
    missing.
    """
    lines = [[words(cell) for cell in line] for line in grid.cells]
    most = max((len(said) for line in lines for said in line), default=0)
    laid = cells_laid_out(grid, width, below=most * LINE_HIGH + (4 if most else 0))
    shapes: list[Shape] = [Box(0, 0, laid.size[0], laid.size[1], DESK)]
    for name, box in zip(grid.columns, laid.boxes[0], strict=True):
        shapes.append(TextRun(box.x, laid.top - 10, _short(name, box.width), 13, INK, bold=True))
    for row, (name, line) in enumerate(zip(grid.rows, laid.boxes, strict=True)):
        shapes.append(TextRun(EDGE, line[0].y + 16, _short(name, SIDE - 10), 13, INK, bold=True))
        for column, box in enumerate(line):
            cell = grid.cells[row][column]
            try:
                shapes.append(cell_shapes(spoken, frame, cell, box))
            except AvrinError:
                if cell.plate is None:
                    raise
                shapes.append(cell_shapes(spoken, frame, replace(cell, plate=None), box))
            for number, said in enumerate(lines[row][column]):
                base = box.y + box.height + LINE_HIGH * (number + 1)
                shapes.append(TextRun(box.x, base, _short(said, box.width, 11, bold=False), 11, SECOND))
    return shapes, laid.size[1]


def cell_shapes(spoken: Spoken, frame: int, cell: Cell, box: Rect) -> Group:
    """Return one cell in its box. Raises AvrinError if its plate or its language is missing."""
    screen, (width, height) = cell.screen, cell.screen.size
    slot = screen.slot if isinstance(screen, ScreenPart) else cell.player
    tracks = spoken.tracks(cell.language, slot, cell.option)
    seen_by = spoken.seen_by(cell.language, cell.option)
    shapes = frame_shapes(tracks, frame, screen, cell.plate, tracks.bound.folder, seen_by)
    if cell.eyes == DISTANCE:
        shapes += distance_shapes(tracks, frame, screen, FIGURES * width / box.width, seen_by)
    eyes = cell.eyes if cell.eyes not in (FULL, DISTANCE) else ""
    return Group(tuple(shapes), box.x, box.y, box.width / width, clip=Clip(0, 0, width, height), eyes=eyes)


def _short(text: str, width: float, size: float = 13, *, bold: bool = True) -> str:
    return elided(text, width, _MEASURE, size, bold)
