"""Looks of widgets: the common fields, and how bands override them."""

import copy
import functools
import re
from collections.abc import Mapping
from typing import Annotated, Any, Literal, TypeVar

import msgspec
from msgspec import Meta, Struct

from avrin.errors import AvrinError
from avrin.project.project import Widget
from avrin.project.validation import Steps, first_fault

__all__ = [
    "CALM",
    "CRITICAL",
    "LOW",
    "PALE",
    "SEA",
    "Colour",
    "KeyName",
    "Look",
    "Sides",
    "Size",
    "Typeface",
    "convert",
    "field_names",
    "looks",
    "seconds",
]

Colour = Annotated[
    str, Meta(pattern=r"^(#[0-9a-fA-F]{6}([0-9a-fA-F]{2})?)?$", description="#rrggbb, #rrggbbaa or none")
]
Duration = Annotated[str, Meta(pattern=r"^(\d+(\.\d+)?(ms|s|min))?$", description="such as 0.5s or 250ms")]
Size = Annotated[float, Meta(ge=0, le=2000)]
Shift = Annotated[float, Meta(ge=-2000, le=2000)]
# One for all, or left, top, right and bottom. (The library cannot distinguish a tuple of four in a union with a number.)
Sides = Size | Annotated[tuple[Size, ...], Meta(min_length=4, max_length=4)]
KeyName = Annotated[str, Meta(max_length=20, description="a key's name")]
Typeface = Annotated[str, Meta(max_length=400, description="a font file's path or an installed font's name")]

# Default colours of a widget.
CALM, LOW, CRITICAL = "#4c9a80", "#d68f2c", "#c7473c"
SEA, PALE = "#10222b", "#dfe9e4"


class Look(Struct, frozen=True, kw_only=True):
    """Fields of all kinds. text: colour of texts; text_size: pixels; flash: the period a band flashes with, "" for none.

    outline, outline_width: around the letters. shadow, shadow_at: below them, offset right and down.
    font: a .ttf or .otf file, or an installed family; "" for the bundled one. figures: tabular digits,
    so that changing numbers do not jitter, or the font's own.
    """

    text: Colour = "#f2f6f4"
    text_size: Size = 22.0
    bold: bool = False
    font: Typeface = ""
    figures: Literal["even", "own"] = "even"
    flash: Duration = ""
    outline: Colour = ""
    outline_width: Size = 2.0
    shadow: Colour = ""
    shadow_at: tuple[Shift, Shift] = (0.0, 2.0)


L = TypeVar("L", bound=Look)
S = TypeVar("S", bound=Struct)


@functools.cache
def field_names(struct: type[Struct]) -> frozenset[str]:
    """Return the field names of a look or options, as written in the file."""
    return frozenset(struct.__struct_encode_fields__)


def seconds(duration: str) -> float:
    """Return a duration such as 0.5s in seconds; 0 for ""."""
    match = re.fullmatch(r"([\d.]+)(ms|s|min)", duration)
    return float(match[1]) * {"ms": 0.001, "s": 1.0, "min": 60.0}[match[2]] if match else 0.0


def looks(
    widget: Widget, kind: type[L], style: Mapping[str, Any] | None = None
) -> tuple[dict[str, L], list[AvrinError]]:
    """Return a widget's look in each of its bands, "" outside all, and the errors of fields left out.

    style: a named look that its own look overrides. A kind uses only the fields it has.
    """
    known = field_names(kind)
    wrong: list[AvrinError] = []
    common = {key: value for key, value in (style or {}).items() if key in known}
    shared, own = ((of or {}).get("bands", {}) for of in (style, widget.look))
    if not isinstance(own, Mapping):
        wrong.append(AvrinError("expected an object with one look a band", place=("look", "bands")))
    base = {**common, **{key: value for key, value in widget.look.items() if key != "bands"}}
    usual, more = convert(base, kind, ("look",))
    wrong += more
    found = {"": usual}
    for band in widget.bands:
        parts = [of.get(band.name, {}) if isinstance(of, Mapping) else {} for of in (shared, own)]
        if not isinstance(parts[1], Mapping):
            wrong.append(AvrinError("expected an object, the look of a band", place=("look", "bands", band.name)))
        fitting = (
            {key: value for key, value in parts[0].items() if key in known} if isinstance(parts[0], Mapping) else {}
        )
        mine = parts[1] if isinstance(parts[1], Mapping) else {}
        found[band.name], more = convert({**base, **fitting, **mine}, kind, ("look", "bands", band.name))
        more = [error for error in more if error.place[3] in mine]  # errors of shared fields are reported once
        if more:  # without usable fields of its own it looks as outside all bands
            bad = {error.place[3] for error in more}
            mine = {key: value for key, value in mine.items() if key not in bad}
            found[band.name], _ = convert({**base, **fitting, **mine}, kind, ())
        wrong += more
    return found, wrong


def convert(raw: Mapping[str, Any], kind: type[S], place: tuple[str, ...]) -> tuple[S, list[AvrinError]]:
    """Convert raw JSON to a checked struct, dropping invalid values; return it and their errors with places."""
    left = dict(raw)
    wrong: list[AvrinError] = []
    while True:
        try:
            return msgspec.convert(left, kind), wrong
        except msgspec.ValidationError:
            fault = first_fault(left, msgspec.inspect.type_info(kind))
            if fault is None or not fault.path:
                return kind(), [*wrong, AvrinError("has a structure this version does not know", place=place)]
            wrong.append(AvrinError(fault.problem, place=(*place, *map(str, fault.path))))
            left = _without(left, fault.path)


def _without(raw: dict[str, Any], path: Steps) -> dict[str, Any]:
    """Return the object without one value; inside an array the whole field is dropped, since indexes matter."""
    left = copy.deepcopy(raw)
    owner: Any = left
    for step in path[:-1]:
        owner = owner[step]
    last = path[-1]
    if isinstance(owner, dict) and isinstance(last, str) and last in owner:
        del owner[last]
    else:
        del left[str(path[0])]
    return left
