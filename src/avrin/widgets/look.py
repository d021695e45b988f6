"""How widgets look: what all kinds share, and how a band changes it."""

import functools
import re
from collections.abc import Mapping
from typing import Annotated, Any, Literal, TypeVar

import msgspec
from msgspec import Meta, Struct

from avrin.model import AvrinError, Widget, first_fault

__all__ = [
    "CALM",
    "CRITICAL",
    "LOW",
    "PALE",
    "SEA",
    "Colour",
    "Look",
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
Typeface = Annotated[str, Meta(max_length=400, description="a font file's path or an installed font's name")]

# The colours a widget has before anybody chooses.
CALM, LOW, CRITICAL = "#4c9a80", "#d68f2c", "#c7473c"
SEA, PALE = "#10222b", "#dfe9e4"


class Look(Struct, frozen=True, kw_only=True):
    """What all kinds have. text: colour of texts; text_size: pixels; flash: period of a band's flashing, "" for none.

    outline, outline_width: around the letters. shadow, shadow_at: below them, and how far to the right and down.
    font: a .ttf or .otf file, or an installed family; "" for the one that comes along. figures: all equally wide, so
    that running numbers stand still, or as the font has them.
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
    shadow_at: tuple[float, float] = (0.0, 2.0)


L = TypeVar("L", bound=Look)
S = TypeVar("S", bound=Struct)


@functools.cache
def field_names(struct: type[Struct]) -> frozenset[str]:
    """What a look or options may say, as it is written in the file."""
    return frozenset(struct.__struct_encode_fields__)


def seconds(duration: str) -> float:
    """A duration such as 0.5s in seconds; 0 for ""."""
    match = re.fullmatch(r"([\d.]+)(ms|s|min)", duration)
    return float(match[1]) * {"ms": 0.001, "s": 1.0, "min": 60.0}[match[2]] if match else 0.0


def looks(widget: Widget, kind: type[L], style: Mapping[str, Any] | None = None) -> dict[str, L]:
    """A widget's look in each of its bands; "" is outside all. Raises AvrinError at the first thing it cannot be.

    style: what its own look goes over. Of a style a kind takes the fields that it has.
    """
    known = field_names(kind)
    common = {key: value for key, value in (style or {}).items() if key in known}
    shared = (style or {}).get("bands", {})
    base = {**common, **{key: value for key, value in widget.look.items() if key != "bands"}}
    by_band = widget.look.get("bands", {})
    if isinstance(shared, Mapping) and isinstance(by_band, Mapping):
        fitting = {n: {k: v for k, v in p.items() if k in known} for n, p in shared.items() if isinstance(p, Mapping)}
        by_band = {
            **fitting,
            **{n: {**fitting.get(n, {}), **p} if isinstance(p, Mapping) else p for n, p in by_band.items()},
        }
    if not isinstance(by_band, Mapping) or not all(isinstance(part, Mapping) for part in by_band.values()):
        raise AvrinError("expected an object with one look a band", place=("look", "bands"))
    found = {"": convert(base, kind, ("look",))}
    for band in widget.bands:
        part = by_band.get(band.name, {})
        found[band.name] = convert({**base, **part}, kind, ("look", "bands", band.name))
    return found


def convert(raw: Mapping[str, Any], kind: type[S], place: tuple[str, ...]) -> S:
    """Raw JSON as a checked struct. Raises AvrinError with the field's place."""
    try:
        return msgspec.convert(dict(raw), kind)
    except msgspec.ValidationError:
        fault = first_fault(dict(raw), msgspec.inspect.type_info(kind))
        if fault is None:
            raise AvrinError("has another form than this version knows", place=place) from None
        raise AvrinError(fault.problem, place=(*place, *map(str, fault.path))) from None
