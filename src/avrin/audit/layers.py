"""Texts on the screen with what lies behind them: the plate, and what is drawn between it and them."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from functools import partial
from pathlib import Path

from msgspec import Struct

from avrin.audit.case import Case
from avrin.footage import film_second, footage_seconds, still_file
from avrin.model import AvrinError, Plate, Screen, inside
from avrin.render import Placed, Rect, leaves, texts
from avrin.render.colour import over, parsed
from avrin.render.pixels import pixels
from avrin.trace import FloatArray
from avrin.widgets import Box, Tracks

__all__ = ["Fill", "Lettering", "backdrop", "fills", "lettering"]

SMALL = 480  # pixels of the longer side at which a plate is looked at: texts are not judged by single pixels of it


class Fill(Struct, frozen=True):
    """A filled rectangle on the screen, in pixels. alpha: 0–1, opacities included."""

    rect: Rect
    colour: str
    alpha: float


class Lettering(Struct, frozen=True):
    """A text as it stands on the screen. rect: in pixels. size: reference pixels an em.

    fill, edge: with their alpha; edge "" for none. under: fills behind it, lowest first.
    """

    widget: str
    frame: int
    text: str
    rect: Rect
    size: float
    bold: bool
    fill: str
    edge: str
    under: tuple[Fill, ...]


def fills(placed: Placed) -> Iterator[Fill]:
    """A widget's filled rectangles on the screen, in drawing order."""
    for shape, rect, opacity in leaves((placed.group,), 0.0, 0.0, 1.0, 1.0):
        if isinstance(shape, Box) and shape.fill:
            yield Fill(rect, shape.fill[:7], parsed(shape.fill)[1] * opacity)


def lettering(case: Case, screen: Screen) -> Iterator[tuple[Tracks, Lettering, Sequence[Plate | None]]]:
    """Texts of every widget in each of its bands, the first time one of the recordings shows it there.

    With each the plates it may then stand over: all without a rule, or the one that the recording chooses.
    """
    ruled = [plate for plate in case.project.plates if plate.name in case.bound.plates]
    others = [plate for plate in case.project.plates if plate not in ruled]
    if others or not ruled:
        yield from ((tracks, one, others or (None,)) for tracks, one in _first_texts(case, screen, None))
    for plate in ruled:
        yield from ((tracks, one, (plate,)) for tracks, one in _first_texts(case, screen, plate))


def _first_texts(case: Case, screen: Screen, plate: Plate | None) -> Iterator[tuple[Tracks, Lettering]]:
    frames: dict[tuple[int, int], set[str]] = {}
    for ident, widget in case.bound.widgets.items():
        for place in case.firsts(widget, plate).values():
            frames.setdefault(place, set()).add(ident)
    for number, frame in sorted(frames):
        tracks = case.tracks[number]
        yield from ((tracks, one) for one in _at(case, tracks, frame, screen, frames[number, frame]))


def _at(case: Case, tracks: Tracks, frame: int, screen: Screen, wanted: set[str]) -> Iterator[Lettering]:
    behind: list[Fill] = []
    for ident, whole in case.bound.widgets.items():
        for widget in whole.each():
            placed = case.placed(tracks, widget, frame, screen)
            if placed is None:
                continue
            own = case.memory.get(
                widget, ("fills", case.number(tracks), frame, screen.name, screen.size), partial(_fills_of, placed)
            )
            if ident in wanted:
                for run, rect in texts(placed):
                    under = tuple(fill for fill in (*behind, *own) if _holds(fill.rect, rect))
                    yield Lettering(ident, frame, run.text, rect, run.size, run.bold, run.fill, run.edge, under)
            behind += own


def _fills_of(placed: Placed) -> tuple[Fill, ...]:
    return tuple(fills(placed))


def _holds(fill: Rect, rect: Rect) -> bool:
    """Whether a fill lies under most of a rectangle."""
    across = min(fill.x + fill.width, rect.x + rect.width) - max(fill.x, rect.x)
    along = min(fill.y + fill.height, rect.y + rect.height) - max(fill.y, rect.y)
    return across > 0 and along > 0 and across * along > 0.6 * rect.width * rect.height


def backdrop(tracks: Tracks, text: Lettering, plate: Plate | None, screen: Screen) -> FloatArray | None:
    """The colour behind a text: the plate's there, on the whole, under what is drawn between; None if nobody knows.

    Of a film it is what that shows close before the text's moment; nobody knows while it does not run.
    Returns: gamma-encoded sRGB, 0–1, shape (3,).
    """
    colour: FloatArray | None = None
    if plate is not None:
        source = _plate_picture(tracks, plate, text.frame)
        colour = _plate_colour(source, text.rect, screen) if source is not None else None
    for fill in text.under:
        front, alpha = parsed(fill.colour)[0], fill.alpha
        if alpha >= 1:
            colour = front
        elif colour is not None:
            colour = over(front, alpha, colour)
    return colour


def _plate_picture(tracks: Tracks, plate: Plate, frame: int) -> Path | None:
    """The picture file that a plate shows at a frame."""
    bound, seconds = tracks.bound, float(tracks.trace.axis[frame])
    try:
        path = inside(bound.folder, plate.film or plate.picture)
        if not plate.film:
            return path
        second = film_second(bound.project, plate, tracks.trace.name, seconds)
        if second is None or not 0 <= second <= footage_seconds(path, plate.rate):
            return None
        return still_file(path, second, plate.rate, wide=SMALL, exact=False)
    except AvrinError:
        return None


def _plate_colour(source: Path, rect: Rect, screen: Screen) -> FloatArray | None:
    """A picture's mean colour in a rectangle of the screen, over which it is stretched."""
    zoom = SMALL / max(screen.size)
    image = pixels(str(source), max(1, round(screen.size[0] * zoom)), max(1, round(screen.size[1] * zoom)))
    if image is None:
        return None
    height, width = image.shape[:2]
    left, top = (max(0, int(at * zoom)) for at in (rect.x, rect.y))
    right, bottom = int((rect.x + rect.width) * zoom) + 1, int((rect.y + rect.height) * zoom) + 1
    part = image[min(top, height - 1) : max(bottom, top + 1), min(left, width - 1) : max(right, left + 1)]
    mean: FloatArray = part.reshape(-1, 3).mean(axis=0)
    return mean
