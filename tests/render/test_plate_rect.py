"""Plates on screens of another shape, their zones, and what is next to them: worked out by hand."""

from __future__ import annotations

from pathlib import Path

import pytest
from PIL import Image

from avrin.binding.binding import bind
from avrin.binding.tracks import Tracks
from avrin.findings.inspector import Inspector
from avrin.findings.proportions import CHECKS
from avrin.kinds.shapes import Picture
from avrin.project.project import Place, Plate, Project, Proportions, Screen, Widget, Zone
from avrin.render.bounds import bounds
from avrin.render.layout import Rect
from avrin.render.pictures import beside_plate, ground_shapes
from avrin.render.plates import plate_rect
from avrin.render.zones import zone_rect
from avrin.trace.frames import Trace

WIDE = Screen(name="wide", size=(2560, 1080))
DESK = Screen(name="desk", size=(1920, 1080))


@pytest.fixture
def folder(tmp_path: Path) -> Path:
    Image.new("RGB", (1024, 768), "#336699").save(tmp_path / "old.png")
    Image.new("RGB", (1600, 900), "#336699").save(tmp_path / "new.png")
    return tmp_path


@pytest.mark.parametrize(
    ("how", "screen", "rect"),
    [
        ("keep", DESK, (240, 0, 1440, 1080)), ("keep", WIDE, (560, 0, 1440, 1080)), ("stretch", WIDE, (0, 0, 2560, 1080)),
        ("auto", DESK, (0, 0, 1920, 1080)), ("auto", WIDE, (0, 0, 2560, 1080)), ("cover", DESK, (0, -180, 1920, 1440)),
        ("own", DESK, (448, 156, 1024, 768)),
    ],
)  # fmt: skip
def test_where_a_plate_of_four_to_three_lies(
    folder: Path, how: Proportions, screen: Screen, rect: tuple[float, ...]
) -> None:
    plate = Plate(name="old", picture="old.png", proportions=how)
    assert plate_rect(Project(), plate, screen, folder) == pytest.approx(rect)


def test_a_plate_of_the_references_shape_is_kept_and_a_missing_one_fills_the_screen(folder: Path) -> None:
    assert plate_rect(Project(), Plate(name="new", picture="new.png"), WIDE, folder) == (320, 0, 1920, 1080)
    assert plate_rect(Project(), Plate(name="no", picture="no.png"), WIDE, folder) == (0, 0, 2560, 1080)
    assert plate_rect(Project(), Plate(name="out", picture="../no.png"), WIDE, folder) == (0, 0, 2560, 1080)


def test_own_pixels_grow_with_the_games_picture_and_not_with_the_players_size(folder: Path) -> None:
    plate = Plate(name="old", picture="old.png", proportions="own")
    large = Screen(name="large", size=(3840, 2160), scale=1.5)
    assert plate_rect(Project(), plate, large, folder) == (896, 312, 2048, 1536)


def test_zones_lie_where_the_plate_does(folder: Path) -> None:
    plate = Plate(name="old", picture="old.png", proportions="keep", keep_clear=(Zone(box=(960, 540, 192, 108)),))
    over = Tracks(bind(Project(plates=(plate,), screens=(DESK, WIDE)), folder=folder), Trace.make("dive", [0.0], {}))
    assert zone_rect(over, plate, 0, DESK, 0) == pytest.approx((960, 540, 144, 108))
    assert zone_rect(over, plate, 0, WIDE, 0) == pytest.approx((1280, 540, 144, 108))


def test_what_a_plate_leaves_free_is_hatched_paper(folder: Path) -> None:
    plate = Plate(name="old", picture="old.png", proportions="keep")
    _, left, right, picture = ground_shapes(Project(), DESK, plate, folder)
    assert isinstance(picture, Picture)
    assert [tuple(bounds((one,))) for one in (left, right)] == [(0, 0, 240, 1080), (1680, 0, 240, 1080)]
    assert [tuple(bounds((one,))) for one in beside_plate(Rect(0, 100, 1920, 880), DESK)] == [
        (0, 0, 1920, 100), (0, 980, 1920, 100),
    ]  # fmt: skip
    assert beside_plate(Rect(-10, -10, 2000, 2000), DESK) == ()


def test_one_hint_offers_to_keep_what_projects_stretched_before(folder: Path) -> None:
    widget = Widget(id="map", kind="picture", options={"asset": "old.png"}, place=Place(size=(384.0, 65.0)))
    square = Widget(id="seal", kind="picture", options={"asset": "old.png"}, place=Place(size=(400.0, 300.0)))
    wanted = Widget(
        id="flat",
        kind="picture",
        options={"asset": "old.png", "proportions": "stretch"},
        place=Place(size=(384.0, 65.0)),
    )
    plates = (Plate(name="old", picture="old.png"), Plate(name="new", picture="new.png"))
    made = Project(widgets=(widget, square, wanted), plates=plates)
    bound = bind(made, folder=folder)
    (found,) = Inspector(CHECKS).inspect(bound, [Tracks(bound, Trace.make("dive", [0.0], {}))])
    assert found.why.startswith("old, Map: ")
    assert found.fix is not None
    mended = found.fix.apply(made)
    assert [plate.proportions for plate in mended.plates] == ["keep", "auto"]
    assert [one.options.get("proportions") for one in mended.widgets] == ["keep", None, "stretch"]
    again = bind(mended, folder=folder)
    assert not list(Inspector(CHECKS).inspect(again, [Tracks(again, Trace.make("dive", [0.0], {}))]))


def test_of_many_some_are_named(folder: Path) -> None:
    widgets = tuple(
        Widget(id=f"map_{i}", kind="picture", options={"asset": "old.png"}, place=Place(size=(384.0, 65.0)))
        for i in range(5)
    )
    bound = bind(Project(widgets=widgets), folder=folder)
    (found,) = Inspector(CHECKS).inspect(bound, [Tracks(bound, Trace.make("dive", [0.0], {}))])
    assert found.why.startswith("Map 0, Map 1, Map 2 and 2 more: ")
