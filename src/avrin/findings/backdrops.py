"""Colours behind a text over all its frames: those of the plate, below what is drawn in between."""

from __future__ import annotations

import functools
from pathlib import Path

import numpy as np
from msgspec import Struct

from avrin.binding.bound import BoundWidget
from avrin.binding.tracks import Tracks
from avrin.errors import AvrinError
from avrin.findings.case import Case
from avrin.findings.layers import Lettering
from avrin.project.project import Plate, Screen
from avrin.render.colour import over, parsed
from avrin.render.layout import Rect
from avrin.render.pixels import pixels
from avrin.render.zones import reach_rects
from avrin.trace.frames import Array, FloatArray
from avrin.video.analysis import CELLS, are_known, film_shades
from avrin.video.stills import footage_seconds, still_file
from avrin.video.timing import film_second

__all__ = ["Backdrop", "backdrop", "knows_film"]

HAIR = 1e-6  # of a pixel: tolerance for an edge on a grid line
SMALL = 480  # pixels of the longer side to which a plate is reduced: texts are not judged by single pixels


class Backdrop(Struct, frozen=True, eq=False):
    """frames: shape (n,). colours: behind the text at each, gamma-encoded sRGB, 0–1, shape (n, 3)."""

    frames: Array
    colours: FloatArray


def backdrop(
    case: Case, tracks: Tracks, widget: BoundWidget, text: Lettering, plate: Plate | None, screen: Screen
) -> Backdrop | None:
    """Return the colours behind a text; for one frame if all are equal. None if unknown or off the screen."""
    frames, corners = _where(tracks, widget, text, screen)
    if not len(frames):
        return None
    found = _of_plate(case, tracks, text, plate, screen, frames, corners) if plate is not None else None
    frames = found.frames if found is not None else frames[:1]
    colours = found.colours if found is not None else None
    for fill in text.under:
        front, alpha = parsed(fill.colour)[0], fill.alpha
        if alpha >= 1:
            colours = np.broadcast_to(front, (len(frames), 3))
        elif colours is not None:
            colours = over(front, alpha, colours)
    return None if colours is None else Backdrop(frames, colours)


def _where(tracks: Tracks, widget: BoundWidget, text: Lettering, screen: Screen) -> tuple[Array, FloatArray]:
    """Return frames at which part of a text is on the screen, with its upper left corner at each, in pixels, shape (n, 2).

    For a static one there is one corner for all of them.
    """
    boxes = reach_rects(tracks, widget, screen, Rect(0.0, 0.0, 1.0, 1.0))
    first = np.array([[text.rect.x, text.rect.y]])
    corners = first if len(boxes) == 1 else first + boxes[text.frames, :2] - boxes[text.frames[:1], :2]
    size = np.array([text.rect.width, text.rect.height])
    seen = ((corners < screen.size) & (corners + size > 0)).all(axis=1)
    if len(boxes) == 1:
        return text.frames[: len(text.frames) if seen[0] else 0], corners
    return text.frames[seen], corners[seen]


def knows_film(case: Case, plate: Plate) -> bool:
    """Return whether each picture of a plate's film is analysed; otherwise one near the text's frame represents them."""
    try:
        return case.thorough or are_known(case.plate_file(plate), plate.rate)
    except AvrinError:
        return False


def _of_plate(
    case: Case, tracks: Tracks, text: Lettering, plate: Plate, screen: Screen, frames: Array, corners: FloatArray
) -> Backdrop | None:
    moves = len(corners) > 1
    shares = _shares(case, screen, text, corners, plate)
    over_plate = (shares[:, 2:] > shares[:, :2]).all(axis=1)  # beside a plate that does not fill the screen
    if not over_plate.all():
        frames, shares = (frames[over_plate], shares[over_plate]) if moves else (frames[:0], shares[:0])
    if not len(frames):
        return None
    try:
        path = case.plate_file(plate)
        if plate.film:
            there = np.isin(frames, _running(case, tracks, plate, path, frames))
            frames, shares = frames[there], shares[there] if moves else shares
            if not len(frames):
                return None
            if knows_film(case, plate):
                shades = film_shades(path, plate.rate, case.memory.breathe)
                which = shades.shown(_seconds(case, tracks, plate, frames))
                if not moves:
                    which, first = np.unique(which, return_index=True)
                    frames = frames[first]
                return Backdrop(frames, _of_cells(shades.cells, which, shares))
            second = float(_seconds(case, tracks, plate, frames[:1])[0])
            path = still_file(path, second, plate.rate, wide=SMALL, exact=False)
        if plate.film or not moves:
            frames, shares = frames[:1], shares[:1]
    except AvrinError:
        return None  # reported as missing
    colours = _of_picture(path, screen, shares)
    return None if colours is None else Backdrop(frames, colours)


def _seconds(case: Case, tracks: Tracks, plate: Plate, frames: Array) -> FloatArray:
    """Return the film's time at frames; NaN over recordings it does not belong to."""
    begins = film_second(case.project, plate, tracks.trace.name, 0.0)
    return tracks.trace.axis[frames] + (np.nan if begins is None else begins)


def _running(case: Case, tracks: Tracks, plate: Plate, path: Path, frames: Array) -> Array:
    """Return the frames at which a plate's film runs. Raises AvrinError if there is no film."""
    seconds = _seconds(case, tracks, plate, frames)
    return frames[(seconds >= 0) & (seconds <= footage_seconds(path, plate.rate))]


def _shares(case: Case, screen: Screen, text: Lettering, corners: FloatArray, plate: Plate) -> FloatArray:
    """Return the bounds of a text with its corner at each position, as shares of the plate, shape (n, 4)."""
    under = case.plate_rect(plate, screen)
    near = (corners - np.array([under.x, under.y])) / np.array([under.width, under.height])
    far = near + np.array([text.rect.width, text.rect.height]) / np.array([under.width, under.height])
    shares: FloatArray = np.clip(np.hstack([near, far]), 0.0, 1.0)
    return shares


def _parts(shares: FloatArray, wide: int, high: int) -> Array:
    """Return the cells of a grid below shares of it: left, top, right, bottom, the last two exclusive."""
    low = np.minimum((shares[:, :2] * (wide, high) + HAIR).astype(int), (wide - 1, high - 1))
    return np.hstack([low, np.maximum(np.ceil(shares[:, 2:] * (wide, high) - HAIR).astype(int), low + 1)])


def _of_picture(path: Path, screen: Screen, shares: FloatArray) -> FloatArray | None:
    """Return a picture's mean colours below shares of it, shape (n, 3); None if it cannot be read."""
    zoom = SMALL / max(screen.size)
    sums = _sums(str(path), *(max(1, round(side * zoom)) for side in screen.size))
    if sums is None:
        return None
    left, top, right, bottom = _parts(shares, sums.shape[1] - 1, sums.shape[0] - 1).T
    whole = sums[bottom, right] - sums[top, right] - sums[bottom, left] + sums[top, left]
    found: FloatArray = whole / ((right - left) * (bottom - top))[:, None]
    return found


@functools.lru_cache(maxsize=16)
def _sums(source: str, width: int, height: int) -> FloatArray | None:
    """Return a picture's summed-area table, shape (height + 1, width + 1, 3): any box's sum takes four lookups."""
    image = pixels(source, width, height)
    if image is None:
        return None
    sums = np.zeros((height + 1, width + 1, 3))
    sums[1:, 1:] = image.cumsum(axis=0).cumsum(axis=1)
    return sums


def _of_cells(cells: Array, which: Array, shares: FloatArray) -> FloatArray:
    """Return a film's mean colours below shares of some of its pictures, shape (n, 3)."""
    parts = np.broadcast_to(_parts(shares, *CELLS), (len(which), 4))
    made = np.empty((len(which), 3))
    each, of = np.unique(parts, axis=0, return_inverse=True)
    for number, (left, top, right, bottom) in enumerate(each.tolist()):
        here = np.flatnonzero(of.reshape(-1) == number)
        made[here] = cells[which[here], top:bottom, left:right].mean(axis=(1, 2)) / 255
    return made
