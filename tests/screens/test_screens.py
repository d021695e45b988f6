"""Axes and sheets: the cells, their positions, colour vision, and the player's HUD scale."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from avrin.binding.binding import bind
from avrin.binding.tracks import Tracks
from avrin.cli import main
from avrin.errors import AvrinError
from avrin.kinds.shapes import Group
from avrin.project.project import Follow, Place, Plate, Project, Screen, Widget
from avrin.render.colour import EYES, picture_seen_by, seen_by
from avrin.render.layout import Rect, minutes_of_arc
from avrin.render.scene import scene
from avrin.screens.axes import AXES, grid, usual_cell
from avrin.screens.distance import DISTANCE
from avrin.screens.sheet import cells_laid_out, screens_sheet
from avrin.screens.spoken import Spoken
from avrin.storage.files import load
from avrin.trace.frames import Trace
from avrin.trace.store import open_trace

DESK, SOFA = Screen(name="desk", size=(1920, 1080)), Screen(name="sofa", size=(1280, 800), scale=1.5)
USUAL = ("the only one", "as designed")
TWO = Project(
    screens=(DESK, SOFA), plates=(Plate(name="reef", picture="reef.svg"), Plate(name="cave", picture="c.svg"))
)


def text(project: Project, rows: str, columns: str) -> list[list[tuple[str, ...]]]:
    found = grid(project, rows, columns, usual_cell(project), Path())
    return [[tuple(axis.describe(cell) for axis in AXES.values()) for cell in line] for line in found.cells]


def test_cells_are_all_combinations_of_two_axes_and_the_rest_is_as_declared() -> None:
    assert text(TWO, "plates", "screens") == [
        [
            ("desk", "reef", "own", "full colour", "100%", *USUAL),
            ("sofa", "reef", "own", "full colour", "150%", *USUAL),
        ],
        [
            ("desk", "cave", "own", "full colour", "100%", *USUAL),
            ("sofa", "cave", "own", "full colour", "150%", *USUAL),
        ],
    ]
    assert [line[0][3] for line in text(TWO, "eyes", "")] == [*EYES, DISTANCE]
    assert text(TWO, "", "") == [[("desk", "reef", "own", "full colour", "100%", *USUAL)]]


@pytest.mark.parametrize(("rows", "columns"), [("sizes", "screens"), ("screens", "sizes")])
def test_a_size_along_an_axis_goes_over_a_screens_own(rows: str, columns: str) -> None:
    sizes = {(cell[0], cell[4]) for line in text(TWO, rows, columns) for cell in line}
    assert sizes == {(screen, size) for screen in ("desk", "sofa") for size in ("75%", "100%", "125%", "150%", "200%")}


def test_a_project_without_screens_or_plates_has_one_of_each() -> None:
    assert text(Project(), "plates", "screens") == [[("reference", "no plate", "own", "full colour", "100%", *USUAL)]]


@pytest.mark.parametrize(("rows", "columns"), [("eyez", "screens"), ("eyes", "eyes"), ("x" * 50, "")])
def test_what_is_no_axis_or_twice_the_same_is_reported(rows: str, columns: str) -> None:
    with pytest.raises(AvrinError, match=r"axis|both"):
        grid(TWO, rows, columns, usual_cell(TWO), Path())


@given(
    st.sampled_from(list(AXES)), st.sampled_from(["", *AXES]), st.floats(300, 3000), st.none() | st.floats(200, 2000)
)
def test_cells_keep_their_shape_lie_apart_and_fit(rows: str, columns: str, width: float, height: float | None) -> None:
    if rows == columns:
        return
    cells = grid(TWO, rows, columns, usual_cell(TWO), Path())
    laid = cells_laid_out(cells, width, height, 18)
    boxes = [box for line in laid.boxes for box in line]
    for box, cell in zip(boxes, [cell for line in cells.cells for cell in line], strict=True):
        assert box.height / box.width == pytest.approx(cell.screen.size[1] / cell.screen.size[0])
        assert box.width >= 120
        assert box.x + box.width <= laid.size[0]
        assert box.y + box.height <= laid.size[1]
    for i, one in enumerate(boxes):
        for other in boxes[i + 1 :]:
            apart = (
                one.x + one.width <= other.x or other.x + other.width <= one.x
                or one.y + one.height <= other.y or other.y + other.height <= one.y
            )  # fmt: skip
            assert apart


# -- the player's own size ----------------------------------------------------------------------------------------------

# anchor -> where a box of 100 × 40, 10 from the anchor, is placed on a screen of 1920 × 1080 at double size
SCALED = [
    ("top-left", (10, 10), Rect(20, 20, 200, 80)), ("bottom-right", (-10, -10), Rect(1700, 980, 200, 80)),
    ("center", (0, 0), Rect(860, 500, 200, 80)),
]  # fmt: skip


@pytest.mark.parametrize(("anchor", "offset", "box"), SCALED)
def test_a_size_grows_about_the_anchor(anchor: str, offset: tuple[float, float], box: Rect) -> None:
    place = Place(anchor=anchor, pivot=anchor, offset=offset, size=(100, 40))  # type: ignore[arg-type]
    bound = bind(Project(widgets=(Widget(id="w", kind="label", inputs={"text": "x"}, place=place),)))
    tracks = Tracks(bound, Trace.make("t", [0.0], {}))
    (placed,) = scene(tracks, 0, Screen(name="s", size=(1920, 1080), scale=2))
    assert placed.rect == box
    assert placed.group.scale == 2


def test_what_follows_a_thing_grows_and_stays_with_it() -> None:
    place = Place(pivot="bottom", offset=(0, -10), size=(100, 40), follow=Follow(x="600", y="500"))
    bound = bind(Project(widgets=(Widget(id="w", kind="label", inputs={"text": "x"}, place=place),)))
    (placed,) = scene(Tracks(bound, Trace.make("t", [0.0], {})), 0, Screen(name="s", size=(1920, 1080), scale=2))
    assert placed.rect == Rect(500, 400, 200, 80), "its foot is twenty pixels above the thing at 600, 500"


# -- eyes ---------------------------------------------------------------------------------------------------------------

# Machado, Oliveira and Fernandes 2009, at full severity, of pure red in linear light: the first column of each matrix.
RED = {"no red cones": (0.152286, 0.114503, 0.0), "no green cones": (0.367322, 0.280085, 0.0),
       "no blue cones": (1.0, 0.0, 0.004733), "no colour": (0.2126, 0.2126, 0.2126)}  # fmt: skip


@pytest.mark.parametrize("eyes", RED)
def test_what_eyes_see_of_red_is_what_the_paper_says(eyes: str) -> None:
    found = picture_seen_by(np.array([[[255, 0, 0]]], np.uint8), eyes)[0, 0] / 255
    expected = [12.92 * v if v <= 0.0031308 else 1.055 * v ** (1 / 2.4) - 0.055 for v in RED[eyes]]
    assert found == pytest.approx(expected, abs=1 / 255)


@given(st.lists(st.tuples(*[st.integers(0, 255)] * 3), min_size=1, max_size=20), st.sampled_from(list(EYES)))
def test_pictures_are_turned_as_colours_are(colours: list[tuple[int, int, int]], eyes: str) -> None:
    pixels = np.array([colours], np.uint8)
    found = picture_seen_by(pixels, eyes)
    assert found.shape == pixels.shape
    assert np.abs(found / 255 - seen_by(pixels / 255, eyes)).max() <= 1.01 / 255


# -- the sheet and its command ------------------------------------------------------------------------------------------


def test_every_cell_of_the_sample_is_its_frame(demo: Path) -> None:
    project, _ = load(demo)
    trace = open_trace(demo.parent / "traces/leaky-dive.csv")
    tracks = Tracks(bind(project, folder=demo.parent), trace)
    cells = grid(project, "eyes", "screens", usual_cell(project), Path())
    shapes, height = screens_sheet(Spoken(tracks), trace.frame_at(118), cells, 1600)
    groups = [shape for shape in shapes if isinstance(shape, Group)]
    assert len(groups) == 6 * 4
    assert [group.eyes for group in groups[::4]] == ["", *list(EYES)[1:], ""]
    assert height == int(height)


def test_the_command_writes_a_sheet(demo: Path, tmp_path: Path) -> None:
    out = tmp_path / "sheet.svg"
    trace = str(demo.parent / "traces/leaky-dive.csv")
    assert main(["screens", str(demo), "--trace", trace, "--at", "118", "--rows", "eyes", "--out", str(out)]) == 0
    assert out.read_text().count('filter="url(#e') == 4 * 4


@pytest.mark.parametrize(
    "wrong",
    [["--rows", "eyez"], ["--eyes", "none"], ["--scale", "9"], ["--at", "1,2"], ["--screen", "0x0"], ["--plate", "x"],
     ["--rows", "screens"]],
)  # fmt: skip
def test_what_cannot_be_is_said_in_a_line(
    demo: Path, tmp_path: Path, wrong: list[str], capsys: pytest.CaptureFixture[str]
) -> None:
    trace = str(demo.parent / "traces/leaky-dive.csv")
    out = str(tmp_path / "x.png")
    assert main(["screens", str(demo), "--trace", trace, "--at", "1", "--out", out, *wrong]) == 2
    assert len(capsys.readouterr().err.splitlines()) == 1
    assert not (tmp_path / "x.png").exists()


# diagonal in inches, distance in metres, pixels high on 1920 × 1080 -> minutes of arc, worked by hand
ANGLES = [(50.0, 3.0, 24.0, 15.86), (24.0, 0.6, 24.0, 38.06), (50.0, 0.0, 24.0, None), (0.0, 3.0, 24.0, None)]


@pytest.mark.parametrize(("inches", "metres", "pixels", "angle"), ANGLES)
def test_how_high_something_is_seen(inches: float, metres: float, pixels: float, angle: float | None) -> None:
    found = minutes_of_arc(pixels, Screen(name="s", size=(1920, 1080), inches=inches, metres=metres))
    assert found is None if angle is None else found == pytest.approx(angle, abs=0.01)
