"""Plates, zones and screens: added, renamed, changed, removed; invalid edits are reported."""

from __future__ import annotations

import pytest

from avrin.edits.scenery import (
    SIZES,
    plate_added,
    plate_called,
    plate_removed,
    screen_added,
    screen_called,
    screen_removed,
    screen_sized,
    zones_set,
)
from avrin.errors import AvrinError
from avrin.project.project import Plate, Project, Screen, Zone

REEF = Project(
    plates=(Plate(name="reef", picture="art/reef.png"), Plate(name="cave", picture="art/cave.svg")),
    screens=(Screen(name="desk", size=(1920, 1080)), Screen(name="sofa", size=(3840, 2160), safe=0.05)),
)


def test_a_plate_is_called_after_its_file_and_apart_from_others() -> None:
    made, name = plate_added(REEF, "art/wreck at night.png")
    assert (name, made.plates[-1]) == (
        "wreck at night",
        Plate(name="wreck at night", picture="art/wreck at night.png", proportions="keep"),
    )
    assert plate_added(REEF, "other/reef.svg")[1] == "reef 2"
    assert [plate.name for plate in plate_removed(REEF, "reef").plates] == ["cave"]


def test_zones_stay_on_the_screen_and_slivers_are_none() -> None:
    made = zones_set(
        REEF, "cave",
        [
            Zone(box=box, name="way out")
            for box in [(100, 50, 200, 100), (-50, -50, 100, 100), (1900, 1000, 500, 500), (5, 5, 3, 90), (9e9, 0, 9, 9)]
        ],
    )  # fmt: skip
    assert {zone.name for zone in made.plates[1].keep_clear} == {"way out"}
    assert tuple(zone.box for zone in made.plates[1].keep_clear) == (
        (100, 50, 200, 100),
        (0, 0, 50, 50),
        (1900, 1000, 20, 80),
    )
    assert made.plates[0] == REEF.plates[0]


def test_screens_of_common_sizes_and_of_any() -> None:
    project = REEF
    for name, (size, safe) in SIZES.items():
        project, _ = screen_added(project, name, size, safe)
    names = [screen.name for screen in project.screens]
    assert len(set(names)) == len(names) == len(SIZES) + 2
    assert names[2] == "desk 2", "a name that already exists gets a number"
    made = screen_sized(screen_called(REEF, "sofa", " big  room "), "big room", (1000, 500), 0.1)
    assert made.screens[1] == Screen(name="big room", size=(1000, 500), safe=0.1)
    assert [screen.name for screen in screen_removed(made, "desk").screens] == ["big room"]


@pytest.mark.parametrize("name", ["", "   ", "cave", "x" * 61])
def test_names_that_cannot_be(name: str) -> None:
    with pytest.raises(AvrinError):
        plate_called(REEF, "reef", name)
    with pytest.raises(AvrinError):
        screen_called(REEF, "desk", name.replace("cave", "sofa"))
    assert plate_called(REEF, "reef", "reef") == REEF


@pytest.mark.parametrize("size", [(0, 100), (100, 16_385), (-3, 5)])
def test_sizes_that_no_screen_has(size: tuple[int, int]) -> None:
    with pytest.raises(AvrinError, match="is not a valid screen size"):
        screen_added(REEF, "odd", size)
    with pytest.raises(AvrinError, match="is not a valid screen size"):
        screen_sized(REEF, "desk", size)


@pytest.mark.parametrize("size", [(1, 1), (16_384, 1), (1, 16_384)])
def test_sizes_at_the_ends_are_screens(size: tuple[int, int]) -> None:
    assert screen_added(REEF, "odd", size)[0].screens[-1].size == size
    assert screen_sized(REEF, "desk", size, 0.5).screens[0] == Screen(name="desk", size=size, safe=0.5)


def test_the_common_sizes_are_what_people_play_at() -> None:
    assert {name: size for name, (size, _) in SIZES.items()} == {
        "desk": (1920, 1080), "large desk": (2560, 1440), "laptop": (1366, 768), "sixteen to ten": (1920, 1200),
        "wide": (2560, 1080), "very wide": (3840, 1080), "sofa": (3840, 2160), "handheld": (1280, 800),
        "small handheld": (1280, 720), "phone": (2400, 1080), "tablet": (2048, 1536), "old": (1280, 1024),
    }  # fmt: skip
    assert {name: safe for name, (_, safe) in SIZES.items() if safe} == {"sofa": 0.05, "phone": 0.05}


@pytest.mark.parametrize("safe", [-0.01, 0.51])
def test_edges_that_leave_no_room(safe: float) -> None:
    with pytest.raises(AvrinError, match="leaves no room"):
        screen_sized(REEF, "desk", safe=safe)
