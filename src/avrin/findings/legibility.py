"""Illegible texts: too little contrast with what is behind them, too small for the viewing distance; over all frames."""

from __future__ import annotations

import math
from collections.abc import Iterator
from functools import partial

import numpy as np
from msgspec import Struct
from msgspec.structs import fields, replace

from avrin.binding.bound import BoundWidget
from avrin.binding.tracks import Tracks
from avrin.findings.backdrops import backdrop, knows_film
from avrin.findings.case import Case
from avrin.findings.extents import unlike_screens
from avrin.findings.finding import Check, Finding, Fix
from avrin.findings.fixes import fix_widget
from avrin.findings.layers import Below, Lettering, below, copies, lettering
from avrin.project.project import Plate, Screen
from avrin.render.appearances import joint_appearances
from avrin.render.colour import contrast_ratio, over, parsed, seen_by
from avrin.render.fonts import TextMeasure
from avrin.render.layout import minutes_of_arc, screen_scale
from avrin.render.lettering import bodies
from avrin.render.scene import widget_shapes

__all__ = ["CHECKS"]

MEASURE = TextMeasure()
LARGE = 24.0  # pixels at 1080 lines from which text counts as large; 18.66 if bold (WCAG 2.2)
LARGE_BOLD = 18.66
ROUNDING = 1e-6  # tolerance for equal contrasts
FAINT, FAINT_LARGE = 4.5, 3.0


class _Faint(Struct, frozen=True):
    """A text with too little contrast: the ratio, the required one, and when."""

    ratio: float
    need: float
    text: str
    frame: int


def _low_contrast(case: Case) -> Iterator[Finding]:
    """Yield low contrast over a plate, once per widget: at the screen, plate and frame with the lowest ratio."""
    worst: dict[str, tuple[_Faint, Finding]] = {}
    for screen in unlike_screens(case):
        for tracks in case.tracks:
            under = below(case, tracks, screen)
            for plate in case.plates or (None,):
                for widget in copies(case):
                    found = _faintest(case, tracks, widget, under[id(widget)], plate, screen)
                    ident = widget.widget.id
                    if found is not None and (ident not in worst or found.ratio < worst[ident][0].ratio - ROUNDING):
                        worst[ident] = found, _faint(case, tracks, ident, found, plate.name if plate else "", screen)
    yield from (finding for _, finding in worst.values())


def _faintest(
    case: Case, tracks: Tracks, widget: BoundWidget, under: list[Below], plate: Plate | None, screen: Screen
) -> _Faint | None:
    """Return a widget's text with the lowest insufficient contrast."""
    known = plate is None or not plate.film or knows_film(case, plate)
    key = (
        "contrast",
        case.number(tracks),
        screen.name,
        screen.size,
        screen.scale,
        known,
        case.eyes,
        *case.plate_key(plate),
    )

    def look() -> _Faint | None:
        chooses = plate if plate is not None and plate.name in case.bound.plates else None
        found = [
            faint for text in lettering(case, tracks, widget, screen, under, chooses)
            if (faint := _judged(case, tracks, widget, text, plate, screen)) is not None
        ]  # fmt: skip
        return min(found, key=lambda text: (text.ratio, text.frame), default=None)

    return case.memory.of((widget, *(one.widget for one in under)), key, look)


def _judged(
    case: Case, tracks: Tracks, widget: BoundWidget, text: Lettering, plate: Plate | None, screen: Screen
) -> _Faint | None:
    """Return where a text has the lowest contrast, if insufficient. Letters without a colour are skipped."""
    need = FAINT_LARGE if text.size >= (LARGE_BOLD if text.bold else LARGE) else FAINT
    behind = backdrop(case, tracks, widget, text, plate, screen) if text.fill else None
    if behind is None:
        return None
    fronts, back = (
        [over(*parsed(colour), behind.colours) for colour in (text.edge or text.fill, text.fill)],
        behind.colours,
    )
    if case.eyes:
        fronts, back = [seen_by(front, case.eyes) for front in fronts], seen_by(back, case.eyes)
    ratios = np.max([contrast_ratio(front, back) for front in fronts], axis=0)
    at = int(np.argmin(ratios))
    if ratios[at] >= need:
        return None
    frame = int(behind.frames[at])
    return _Faint(
        float(ratios[at]), need, text.text if frame == text.frame else _text_at(tracks, widget, text, frame), frame
    )


def _text_at(tracks: Tracks, widget: BoundWidget, text: Lettering, frame: int) -> str:
    """Return the content of a text at another frame of the same appearance."""
    group = widget_shapes(
        widget, tracks.state_apart(widget, frame), float(tracks.trace.t[frame]), tracks.bound, still=True
    )
    found = [run.text for run, _ in bodies(group.shapes) if len(run.text) == len(text.text) and run.size == text.size]
    return found[0] if found else text.text


def _faint(case: Case, tracks: Tracks, ident: str, faint: _Faint, plate: str, screen: Screen) -> Finding:
    title = case.project.widget(ident).title
    over = (f" over {plate}" if plate else "") + (f" on {screen.name}" if screen is not case.screens[0] else "")
    return Finding(
        ident, f"contrast {faint.ratio:.1f}",
        f"{title}: “{faint.text}” has a contrast of only {faint.ratio:.1f} to 1{over}; its size needs {faint.need:g}",
        "Give it an outline, a darker plate behind it, or another colour", about="text",
        trace=tracks.trace.name, start=faint.frame, end=faint.frame + 1, plate=plate,
        screen=screen.name if case.project.screens or case.view is not None else "", weight=-faint.ratio,
        fix=fix_widget("outline it", ident, lambda w: replace(w, look={**w.look, "outline": "#0b161c"})),
    )  # fmt: skip


def _too_small(case: Case) -> Iterator[Finding]:
    """Yield text too small for a screen's viewing distance, once per widget, on the screen where it is smallest."""
    least: dict[str, tuple[float, Finding]] = {}
    for screen in case.screens:
        if not screen.inches or not screen.metres:
            continue
        scale = screen_scale(case.project, screen)
        for tracks, widget, size, bold, frame in _sizes(case):
            angle = minutes_of_arc(MEASURE.cap_height(size, bold) * scale, screen)
            ident = widget.widget.id
            if angle is None or angle >= case.project.legible or angle >= least.get(ident, (1e9,))[0]:
                continue
            needed = math.ceil(size * case.project.legible / angle)
            least[ident] = angle, Finding(
                ident, f"{angle:.0f}′ high on {screen.name}",
                f"{widget.widget.title} writes letters {angle:.1f} minutes of arc high, seen from {screen.metres:g} m on"
                f" {screen.name}; {case.project.legible:g} can be read",
                f"Write it {needed} pixels high or larger", about="text_size", trace=tracks.trace.name,
                start=frame, end=frame + 1, screen=screen.name, weight=-angle,
                fix=_larger(widget, size, needed),
            )  # fmt: skip
    yield from (finding for _, finding in least.values())


def _sizes(case: Case) -> Iterator[tuple[Tracks, BoundWidget, float, bool, int]]:
    """Yield the font sizes each widget uses in a recording, with their first frame."""
    for tracks in case.tracks:
        for widget in copies(case):
            key = ("sizes", case.number(tracks))
            found = case.memory.get(widget, key, partial(_sizes_of, case, tracks, widget))
            yield from ((tracks, widget, size, bold, frame) for (size, bold), frame in found.items())


def _sizes_of(case: Case, tracks: Tracks, widget: BoundWidget) -> dict[tuple[float, bool], int]:
    found: dict[tuple[float, bool], int] = {}
    for group in joint_appearances([case.appearances(tracks, widget)], np.ones(len(tracks.trace), bool)):
        for run, _ in case.texts(tracks, widget, int(group.frames[0])):
            found.setdefault((run.size, run.bold), int(group.frames[0]))
    return found


def _larger(widget: BoundWidget, size: float, needed: int) -> Fix | None:
    """Return a fix with a larger font size, if the look sets the size."""
    sizes = [field.name for field in fields(type(widget.looks[""])) if "size" in field.name]
    names = [name for name in sizes if any(getattr(look, name) == size for look in widget.looks.values())]
    if len(names) != 1:
        return None
    return fix_widget(
        f"write it {needed} pixels high", widget.widget.id, lambda w: replace(w, look={**w.look, names[0]: needed})
    )


CHECKS = (
    Check("low-contrast", "warning", "A text has too little contrast with a plate.", project=_low_contrast,
          of_views=True),
    Check("too-small", "warning", "A text is too small to read from a screen's viewing distance.", project=_too_small,
          of_views=True),
)  # fmt: skip
