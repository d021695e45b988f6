"""The bands of a widget: made by splitting its level, called, moved, coloured, made sticky, put first, taken away."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from typing import Any

from msgspec.structs import replace

from avrin.arrange.naming import typed_id
from avrin.model import AvrinError, Band, Project, Widget
from avrin.widgets import CRITICAL, KINDS, LOW, STATE_WORDS, field_names

__all__ = [
    "band_coloured",
    "band_first",
    "band_part",
    "band_put",
    "band_removed",
    "band_renamed",
    "band_sticky",
    "band_waiting",
    "conditioned",
    "split",
]

BY_BAND = "by_band"  # the option that has something for each band
OTHERS = ("#e0c65a", "#6fa8c9", "#a887c9", "#8fb573", "#c98a9b")


def band_part(widget: Widget) -> str:
    """Which part of its look a band colours first: what it is filled with, or else its letters."""
    return "fill" if widget.kind in KINDS and "fill" in field_names(KINDS[widget.kind].look) else "text"


def split(widget: Widget, limit: str, at: float, limits: Sequence[tuple[str, float]]) -> Widget:
    """The widget with one more band, whose limit is a level somebody pointed at.

    limits: its bands with plain limits, and those. It begins above where they do, else below; it stands before what it
    lies in, as the first that matches wins.
    """
    known = {band.name: band for band in widget.bands}
    sides = {name: "above" if known[name].above else "below" for name, _ in limits}
    side = "above" if sides and all(one == "above" for one in sides.values()) else "below"
    same = [(name, value) for name, value in limits if sides[name] == side]
    outer = [name for name, value in same if (value > at if side == "below" else value < at)]
    utmost = bool(same) and len(outer) == len(same)
    name = _free(("critical",) if utmost else ("low", "critical") if not same else (), known)
    band = Band(name=name, below=limit) if side == "below" else Band(name=name, above=limit)
    first = min((list(known).index(one) for one in outer), default=len(known))
    return _with_look(
        replace(widget, bands=(*widget.bands[:first], band, *widget.bands[first:])),
        name, {**_band_look(widget, name), band_part(widget): _colour(widget, name)},
    )  # fmt: skip


def conditioned(widget: Widget, when: str = "false") -> Widget:
    """The widget with one more band that has a condition; it comes first, as what is special does."""
    name = _free((), {band.name for band in widget.bands})
    made = replace(widget, bands=(Band(name=name, when=when), *widget.bands))
    return _with_look(made, name, {**_band_look(widget, name), band_part(widget): _colour(widget, name)})


def band_put(widget: Widget, name: str, limit: str, back: str | None = None) -> Widget:
    """The widget with a band beginning elsewhere. back: where it is left again, None for as it was."""
    return _changed(
        widget, name, lambda b: replace(
            b, below=limit if b.below else "", above=limit if not b.below else "", back=b.back if back is None else back
        ),
    )  # fmt: skip


def band_sticky(widget: Widget, name: str, back: str) -> Widget:
    """The widget with a band that is left at a limit of its own; "" for where it begins."""
    return _changed(widget, name, lambda band: replace(band, back=back))


def band_waiting(widget: Widget, name: str, held: str) -> Widget:
    """The widget with a band that is entered when what enters it has lasted so long; "" for at once."""
    return _changed(widget, name, lambda band: replace(band, held=held))


def band_coloured(widget: Widget, name: str, part: str, value: object) -> Widget:
    """The widget with a band that looks otherwise in one part; None for as outside of all bands."""
    kept = {key: one for key, one in _band_look(widget, name).items() if key != part}
    return _with_look(widget, name, kept if value is None else {**kept, part: value})


def band_first(widget: Widget, name: str) -> Widget:
    """The widget with a band one place further to the front: of those that match, the first one counts."""
    at = [band.name for band in widget.bands].index(name)
    bands = list(widget.bands)
    bands[max(0, at - 1) : at + 1] = reversed(bands[max(0, at - 1) : at + 1])
    return replace(widget, bands=tuple(bands))


def band_removed(widget: Widget, name: str) -> Widget:
    """The widget without a band, and without what it looked like in it."""
    made = replace(widget, bands=tuple(band for band in widget.bands if band.name != name))
    return _carried(made, name, None)


def band_renamed(project: Project, ident: str, name: str, new: str) -> Project:
    """The project in which a widget's band has another name; its look and its picture follow, what was hushed stays so.

    Raises AvrinError for a name that cannot be.
    """
    widget = project.widget(ident)
    plain = typed_id(new, {band.name for band in widget.bands} - {name}, "band")
    if plain in STATE_WORDS:
        raise AvrinError(f"'{plain}' is a state no band may be called", advice="Choose another name")
    if plain == name:
        return project
    hush = tuple(
        {**one, "about": plain} if (one.get("of"), one.get("about")) == (ident, name) else one for one in project.hush
    )
    made = _carried(_changed(widget, name, lambda band: replace(band, name=plain)), name, plain)
    return replace(project.with_widget(made), hush=hush)


def _colour(widget: Widget, name: str) -> str:
    """What a new band is coloured in: as its name says, else one that no other band of it has."""
    usual = {"low": LOW, "critical": CRITICAL}
    if name in usual:
        return usual[name]
    worn = {str(_band_look(widget, band.name).get(band_part(widget), "")) for band in widget.bands}
    return next((colour for colour in OTHERS if colour not in worn), OTHERS[0])


def _free(wanted: Sequence[str], taken: Mapping[str, object] | set[str]) -> str:
    numbered = ("band", *(f"band_{number}" for number in range(2, len(taken) + 3)))
    return next(name for name in (*wanted, *numbered) if name not in taken)


def _changed(widget: Widget, name: str, change: Callable[[Band], Band]) -> Widget:
    return replace(widget, bands=tuple(change(band) if band.name == name else band for band in widget.bands))


def _band_look(widget: Widget, name: str) -> dict[str, Any]:
    bands = widget.look.get("bands")
    own = bands.get(name) if isinstance(bands, dict) else None
    return dict(own) if isinstance(own, dict) else {}


def _with_look(widget: Widget, name: str, look: dict[str, Any]) -> Widget:
    """With this as all that a band changes in the look."""
    bands = widget.look.get("bands")
    every = {key: one for key, one in bands.items() if key != name} if isinstance(bands, dict) else {}
    if look:
        every[name] = look
    rest = {key: one for key, one in widget.look.items() if key != "bands"}
    return replace(widget, look={**rest, "bands": every} if every else rest)


def _carried(widget: Widget, name: str, new: str | None) -> Widget:
    """What look and options say of a band, under its new name, or no longer."""
    look = _band_look(widget, name)
    made = _with_look(widget, name, {})
    if new is not None and look:
        made = _with_look(made, new, look)
    pictures = made.options.get(BY_BAND)
    if isinstance(pictures, dict) and name in pictures:
        kept = {key: one for key, one in pictures.items() if key != name}
        if new is not None:
            kept[new] = pictures[name]
        rest = {key: one for key, one in made.options.items() if key != BY_BAND}
        made = replace(made, options={**rest, BY_BAND: kept} if kept else rest)
    return made
