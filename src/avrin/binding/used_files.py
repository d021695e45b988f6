"""Files a project draws with: pictures, glyph sheets and fonts named in options, looks and texts, and its plates."""

from __future__ import annotations

import functools
from collections.abc import Iterable
from pathlib import Path, PurePosixPath
from typing import Annotated, get_args, get_origin

import msgspec
from msgspec import Struct
from msgspec.structs import FieldInfo

from avrin.binding.bound import Bound, BoundWidget
from avrin.binding.places import is_template, rule_at, rule_places
from avrin.errors import AvrinError
from avrin.kinds.assets import Asset, icon_name
from avrin.kinds.glyph_sheet import GlyphSheet
from avrin.kinds.look import Typeface
from avrin.project.project import Plate, Project
from avrin.rules.template import ICON_MARK, icon_pieces
from avrin.storage.files import inside

__all__ = ["drawn_with", "files_used", "in_texts_of"]


def files_used(bound: Bound) -> list[str]:
    """Return the paths in the project's folder that it names, existing or not, without duplicates and recordings."""
    texts = in_texts_of(bound.project)
    named = [one for ident, widget in bound.widgets.items() for one in (*drawn_with(widget), *texts.get(ident, ()))]
    files = [value for sort, value in named if sort == "font" or icon_name(value) is None]
    behind = [name for plate in bound.project.plates for name in _files_of(plate, bound.folder)]
    return list(dict.fromkeys([*behind, *files]))


def _files_of(plate: Plate, folder: Path) -> list[str]:
    """Return a plate's picture, its film, or all its numbered pictures."""
    try:
        film = inside(folder, plate.film) if plate.film else None
    except AvrinError:
        return []  # reported by the checks
    own = _footage_of(film) if film is not None else []
    there = PurePosixPath(plate.film).parent
    return [*filter(None, [plate.picture]), *((there / name).as_posix() for name in own)]


def _footage_of(film: Path) -> list[str]:
    from avrin.video.open_video import footage_files  # late: 3 ms

    return [one.relative_to(film.parent).as_posix() for one in footage_files(film)]


def drawn_with(widget: BoundWidget) -> list[tuple[str, str]]:
    """Return assets and fonts that a widget's options and looks name, each as "picture" or "font" with its name."""
    return [*_names_in(widget.options), *(one for look in widget.looks.values() for one in _names_in(look))]


def in_texts_of(project: Project) -> dict[str, list[tuple[str, str]]]:
    """Return icons in the texts of widgets, by widget id."""
    found: dict[str, list[tuple[str, str]]] = {}
    for place in rule_places(project):
        text = rule_at(project, place) if place.widget else ""
        if ICON_MARK in text and is_template(project, place):
            found.setdefault(place.widget, []).extend(("picture", name) for _, name in icon_pieces(text) if name)
    return found


def _names_in(struct: Struct) -> Iterable[tuple[str, str]]:
    """Yield assets and fonts that an option or a look names."""
    for info in _fields(type(struct)):
        yield from _of_type(info.type, getattr(struct, info.name))


@functools.cache
def _fields(struct: type[Struct]) -> tuple[FieldInfo, ...]:
    return msgspec.structs.fields(struct)


def _of_type(kind: object, value: object) -> Iterable[tuple[str, str]]:
    if isinstance(value, GlyphSheet):
        yield "picture", value.picture
    elif kind == Asset and value and isinstance(value, str):
        yield "picture", value
    elif kind == Typeface and value and isinstance(value, str):
        yield "font", value
    elif get_origin(kind) is dict and isinstance(value, dict) and get_args(kind)[1] == Asset:
        yield from (("picture", part) for part in value.values() if part)
    elif get_origin(kind) is Annotated and isinstance(value, dict):
        yield from _of_type(get_args(kind)[0], value)
