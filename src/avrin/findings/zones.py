"""Zones that plates keep clear, and how long the HUD covers them: over all recordings, moving ones included."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np
from msgspec import Struct

from avrin.binding.bound import BoundWidget
from avrin.binding.tracks import Tracks
from avrin.errors import AvrinError
from avrin.findings.case import Case, stretches
from avrin.findings.finding import Check, Finding
from avrin.project.numbers import counted
from avrin.project.project import Plate, Screen
from avrin.render.values import clock
from avrin.render.zones import reach_rects, touching, zone_rects
from avrin.trace.frames import Array
from avrin.video.stills import footage_seconds
from avrin.video.timing import film_second

__all__ = ["CHECKS"]

SLACK = 1.0  # square pixels
BRIEF = 0.25  # seconds: a shorter cover goes unnoticed
MAX_STRETCHES = 200  # reported stretches


class _Cover(Struct, frozen=True):
    """A widget over a zone in one recording. where: flags, shape (frames,). always: whenever it is visible."""

    tracks: Tracks
    number: int
    screen: Screen
    where: Array
    seconds: float
    always: bool


def _keep_clear(case: Case, widget: BoundWidget) -> Iterator[Finding]:
    """Yield for each plate the zone that is covered longest, on the first such screen."""
    if widget.kind.may_cover or bool(getattr(widget.options, "dim", False)):
        return
    for plate in case.plates:
        found = [cover for tracks in case.tracks for cover in _covers(case, widget, plate, tracks)]
        if not found:
            continue
        worst = max(found, key=lambda cover: cover.seconds)
        alike = [one for one in found if (one.number, one.screen) == (worst.number, worst.screen)]
        yield _cover_finding(widget, plate, worst, sum(one.seconds for one in alike), {one.number for one in found})


def _covers(case: Case, widget: BoundWidget, plate: Plate, tracks: Tracks) -> Iterator[_Cover]:
    """Yield each zone of a plate that a widget covers in a recording, on the screen where it does so longest."""
    extent = case.extent(tracks, widget) if plate.keep_clear else None
    if extent is None:
        return
    seen = case.visible(tracks, widget) & _behind(case, plate, tracks)
    if not seen.any():
        return
    for number, zone in enumerate(plate.keep_clear):
        best: _Cover | None = None
        for screen in case.screens:
            boxes, zones = reach_rects(tracks, widget, screen, extent.most), zone_rects(tracks, plate, number, screen)
            where = seen & touching(boxes, zones, SLACK)
            seconds = float(tracks.trace.lasting[where].sum())
            moves = len(boxes) > 1 or bool(zone.x or zone.y)
            if (
                where.any()
                and not (moves and _longest(where, tracks) < BRIEF)
                and (best is None or seconds > best.seconds)
            ):
                best = _Cover(tracks, number, screen, where, seconds, not moves)
        if best is not None:
            yield best


def _behind(case: Case, plate: Plate, tracks: Tracks) -> Array:
    """Return when a plate may be behind the HUD: by its rule, and for a film while it runs; flags, shape (frames,)."""
    chosen = case.chosen(tracks, plate)
    there = np.ones(len(tracks.trace), bool) if chosen is None else chosen
    if not plate.film:
        return there
    begins = film_second(case.project, plate, tracks.trace.name, 0.0)
    if begins is None:
        return np.zeros_like(there)
    try:
        runs = footage_seconds(case.plate_file(plate), plate.rate)
    except AvrinError:
        return there  # reported as missing
    second = tracks.trace.axis + begins
    return there & (second >= 0) & (second <= runs)


def _longest(where: Array, tracks: Tracks) -> float:
    """Return the seconds of the longest stretch."""
    lasting = tracks.trace.lasting
    return max((float(lasting[start:end].sum()) for start, end in stretches(where)), default=0.0)


def _cover_finding(widget: BoundWidget, plate: Plate, worst: _Cover, seconds: float, numbers: set[int]) -> Finding:
    zone, found = plate.keep_clear[worst.number], stretches(worst.where)
    lasting = worst.tracks.trace.lasting
    start, end = max(found, key=lambda stretch: (float(lasting[stretch[0] : stretch[1]].sum()), -stretch[0]))
    what, more = zone.name or "the keep-clear zone", len(numbers) - 1
    others = f", and {counted(more, 'more zone')}" if more else ""
    if worst.always:
        when, start, found = "whenever it is visible", found[0][0], found[:1]
        end = start + 1
    else:
        at_most = f", at most {_seconds(_longest(worst.where, worst.tracks))} at a stretch" if len(found) > 1 else ""
        when = f"for {_seconds(seconds)}{at_most}"
    return Finding(
        widget.widget.id, f"over {zone.name or 'a keep-clear zone'} on {plate.name}",
        f"{widget.widget.title} covers {what} on {plate.name} {when}, on {worst.screen.name}{others}",
        "Move it aside", about=plate.name, trace=worst.tracks.trace.name, start=start, end=end,
        moments=tuple(found[:MAX_STRETCHES]) if len(found) > 1 else (), screen=worst.screen.name, plate=plate.name,
        weight=seconds,
    )  # fmt: skip


def _seconds(seconds: float) -> str:
    return f"{seconds:.1f} s" if seconds < 60 else clock(seconds, hundredths=False)


CHECKS = (
    Check("keep-clear", "warning", "A widget covers a keep-clear zone of a plate.", widget=_keep_clear, of_views=True,
          follows=(("keep-clear", "widget"),)),
)  # fmt: skip
