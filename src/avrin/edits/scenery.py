"""Edit plates and screens of a project, and the zones a plate keeps clear."""

from __future__ import annotations

import re
from collections.abc import Callable, Sequence
from pathlib import PurePosixPath

from msgspec.structs import replace

from avrin.errors import AvrinError
from avrin.project.project import USUAL_SCREEN, Plate, Project, Proportions, Region, Screen, Zone

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
FURTHEST = 1_000_000.0  # seconds between a film's start and a recording's
LARGEST = 16_384
MOST_SLOT = 255
# Common screen sizes in pixels, with names; the distant screen has an edge that may be cut off.
SIZES: dict[str, tuple[tuple[int, int], float]] = {
    "desk": ((1920, 1080), 0.0), "large desk": ((2560, 1440), 0.0), "laptop": ((1366, 768), 0.0),
    "sixteen to ten": ((1920, 1200), 0.0), "wide": ((2560, 1080), 0.0), "very wide": ((3840, 1080), 0.0),
    "sofa": ((3840, 2160), 0.05), "handheld": ((1280, 800), 0.0), "small handheld": ((1280, 720), 0.0),
    "phone": ((2400, 1080), 0.05), "tablet": ((2048, 1536), 0.0), "old": ((1280, 1024), 0.0),
}  # fmt: skip
Box = tuple[float, float, float, float]


def plate_added(project: Project, picture: str) -> tuple[Project, str]:
    """Return the project with a picture as one more plate, named after its file; and the name."""
    stem = PurePosixPath(picture).stem[:LONGEST] or "plate"
    name = _free(stem, [plate.name for plate in project.plates])
    return replace(project, plates=(*project.plates, Plate(name=name, picture=picture, proportions="keep"))), name


def film_added(project: Project, film: str, trace: str = "") -> tuple[Project, str]:
    """Return the project with a film as one more plate, named after its file; and the name. trace: its recording's key."""
    stem = re.sub(r"[#_.\- ]+$", "", PurePosixPath(film).stem)[:LONGEST] or "film"
    name = _free(stem, [plate.name for plate in project.plates])
    return replace(
        project, plates=(*project.plates, Plate(name=name, film=film, trace=trace, proportions="keep"))
    ), name


def film_timed(project: Project, name: str, offset: float) -> Project:
    """Return the project with a plate's film at another offset from the recording's start. Raises AvrinError."""
    if not abs(offset) <= FURTHEST:
        raise AvrinError(f"{offset:g} s is out of range", advice=f"Write up to {FURTHEST:,.0f}, or below 0")
    return _with_plate(project, name, lambda plate: replace(plate, offset=offset))


def film_paced(project: Project, name: str, rate: float) -> Project:
    """Return the project with another rate of numbered pictures, 0 for 30 per second. Raises AvrinError."""
    if not 0 <= rate <= 1000:
        raise AvrinError(f"{rate:g} pictures per second is out of range", advice="Write 1 to 1000")
    return _with_plate(project, name, lambda plate: replace(plate, rate=rate))


def film_of_recording(project: Project, name: str, trace: str) -> Project:
    """Return the project with a plate's film assigned to another recording, "" for any."""
    return _with_plate(project, name, lambda plate: replace(plate, trace=trace))


def plate_proportioned(project: Project, name: str, proportions: Proportions) -> Project:
    """Return the project with a plate's proportions changed."""
    return _with_plate(project, name, lambda plate: replace(plate, proportions=proportions))


def plate_called(project: Project, name: str, new: str) -> Project:
    """Return the project with a plate renamed. Raises AvrinError for an invalid name."""
    plain = _checked(new, [plate.name for plate in project.plates if plate.name != name], "plate")
    return _with_plate(project, name, lambda plate: replace(plate, name=plain))


def zones_set(project: Project, name: str, zones: Sequence[Zone]) -> Project:
    """Return the project with a plate's zones replaced; static ones are clipped to the screen, slivers dropped."""
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
    """Return the project without a plate; its picture file remains."""
    return replace(project, plates=tuple(plate for plate in project.plates if plate.name != name))


def screen_added(project: Project, name: str, size: tuple[int, int], safe: float = 0.0) -> tuple[Project, str]:
    """Return the project with one more screen, and its name. Raises AvrinError for an invalid size.

    A project without screens has a default one, which is kept next to the added one.
    """
    _check_size(size)
    usual = () if (name, size) == (USUAL_SCREEN.name, USUAL_SCREEN.size) else (USUAL_SCREEN,)
    screens = project.screens or usual
    name = _free(name, [screen.name for screen in screens])
    return replace(project, screens=(*screens, Screen(name=name, size=size, safe=safe))), name


def screen_called(project: Project, name: str, new: str) -> Project:
    """Return the project with a screen renamed. Raises AvrinError for an invalid name."""
    plain = _checked(new, [screen.name for screen in project.screens if screen.name != name], "screen")
    screens = (replace(one, name=plain) if one.name == name else one for one in project.screens)
    return replace(project, screens=tuple(screens))


def screen_sized(
    project: Project, name: str, size: tuple[int, int] | None = None, safe: float | None = None
) -> Project:
    """Return the project with a screen's size or safe margin changed, 0–0.5 of each side. Raises AvrinError."""
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
    """Return the project with a screen's `scale`, `inches` or `metres` changed. Raises AvrinError."""
    _, least, most = SEEN[what]
    if not least <= number <= most:
        raise AvrinError(f"{number:g} is out of range", advice=f"Write {least:g} to {most:g}")
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
    """Return the project with a screen split for players, the first with slot 0. how: a key of `SPLITS`."""
    views = tuple(Region(name=part, box=box, slot=slot) for slot, (part, box) in enumerate(SPLITS[how]))
    screens = (replace(one, views=views) if one.name == name else one for one in project.screens)
    return replace(project, screens=tuple(screens))


def split_of(screen: Screen) -> str:
    """Return how a screen is split, a key of `SPLITS`; "otherwise" for another division."""
    boxes = [view.box for view in screen.views]
    return next((how for how, parts in SPLITS.items() if [box for _, box in parts] == boxes), "otherwise")


def view_changed(project: Project, of: str, number: int, /, **changes: object) -> Project:
    """Return the project with a part's `name`, `slot` or `box` changed. Raises AvrinError for an invalid one."""
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
    """Return the project without a screen."""
    return replace(project, screens=tuple(screen for screen in project.screens if screen.name != name))


def _with_plate(project: Project, name: str, change: Callable[[Plate], Plate]) -> Project:
    return replace(project, plates=tuple(change(p) if p.name == name else p for p in project.plates))


def _check_size(size: tuple[int, int]) -> None:
    if not all(1 <= side <= LARGEST for side in size):
        raise AvrinError(
            f"{size[0]} × {size[1]} is not a valid screen size", advice=f"Use 1 to {LARGEST:,} pixels per side"
        )


def _checked(name: str, taken: Sequence[str], what: str) -> str:
    plain = " ".join(name.split())
    if not plain or len(plain) > LONGEST:
        raise AvrinError(f"'{name[:80]}' is not a valid {what} name", advice=f"Use 1 to {LONGEST} letters")
    if plain in taken:
        raise AvrinError(f"there is a {what} '{plain}' already", advice="Choose another name")
    return plain


def _free(wanted: str, taken: Sequence[str]) -> str:
    found, number = wanted, 2
    while found in taken:
        found, number = f"{wanted} {number}", number + 1
    return found
