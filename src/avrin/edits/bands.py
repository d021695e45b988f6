"""Edit a widget's bands: split, rename, move, colour, add hysteresis, reorder, remove."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from typing import Any

from msgspec.structs import replace

from avrin.edits.naming import typed_id
from avrin.errors import AvrinError
from avrin.kinds.look import CRITICAL, LOW, field_names
from avrin.kinds.registry import KINDS
from avrin.kinds.states import STATE_WORDS
from avrin.project.project import Band, Project, Widget

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

BY_BAND = "by_band"  # the option with an entry per band
OTHERS = ("#e0c65a", "#6fa8c9", "#a887c9", "#8fb573", "#c98a9b")


def band_part(widget: Widget) -> str:
    """Return the look field a band colours first: the fill, or else the text."""
    return "fill" if widget.kind in KINDS and "fill" in field_names(KINDS[widget.kind].look) else "text"


def split(widget: Widget, limit: str, at: float, limits: Sequence[tuple[str, float]]) -> Widget:
    """Return the widget with one more band, whose limit is a given level.

    limits: its bands with plain limits. The new one begins above if they do, else below; it is inserted before the band
    that contains it, because the first match wins.
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
    """Return the widget with one more band with a condition; it comes first."""
    name = _free((), {band.name for band in widget.bands})
    made = replace(widget, bands=(Band(name=name, when=when), *widget.bands))
    return _with_look(made, name, {**_band_look(widget, name), band_part(widget): _colour(widget, name)})


def band_put(widget: Widget, name: str, limit: str, back: str | None = None) -> Widget:
    """Return the widget with a band's limit changed. back: where it is left again, None to keep it."""
    return _changed(
        widget, name, lambda b: replace(
            b, below=limit if b.below else "", above=limit if not b.below else "", back=b.back if back is None else back
        ),
    )  # fmt: skip


def band_sticky(widget: Widget, name: str, back: str) -> Widget:
    """Return the widget with a band's `back` limit; "" for none."""
    return _changed(widget, name, lambda band: replace(band, back=back))


def band_waiting(widget: Widget, name: str, held: str) -> Widget:
    """Return the widget with a band's `held` duration; "" for none."""
    return _changed(widget, name, lambda band: replace(band, held=held))


def band_coloured(widget: Widget, name: str, part: str, value: object) -> Widget:
    """Return the widget with one field of a band's look changed; None to reset it."""
    kept = {key: one for key, one in _band_look(widget, name).items() if key != part}
    return _with_look(widget, name, kept if value is None else {**kept, part: value})


def band_first(widget: Widget, name: str) -> Widget:
    """Return the widget with a band moved one place forward: the first matching band wins."""
    at = [band.name for band in widget.bands].index(name)
    bands = list(widget.bands)
    bands[max(0, at - 1) : at + 1] = reversed(bands[max(0, at - 1) : at + 1])
    return replace(widget, bands=tuple(bands))


def band_removed(widget: Widget, name: str) -> Widget:
    """Return the widget without a band and its look."""
    made = replace(widget, bands=tuple(band for band in widget.bands if band.name != name))
    return _carried(made, name, None)


def band_renamed(project: Project, ident: str, name: str, new: str) -> Project:
    """Return the project with a widget's band renamed, including its look, picture and ignored findings.

    Raises AvrinError for an invalid name.
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
    """Return a new band's colour: by its name, else one that no other band uses."""
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
    """Return the widget with all of a band's look replaced."""
    bands = widget.look.get("bands")
    every = {key: one for key, one in bands.items() if key != name} if isinstance(bands, dict) else {}
    if look:
        every[name] = look
    rest = {key: one for key, one in widget.look.items() if key != "bands"}
    return replace(widget, look={**rest, "bands": every} if every else rest)


def _carried(widget: Widget, name: str, new: str | None) -> Widget:
    """Rename, or with None remove, a band in look and options."""
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
