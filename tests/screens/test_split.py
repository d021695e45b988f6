"""Split screens: each part is a screen of its own, in which all rules know whose it is; each is drawn, and each is checked."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import numpy as np
import pytest
from PIL import Image

from avrin.binding.binding import bind
from avrin.binding.tracks import Tracks
from avrin.cli import main
from avrin.errors import AvrinError
from avrin.findings.finding import Finding
from avrin.findings.inspector import Inspector
from avrin.findings.registry import CHECKS
from avrin.kinds.shapes import Clip, Group, Picture
from avrin.project.project import (
    Place,
    Plate,
    Project,
    Recording,
    Region,
    Roster,
    Screen,
    ScreenPart,
    Variable,
    Widget,
    Zone,
)
from avrin.render.layout import part_at
from avrin.render.pictures import ground_shapes, hud_shapes
from avrin.render.pixels import pixels
from avrin.render.plates import plate_rect
from avrin.screens.spoken import Spoken
from avrin.storage.files import loads, save
from avrin.trace.frames import Column, Trace
from avrin.trace.store import save_trace

HALVES = (Region(name="left", box=(0, 0, 0.5, 1), slot=0), Region(name="right", box=(0.5, 0, 0.5, 1), slot=1))
COUCH = Screen(name="couch", size=(1920, 1080), views=HALVES, inches=60, metres=3, safe=0.02, scale=1.25)
DESK = Screen(name="desk", size=(1920, 1080))
CREW = Roster(
    name="crew",
    slots=2,
    fields=(Variable(name="air", type="float", low=0, high=60), Variable(name="name", type="text")),
)
VALUES: dict[str, list[Any]] = {"crew[0].air": [50.0, 40.0, 30.0], "crew[1].air": [9.0, 8.0, 7.0]}
VALUES |= {"crew[0].name": ["Ona"] * 3, "crew[1].name": ["Marit who has a very long name"] * 3}


def label(text: str, ident: str = "w", **more: Any) -> Widget:
    place = more.pop("place", Place(offset=(20.0, 20.0), size=(200.0, 40.0)))
    return Widget(id=ident, kind="label", inputs={"text": text, **more.pop("also", {})}, place=place, **more)


def shared(*widgets: Widget, screens: tuple[Screen, ...] = (COUCH,), **more: Any) -> Project:
    return Project(widgets=widgets, rosters=(CREW,), screens=screens, **more)


def tracks(project: Project, **columns: list[Any]) -> Tracks:
    known = {name: Column.of(values) for name, values in {**VALUES, **columns}.items()}
    return Tracks(bind(project), Trace.make("dive", [0.0, 1.0, 2.0], known))


def matches(project: Project) -> list[Finding]:
    over = tracks(project)
    return Inspector(CHECKS).inspect(over.bound, [over])


def test_parts_are_screens_of_their_own() -> None:
    left, right = COUCH.parts
    assert (left.name, left.size, left.corner, left.slot, left.of) == ("couch, left", (960, 1080), (0, 0), 0, "couch")
    assert (right.name, right.size, right.corner, right.slot) == ("couch, right", (960, 1080), (960, 0), 1)
    assert (right.safe, right.scale, right.metres) == (0.02, 1.25, 3)
    assert right.inches == pytest.approx(60 * np.hypot(960, 1080) / np.hypot(1920, 1080))
    assert (DESK.parts, shared(screens=(DESK, COUCH)).whole_screens) == ((), (DESK, left, right))
    assert [part_at(COUCH, x, 5).name for x in (0, 959, 960, 1919, 1920)] == [
        "couch, left", "couch, left", "couch, right", "couch, right", "couch",
    ]  # fmt: skip


def test_all_rules_know_whose_part_it_is() -> None:
    """In a template, a derived value, a condition and an option alike; a repeated widget has slots of its own."""
    also = {"visible": "crew[slot].air < 45"}
    project = shared(
        label("{crew[slot].air | 0} {mine | 0} {slot}", also=also),
        label("{slot}", "each", repeat="crew"),
        derived=(_own(),),
    )
    over = tracks(project)
    over.bound.raise_first()
    spoken = Spoken(over)
    for slot, given, seen in (
        (0, ["50 100 0", "40 80 0", "30 60 0"], [False, True, True]),
        (1, ["9 18 1", "8 16 1", "7 14 1"], [True] * 3),
    ):
        mine = spoken.tracks("own", slot)
        states = [mine.state(mine.bound.widgets["w"], frame) for frame in range(3)]
        assert [state["text"] for state in states] == given
        assert [state["visible"] for state in states] == seen
        copies = mine.bound.widgets["each"].each()
        assert [mine.state(copy, 0)["text"] for copy in copies] == ["0", "1"]
    assert over.bound.slot == 0


def _own() -> Any:
    from avrin.project.project import Derived

    return Derived(name="mine", rule="crew[slot].air * 2")


def test_without_a_split_screen_nobody_knows_a_slot() -> None:
    bound = bind(shared(label("{slot}"), screens=(DESK,)))
    (error,) = bound.errors.values()
    assert "on a split screen" in error.problem
    assert bind(bound.project, bound, slot=1).slot is None


def test_each_part_draws_its_own_player_over_its_own_piece_of_the_plate(tmp_path: Path) -> None:
    Image.new("RGB", (64, 36), "#336699").save(tmp_path / "reef.png")
    plate = Plate(name="reef", picture="reef.png")
    over = tracks(shared(label("{crew[slot].air | 0}"), plates=(plate,)))
    shapes = hud_shapes(over, 0, COUCH, Spoken(over).seen_by("own"))
    assert [(shape.dx, shape.dy, shape.clip) for shape in shapes if isinstance(shape, Group)] == [
        (0, 0, Clip(0, 0, 960, 1080)), (960, 0, Clip(0, 0, 960, 1080)),
    ]  # fmt: skip
    assert _texts(shapes) == ["50", "9"]
    _, *grounds = ground_shapes(over.bound.project, COUCH, plate, tmp_path)
    for ground in grounds:
        assert isinstance(ground, Group)
        (picture,) = ground.shapes
        assert isinstance(picture, Picture)
        assert (picture.x, picture.y, picture.width, picture.height) == (-480, 0, 1920, 1080), "as large as fills it"
    unlike = Screen(name="odd", size=(960, 1080))
    assert plate_rect(over.bound.project, None, unlike, tmp_path) == (0, 0, 960, 1080)
    assert plate_rect(over.bound.project, plate, unlike, tmp_path) == (0, 270, 960, 540), "kept, beside hatched paper"


def _texts(shapes: list[Any]) -> list[str]:
    from avrin.kinds.shapes import TextRun

    given = []
    for shape in shapes:
        given += (
            _texts([*shape.shapes]) if isinstance(shape, Group) else [shape.text] if isinstance(shape, TextRun) else []
        )
    return given


def test_pictures_of_a_split_screen_and_of_one_part(tmp_path: Path) -> None:
    bar = Widget(
        id="air", kind="bar", inputs={"value": "crew[slot].air", "full": "60"},
        place=Place(offset=(100.0, 100.0), size=(600.0, 100.0)), look={"fill": "#ff0000", "back": "#0000ff", "edge": ""},
    )  # fmt: skip
    plain = Screen(name="couch", size=(960, 540), views=HALVES)
    save(shared(bar, screens=(plain,), traces=(Recording(path="dive.csv"),)), tmp_path / "p.avrin")
    save_trace(tracks(shared()).trace, tmp_path / "dive.csv")
    common = [str(tmp_path / "p.avrin"), "--trace", str(tmp_path / "dive.csv"), "--at", "0"]
    assert main(["frame", *common, "--screen", "couch", "--out", str(tmp_path / "whole.svg")]) == 0
    assert main(["frame", *common, "--screen", "couch, right", "--out", str(tmp_path / "part.svg")]) == 0
    whole = pixels(str(tmp_path / "whole.svg"), 960, 540)
    alone = pixels(str(tmp_path / "part.svg"), 480, 540)
    assert whole is not None
    assert alone is not None
    row, part = whole[75] * 255, alone[75] * 255
    red = [(one[:, 0] > 200) & (one[:, 2] < 60) for one in (row[:480], row[480:], part)]
    assert [int(one.sum()) for one in red] == pytest.approx([300 * 50 / 60, 300 * 9 / 60, 300 * 9 / 60], abs=3)
    assert (row[480:] == part).all()


# -- what is found -----------------------------------------------------------------------------------------------------


PLAIN = Screen(name="couch", size=(1920, 1080), views=HALVES)


def test_what_lies_off_a_part_is_reported_of_it() -> None:
    wide = label("A label that is wide", place=Place(offset=(800.0, 20.0), size=(400.0, 40.0)))
    codes = {(one.code, one.screen) for one in matches(shared(wide, screens=(DESK, PLAIN))) if one.screen}
    assert codes == {("off-screen", "couch, left"), ("off-screen", "couch, right")}
    narrow = replace_views(PLAIN, ((0, 0, 0.9, 1), (0.9, 0, 0.1, 1)))
    told = [one for one in matches(shared(label("A label that is wide"), screens=(narrow,))) if one.screen]
    assert [(one.code, one.screen) for one in told] == [("off-screen", "couch, right")]


def replace_views(screen: Screen, boxes: tuple[Any, ...]) -> Screen:
    from msgspec.structs import replace

    return replace(screen, views=tuple(replace(view, box=box) for view, box in zip(screen.views, boxes, strict=True)))


def test_what_holds_for_one_player_alone_is_reported_with_whose_it_is_and_what_must_hold_for_all_is_not() -> None:
    """Only the second player runs out of air: that the warning is never seen is wrong of the HUD, though true of the first."""
    warn = label("Breathe", also={"visible": "crew[slot].air < 10"})
    assert not [one for one in matches(shared(warn)) if one.code == "never-visible"]
    nobody = label("Breathe", also={"visible": "crew[slot].air < 2"})
    assert [one.widget for one in matches(shared(nobody)) if one.code == "never-visible"] == ["w"]
    (one,) = [one for one in matches(shared(label("{crew[slot].name}"), screens=(PLAIN,))) if one.code == "outgrows"]
    assert one.why.endswith(", as slot 1 sees it")


def test_zones_lie_in_each_part_where_the_plate_does() -> None:
    """The plate is cut at both sides: its middle is at the middle of each part."""
    plate = Plate(name="reef", picture="reef.png", keep_clear=(Zone(box=(860, 440, 200, 200)),))
    over = label("Over", place=Place(anchor="center", pivot="center", size=(100.0, 40.0)))
    beside = label("Beside", "v", place=Place(anchor="left", pivot="left", size=(100.0, 40.0), offset=(30.0, 0.0)))
    told = [
        one.widget
        for one in matches(shared(over, beside, plates=(plate,), screens=(PLAIN,)))
        if one.code == "keep-clear"
    ]
    assert told == ["w"]


# -- bad input ---------------------------------------------------------------------------------------------------------


@pytest.mark.parametrize(
    ("views", "given"),
    [
        ([{"name": "a", "box": [0.6, 0, 0.5, 1]}], "'a' reaches out of the screen"),
        ([{"name": "a", "box": [0, 0, 0, 1]}], "'a' reaches out of the screen"),
        ([{"name": "a", "box": [0, 0, 1, 1]}] * 2, "'a' appears twice"),
        ([{"name": "a", "box": [0, 0, 1.5, 1]}], "1.5"),
        ([{"name": str(i), "box": [0, 0, 1, 1]} for i in range(5)], "4"),
    ],
)  # fmt: skip
def test_parts_that_cannot_be_are_reported(views: list[Any], given: str) -> None:
    import json

    raw = {"format": "avrin/1", "screens": [{"name": "couch", "size": [1920, 1080], "views": views}]}
    with pytest.raises(AvrinError) as caught:
        loads(json.dumps(raw).encode())
    assert given in str(caught.value)


def test_a_part_is_in_no_file() -> None:
    assert isinstance(COUCH.parts[0], ScreenPart)
    assert "corner" not in str(Project(screens=(COUCH,)).screens[0])
