"""Plates and screens of a project: added, called, changed, taken away; and the zones that a plate keeps clear."""

from __future__ import annotations

import re
from collections.abc import Callable, Sequence
from pathlib import PurePosixPath

from msgspec.structs import replace

from avrin.model import USUAL_SCREEN, AvrinError, Plate, Project, Proportions, Region, Screen, Zone

__all__ = [
    "SIZES",
    "SPLITS",
    "film_added",
    "film_of_recording",
    "film_paced",
    "film_timed",
    "plate_added",
    "plate_called",
    "plate_proportioned",
    "plate_removed",
    "screen_added",
    "screen_called",
    "screen_removed",
    "screen_seen",
    "screen_sized",
    "screen_split",
    "split_of",
    "view_changed",
    "zones_set",
]

LONGEST = 60
FURTHEST = 1_000_000.0  # seconds between a film's beginning and a recording's
LARGEST = 16_384
MOST_SLOT = 255
# Sizes people play at, in pixels, and what they are called; the far screen has an edge that may not be seen.
SIZES: dict[str, tuple[tuple[int, int], float]] = {
    "desk": ((1920, 1080), 0.0), "large desk": ((2560, 1440), 0.0), "laptop": ((1366, 768), 0.0),
    "sixteen to ten": ((1920, 1200), 0.0), "wide": ((2560, 1080), 0.0), "very wide": ((3840, 1080), 0.0),
    "sofa": ((3840, 2160), 0.05), "handheld": ((1280, 800), 0.0), "small handheld": ((1280, 720), 0.0),
    "phone": ((2400, 1080), 0.05), "tablet": ((2048, 1536), 0.0), "old": ((1280, 1024), 0.0),
}  # fmt: skip
Box = tuple[float, float, float, float]


def plate_added(project: Project, picture: str) -> tuple[Project, str]:
    """The project with a picture as one more plate, called after its file; and its name."""
    stem = PurePosixPath(picture).stem[:LONGEST] or "plate"
    name = _free(stem, [plate.name for plate in project.plates])
    return replace(project, plates=(*project.plates, Plate(name=name, picture=picture, proportions="keep"))), name


def film_added(project: Project, film: str, trace: str = "") -> tuple[Project, str]:
    """The project with a film as one more plate, called after its file; and its name. trace: the key of its recording."""
    stem = re.sub(r"[#_.\- ]+$", "", PurePosixPath(film).stem)[:LONGEST] or "film"
    name = _free(stem, [plate.name for plate in project.plates])
    return replace(
        project, plates=(*project.plates, Plate(name=name, film=film, trace=trace, proportions="keep"))
    ), name


def film_timed(project: Project, name: str, offset: float) -> Project:
    """The project in which a plate's film shows another of its seconds at the recording's beginning. Raises AvrinError."""
    if not abs(offset) <= FURTHEST:
        raise AvrinError(f"{offset:g} s is no second of a film", advice=f"Write up to {FURTHEST:,.0f}, or below 0")
    return _with_plate(project, name, lambda plate: replace(plate, offset=offset))


def film_paced(project: Project, name: str, rate: float) -> Project:
    """The project in which numbered pictures follow one another at another rate, 0 for thirty a second. Raises AvrinError."""
    if not 0 <= rate <= 1000:
        raise AvrinError(f"{rate:g} pictures a second are none that are shown", advice="Write 1 to 1000")
    return _with_plate(project, name, lambda plate: replace(plate, rate=rate))


def film_of_recording(project: Project, name: str, trace: str) -> Project:
    """The project in which a plate's film was made with another recording, "" for any."""
    return _with_plate(project, name, lambda plate: replace(plate, trace=trace))


def plate_proportioned(project: Project, name: str, proportions: Proportions) -> Project:
    """Return the project in which a plate is drawn in other proportions."""
    return _with_plate(project, name, lambda plate: replace(plate, proportions=proportions))


def plate_called(project: Project, name: str, new: str) -> Project:
    """The project in which a plate has another name. Raises AvrinError for a name that cannot be."""
    plain = _checked(new, [plate.name for plate in project.plates if plate.name != name], "plate")
    return _with_plate(project, name, lambda plate: replace(plate, name=plain))


def zones_set(project: Project, name: str, zones: Sequence[Zone]) -> Project:
    """The project in which a plate keeps other zones clear, cut at the screen's edges where they stay; slivers are none."""
    width, height = project.reference
    kept = []
    for zone in zones:
        x, y, wide, high = zone.box
        left, right = (x, x + wide) if zone.x else (min(max(x, 0.0), width), min(max(x + wide, 0.0), width))
        top, bottom = (y, y + high) if zone.y else (min(max(y, 0.0), height), min(max(y + high, 0.0), height))
        if right - left >= 4 and bottom - top >= 4:
            kept.append(replace(zone, box=(left, top, right - left, bottom - top)))
    return _with_plate(project, name, lambda plate: replace(plate, keep_clear=tuple(kept)))


def plate_removed(project: Project, name: str) -> Project:
    """The project without a plate; its picture stays in the folder."""
    return replace(project, plates=tuple(plate for plate in project.plates if plate.name != name))


def screen_added(project: Project, name: str, size: tuple[int, int], safe: float = 0.0) -> tuple[Project, str]:
    """The project with one more screen, and its name. Raises AvrinError for a size that none has.

    A project without screens is previewed on a usual one, which stays beside the one that is added.
    """
    _check_size(size)
    usual = () if (name, size) == (USUAL_SCREEN.name, USUAL_SCREEN.size) else (USUAL_SCREEN,)
    screens = project.screens or usual
    name = _free(name, [screen.name for screen in screens])
    return replace(project, screens=(*screens, Screen(name=name, size=size, safe=safe))), name


def screen_called(project: Project, name: str, new: str) -> Project:
    """The project in which a screen has another name. Raises AvrinError for a name that cannot be."""
    plain = _checked(new, [screen.name for screen in project.screens if screen.name != name], "screen")
    screens = (replace(one, name=plain) if one.name == name else one for one in project.screens)
    return replace(project, screens=tuple(screens))


def screen_sized(
    project: Project, name: str, size: tuple[int, int] | None = None, safe: float | None = None
) -> Project:
    """The project in which a screen has another size, or another unsafe edge, 0–0.5 of each side. Raises AvrinError."""
    if size is not None:
        _check_size(size)
    if safe is not None and not 0 <= safe <= 0.5:
        raise AvrinError(f"an edge of {safe:.0%} leaves no room", advice="Write 0 to 50")

    def changed(screen: Screen) -> Screen:
        return replace(screen, size=size or screen.size, safe=screen.safe if safe is None else safe)

    return replace(project, screens=tuple(changed(one) if one.name == name else one for one in project.screens))


SEEN = {
    "scale": ("a player's size", 0.25, 4.0),
    "inches": ("a diagonal", 0.0, 1000.0),
    "metres": ("a distance", 0.0, 100.0),
}


def screen_seen(project: Project, name: str, what: str, number: float) -> Project:
    """The project in which a screen's `scale`, `inches` or `metres` is another. Raises AvrinError."""
    said, least, most = SEEN[what]
    if not least <= number <= most:
        raise AvrinError(f"{number:g} is no {said.partition(' ')[2]}", advice=f"Write {least:g} to {most:g}")
    screens = (replace(one, **{what: number}) if one.name == name else one for one in project.screens)
    return replace(project, screens=tuple(screens))


SPLITS: dict[str, tuple[tuple[str, Box], ...]] = {
    "one": (),
    "side by side": (("left", (0, 0, 0.5, 1)), ("right", (0.5, 0, 0.5, 1))),
    "above each other": (("upper", (0, 0, 1, 0.5)), ("lower", (0, 0.5, 1, 0.5))),
    "in four": (
        ("upper left", (0, 0, 0.5, 0.5)), ("upper right", (0.5, 0, 0.5, 0.5)),
        ("lower left", (0, 0.5, 0.5, 0.5)), ("lower right", (0.5, 0.5, 0.5, 0.5)),
    ),
}  # fmt: skip


def screen_split(project: Project, name: str, how: str) -> Project:
    """The project in which a screen is split for players, the first of whom has slot 0. how: a word of `SPLITS`."""
    views = tuple(Region(name=part, box=box, slot=slot) for slot, (part, box) in enumerate(SPLITS[how]))
    screens = (replace(one, views=views) if one.name == name else one for one in project.screens)
    return replace(project, screens=tuple(screens))


def split_of(screen: Screen) -> str:
    """How a screen is split, as `SPLITS` says it; "otherwise" where that does not."""
    boxes = [view.box for view in screen.views]
    return next((how for how, parts in SPLITS.items() if [box for _, box in parts] == boxes), "otherwise")


def view_changed(project: Project, of: str, number: int, /, **changes: object) -> Project:
    """The project in which a screen's part has another `name`, `slot` or `box`. Raises AvrinError for one that cannot be."""
    screen = next(one for one in project.screens if one.name == of)
    views = [replace(view, **changes) if i == number else view for i, view in enumerate(screen.views)]
    changed = views[number]
    _checked(changed.name, [view.name for i, view in enumerate(views) if i != number], "part")
    x, y, wide, high = changed.box
    if min(x, y) < 0 or min(wide, high) <= 0 or x + wide > 1 + 1e-9 or y + high > 1 + 1e-9:
        raise AvrinError(
            "that reaches out of the screen", advice="Write left, top, width and height in percent, as 0, 0, 50, 100"
        )
    if not 0 <= changed.slot <= MOST_SLOT:
        raise AvrinError(f"there is no slot {changed.slot}", advice=f"Write 0 to {MOST_SLOT}")
    screens = (replace(one, views=tuple(views)) if one.name == of else one for one in project.screens)
    return replace(project, screens=tuple(screens))


def screen_removed(project: Project, name: str) -> Project:
    """The project without a screen."""
    return replace(project, screens=tuple(screen for screen in project.screens if screen.name != name))


def _with_plate(project: Project, name: str, change: Callable[[Plate], Plate]) -> Project:
    return replace(project, plates=tuple(change(p) if p.name == name else p for p in project.plates))


def _check_size(size: tuple[int, int]) -> None:
    if not all(1 <= side <= LARGEST for side in size):
        raise AvrinError(f"{size[0]} × {size[1]} is no screen", advice=f"1 to {LARGEST:,} pixels a side")


def _checked(name: str, taken: Sequence[str], what: str) -> str:
    plain = " ".join(name.split())
    if not plain or len(plain) > LONGEST:
        raise AvrinError(f"'{name[:80]}' is no name of a {what}", advice=f"1 to {LONGEST} letters")
    if plain in taken:
        raise AvrinError(f"there is a {what} '{plain}' already", advice="Choose another name")
    return plain


def _free(wanted: str, taken: Sequence[str]) -> str:
    found, number = wanted, 2
    while found in taken:
        found, number = f"{wanted} {number}", number + 1
    return found
