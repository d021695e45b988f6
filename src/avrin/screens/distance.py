"""Legibility at a viewing distance: every text with its height in minutes of arc; illegible ones are covered."""

from __future__ import annotations

from avrin.binding.tracks import Tracks
from avrin.kinds.shapes import Box, Group, Shape, TextRun
from avrin.project.project import Project, Screen, ScreenPart
from avrin.render.fonts import TextMeasure
from avrin.render.layout import Rect, minutes_of_arc, screen_scale
from avrin.render.lettering import texts
from avrin.render.pictures import SeenBy
from avrin.render.scene import scene

__all__ = ["DISTANCE", "distance_shapes"]

DISTANCE = "its distance"  # listed with the colour vision deficiencies
GROUND, PLAIN, LOST = "#0b161cd9", "#eef6f3", "#ff8a93"
_MEASURE = TextMeasure()


def distance_shapes(tracks: Tracks, frame: int, screen: Screen, letters: float, seen_by: SeenBy) -> list[Shape]:
    """Return shapes drawn over a HUD, in the screen's pixels. letters: font size of the figures.

    A text whose capitals are below the project's limit is covered; each text is labelled with its height.
    If a screen has no inches and metres, a note says so.
    """
    project = tracks.bound.project
    if not screen.inches or not screen.metres:
        return [_note("size and distance unknown", screen.size[0] / 2, screen.size[1] / 2, letters)]
    made: list[Shape] = []
    for part in screen.parts or (screen,):
        inside = isinstance(part, ScreenPart) and part is not screen
        seen = seen_by(part.slot) if isinstance(part, ScreenPart) else tracks
        found = [one for placed in scene(seen, frame, part) for one in texts(placed)]
        shapes = _labels(project, part, found, letters)
        made += [Group(tuple(shapes), *part.corner)] if inside and isinstance(part, ScreenPart) else shapes
    return made


def _labels(project: Project, screen: Screen, texts_: list[tuple[TextRun, Rect]], letters: float) -> list[Shape]:
    """Return shapes over texts: illegible ones are covered by their figure, others have it next to them if there is room."""
    made: list[Shape] = []
    taken = [rect for _, rect in texts_]
    for run, rect in texts_:
        high = _MEASURE.cap_height(run.size, run.bold) * screen_scale(project, screen)
        angle = minutes_of_arc(high, screen)
        assert angle is not None  # the caller checked inches and metres
        words = f"{angle:.0f}'"
        if angle < project.legible:
            made.append(Box(rect.x - 2, rect.y - 1, rect.width + 4, rect.height + 2, GROUND, 3))
            size = min(letters, rect.height)
            made.append(TextRun(*_middle(rect, size), words, size, LOST, bold=True, align="center"))
            continue
        wide, tall = _MEASURE.width(words, letters, True) + letters * 0.6, letters * 1.4
        for x in (rect.x + rect.width + letters * 0.3, rect.x - wide - letters * 0.3):
            room = Rect(x, rect.center[1] - tall / 2, wide, tall)
            if x >= 0 and x + wide <= screen.size[0] and not any(room.shared(other) for other in taken):
                made.append(_note(words, room.center[0], room.center[1], letters))
                taken.append(room)
                break
    return made


def _middle(rect: Rect, size: float) -> tuple[float, float]:
    """Return where a centred line of figures begins in a box."""
    return rect.center[0], rect.center[1] + size * 0.36


def _note(text: str, x: float, y: float, letters: float) -> Group:
    """Return words on a background, around a point."""
    wide = _MEASURE.width(text, letters, True) + letters * 0.6
    ground = Box(x - wide / 2, y - letters * 0.7, wide, letters * 1.4, GROUND, letters * 0.3)
    return Group((ground, TextRun(x, y + letters * 0.36, text, letters, PLAIN, bold=True, align="center")))
