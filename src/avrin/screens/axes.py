"""Axes of the screens sheet: screens, plates, languages, colour vision, sizes. A new axis is one entry here."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from pathlib import Path

from msgspec import Struct
from msgspec.structs import replace

from avrin.binding.player_options import scaled
from avrin.errors import AvrinError, nearest
from avrin.i18n.languages import language_codes, language_name
from avrin.i18n.own_language import OWN
from avrin.project.project import Plate, PlayerOption, Project, Screen
from avrin.render.colour import EYES
from avrin.screens.distance import DISTANCE

__all__ = ["AXES", "FULL", "NO_PLATE", "Axis", "Cell", "Grid", "grid", "judged_as", "usual_cell"]

SIZES = (0.75, 1.0, 1.25, 1.5, 2.0)
FULL = next(iter(EYES))


class Cell(Struct, frozen=True):
    """One view of a HUD. plate: None for a plain background. eyes: one of `avrin.render.EYES`, or `DISTANCE`.

    language: one of `avrin.i18n.language_codes`. player: the slot of the player whose HUD it is; None for the usual one.
    option: the name of the player's option, "" for none; None for the usual one. The screen has its size already.
    """

    screen: Screen
    plate: Plate | None = None
    eyes: str = FULL
    language: str = OWN
    player: int | None = None
    option: str | None = None


class Axis(Struct, frozen=True):
    """One axis. values: a project's values by name: functions that set it in a cell.

    describe: a cell's own value, in words. title: a value's name on a sheet.
    """

    name: str
    values: Callable[[Project, Path], dict[str, Callable[[Cell], Cell]]]
    describe: Callable[[Cell], str]
    title: Callable[[str], str] = str


class Grid(Struct, frozen=True):
    """Cells in rows and columns, with their names; "" without an axis."""

    rows: tuple[str, ...]
    columns: tuple[str, ...]
    cells: tuple[tuple[Cell, ...], ...]


def screens_of(project: Project) -> tuple[Screen, ...]:
    """Return the project's screens; its reference size if it has none."""
    return project.screens or (Screen(name="reference", size=project.reference),)


def _screens(project: Project, _folder: Path) -> dict[str, Callable[[Cell], Cell]]:
    def on(screen: Screen) -> Callable[[Cell], Cell]:
        return lambda cell: replace(cell, screen=replace(screen, scale=_scaled(screen, cell)))

    return {screen.name: on(screen) for screen in screens_of(project)}


def _scaled(screen: Screen, cell: Cell) -> float:
    """Return a chosen size unchanged on every screen; otherwise each screen has its own."""
    return cell.screen.scale if cell.screen.scale != 1.0 else screen.scale


def _plates(project: Project, _folder: Path) -> dict[str, Callable[[Cell], Cell]]:
    def over(plate: Plate | None) -> Callable[[Cell], Cell]:
        return lambda cell: replace(cell, plate=plate)

    return {plate.name: over(plate) for plate in project.plates} or {NO_PLATE: over(None)}


def _eyes(_project: Project, _folder: Path) -> dict[str, Callable[[Cell], Cell]]:
    def by(eyes: str) -> Callable[[Cell], Cell]:
        return lambda cell: replace(cell, eyes=eyes)

    return {eyes: by(eyes) for eyes in (*EYES, DISTANCE)}


def _sizes(_project: Project, _folder: Path) -> dict[str, Callable[[Cell], Cell]]:
    def at(size: float) -> Callable[[Cell], Cell]:
        return lambda cell: replace(cell, screen=replace(cell.screen, scale=size))

    return {f"{size:.0%}": at(size) for size in SIZES}


def _languages(project: Project, folder: Path) -> dict[str, Callable[[Cell], Cell]]:
    def speaking(code: str) -> Callable[[Cell], Cell]:
        return lambda cell: replace(cell, language=code)

    return {code: speaking(code) for code in language_codes(project, folder)}


def _players(project: Project, _folder: Path) -> dict[str, Callable[[Cell], Cell]]:
    def seen_as(slot: int | None) -> Callable[[Cell], Cell]:
        return lambda cell: replace(cell, player=slot)

    slots = project.slots if project.players else ()
    return {f"player {slot + 1}": seen_as(slot) for slot in slots} or {NO_PLAYERS: seen_as(None)}


def _options(project: Project, _folder: Path) -> dict[str, Callable[[Cell], Cell]]:
    def with_option(option: PlayerOption | None) -> Callable[[Cell], Cell]:
        name = option.name if option is not None else ""
        return lambda cell: replace(cell, option=name, screen=scaled(cell.screen, option))

    return {NO_OPTION: with_option(None), **{option.name: with_option(option) for option in project.options}}


NO_PLATE = "no plate"
NO_PLAYERS, NO_OPTION = "the only one", "as designed"
AXES: dict[str, Axis] = {
    axis.name: axis
    for axis in (
        Axis("screens", _screens, lambda cell: cell.screen.name),
        Axis("plates", _plates, lambda cell: cell.plate.name if cell.plate is not None else NO_PLATE),
        Axis("languages", _languages, lambda cell: cell.language, language_name),
        Axis("eyes", _eyes, lambda cell: cell.eyes),
        Axis("sizes", _sizes, lambda cell: f"{cell.screen.scale:.0%}"),
        Axis("players", _players, lambda cell: NO_PLAYERS if cell.player is None else f"player {cell.player + 1}"),
        Axis("options", _options, lambda cell: cell.option or NO_OPTION),
    )
}


def usual_cell(project: Project) -> Cell:
    """Return the first screen over the first plate, with normal vision."""
    return Cell(screens_of(project)[0], project.plates[0] if project.plates else None)


def grid(project: Project, rows: str, columns: str, rest: Cell, folder: Path) -> Grid:
    """Return all combinations of two axes, "" for none; the other values come from `rest`. Raises AvrinError."""
    down, across = (_along(project, folder, name) for name in (rows, columns))
    if rows and rows == columns:
        raise AvrinError(f"rows and columns are both {rows}", advice=f"There are {', '.join(AXES)}")
    # A screen has its own size, so it is set first.
    first = [columns, rows] if columns == "screens" else [rows, columns]
    cells = []
    for row in down:
        line = []
        for column in across:
            cell = rest
            for name in first:
                change = {rows: down, columns: across}[name][row if name == rows else column] if name else None
                cell = change(cell) if change is not None else cell
            line.append(cell)
        cells.append(tuple(line))
    return Grid(_titles(rows, down), _titles(columns, across), tuple(cells))


def _titles(name: str, values: Iterable[str]) -> tuple[str, ...]:
    return tuple(AXES[name].title(value) if name else value for value in values)


def _along(project: Project, folder: Path, name: str) -> dict[str, Callable[[Cell], Cell]]:
    if not name:
        return {"": lambda cell: cell}
    if name not in AXES:
        close = nearest(name, AXES)
        raise AvrinError(
            f"there is no axis '{name}'" + (f": did you mean '{close}'?" if close else ""),
            advice="" if close else f"There are {', '.join(AXES)}",
        )
    return AXES[name].values(project, folder)


def judged_as(cell: Cell, slot: int | None) -> list[tuple[Screen, Plate | None, str, str]]:
    """Return a cell as the checks see it: screen, plate, eyes ("" for normal vision) and language, see `avrin.findings.View`.

    A split screen gives a view per part. A size other than the screen's own is part of the screen's name.
    """
    eyes = cell.eyes if cell.eyes not in (FULL, DISTANCE) else ""
    parts = [part for part in cell.screen.parts if part.slot == slot] if cell.screen.parts else [cell.screen]
    sized = "" if cell.screen.scale == 1.0 else f" at {cell.screen.scale:.0%}"
    return [(replace(part, name=f"{part.name}{sized}"), cell.plate, eyes, cell.language) for part in parts]
