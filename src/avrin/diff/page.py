"""The HTML page of differences: each entry, with pictures of the HUD before and after."""

from __future__ import annotations

from base64 import b64encode
from collections.abc import Callable, Sequence
from html import escape
from pathlib import Path

from avrin.binding.tracks import Tracks
from avrin.diff.entries import Entries
from avrin.diff.pictures import PictureStretch
from avrin.diff.reports import Difference
from avrin.diff.stretches import Stretch
from avrin.errors import AvrinError
from avrin.printable import xml_text
from avrin.project.project import Plate, Screen
from avrin.render.pictures import frame_shapes
from avrin.render.svg import svg
from avrin.render.values import clock, format_value

__all__ = ["Pair", "page", "side"]

Pair = Callable[[Stretch], tuple[str, str]]  # the HUD before and after at a stretch's first frame, as SVG
MAX_PAIRS = 24  # pairs of pictures
CSS = """
body { font: 15px/1.5 "Fira Sans", system-ui, sans-serif; color: #24211d; background: #f4f1ea; }
body { margin: 2rem auto; max-width: 1240px; padding: 0 1rem; }
h1 { font-size: 22px; } h2 { font-size: 17px; margin: 2rem 0 .5rem; } p, li { color: #5f5a50; } li b, td b { color: #24211d; }
ul { padding-left: 1.1rem; } .pair { display: grid; grid-template-columns: 1fr 1fr; gap: 14px; }
figure { margin: 0; } figure img { width: 100%; height: auto; display: block; border-radius: 4px; }
figcaption { font-size: 13px; color: #5f5a50; padding: 3px 0 14px; }
table { border-collapse: collapse; font-variant-numeric: tabular-nums; } td { padding: 2px 18px 2px 0; }
"""


def page(difference: Difference, pair: Pair) -> str:
    """Return a self-contained page. pair: draws the pictures."""
    body = f"<h1>{escape(difference.title)}</h1>\n{_entries(difference.entries)}{_shown(difference, pair)}"
    return xml_text(
        f'<!DOCTYPE html>\n<html lang="en"><head><meta charset="utf-8"><title>{escape(difference.title)}</title>'
        f"<style>{CSS}</style></head>\n<body>\n{body}</body></html>\n"
    )


def side(tracks: Tracks, frame: int, screen: Screen, plate: Plate | None, folder: Path) -> str:
    """Return one picture of a pair as SVG: the HUD at a frame on a screen, over a plate if it exists."""
    try:
        shapes = frame_shapes(tracks, frame, screen, plate, folder)
    except AvrinError:  # without the plate's file the HUD can still be compared
        shapes = frame_shapes(tracks, frame, screen, None, folder)
    return svg(shapes, *screen.size)


def _entries(entries: Entries) -> str:
    if not entries:
        return "<p>The files are equal.</p>\n"
    lines = [escape(entry) for entry in entries.project]
    lines += [f"<b>{escape(ident)}</b> is new" for ident in entries.added]
    lines += [f"<b>{escape(ident)}</b> is gone" for ident in entries.removed]
    lines += [f"<b>{escape(one.widget)}</b>: {escape(', '.join(one.what))}" for one in entries.changed]
    return "<h2>In the file</h2>\n<ul>\n" + "".join(f"<li>{line}</li>\n" for line in lines) + "</ul>\n"


def _shown(difference: Difference, pair: Pair) -> str:
    """Return a pair for the first moment of each column of each widget, with a table of all stretches."""
    if not difference.stretches and not difference.pictures:
        return "<p>Nothing looks different over the recordings.</p>\n"
    by_column: dict[tuple[str, str], list[Stretch]] = {}
    for one in difference.stretches:
        by_column.setdefault((one.widget, one.column), []).append(one)
    parts = []
    for number, ((widget, column), rows) in enumerate(by_column.items()):
        parts.append(f"<h2>{escape(widget)}, {escape(column)}</h2>\n")
        if number < MAX_PAIRS:
            before, after = pair(rows[0])
            at = f"{clock(rows[0].first)} in {rows[0].trace}"
            sides = _side(before, f"before: {format_value(rows[0].old)}, at {at}") + _side(
                after, f"after: {format_value(rows[0].new)}"
            )
            parts.append(f'<div class="pair">{sides}</div>\n')
        values = [f"<td>{escape(format_value(one.old))} → <b>{escape(format_value(one.new))}</b></td>" for one in rows]
        parts.append(_table(rows, values))
    parts += _drawn(difference, pair, {widget.partition("[")[0] for widget, _ in by_column})
    return "".join(parts)


def _drawn(difference: Difference, pair: Pair, listed: set[str]) -> list[str]:
    """Return pairs for widgets drawn differently without a changed value: each at its first moment."""
    by_widget: dict[str, list[PictureStretch]] = {}
    for one in difference.pictures:
        for ident in one.widgets:
            by_widget.setdefault(ident, []).append(one)
    parts = []
    for number, (ident, rows) in enumerate((i, rows) for i, rows in by_widget.items() if i not in listed):
        first = rows[0]
        parts.append(f"<h2>{escape(ident)}, drawn differently</h2>\n")
        if number < MAX_PAIRS:
            as_stretch = Stretch(
                first.trace, ident, "visible", first.run, first.first, first.last, first.frames, None, None, first.start
            )
            before, after = pair(as_stretch)
            at = f"{clock(first.first)} in {first.trace}"
            parts.append(f'<div class="pair">{_side(before, f"before, at {at}")}{_side(after, "after")}</div>\n')
        parts.append(_table(rows, [""] * len(rows)))
    return parts


def _table(rows: Sequence[Stretch | PictureStretch], more: Sequence[str]) -> str:
    """Return a row per stretch: position and duration. more: an additional cell for each."""
    lines = [
        f"<tr><td>{escape(one.trace)}</td><td>{clock(one.first)} – {clock(one.last)}</td><td>{one.frames:,} frames</td>"
        f"{cell}</tr>\n"
        for one, cell in zip(rows, more, strict=True)
    ]
    return f"<table>\n{''.join(lines)}</table>\n"


def _side(picture: str, words: str) -> str:
    """Return a picture with its caption. Embedded as an image, so that ids of two drawings cannot clash."""
    data, caption = b64encode(picture.encode()).decode(), escape(words)
    return f'<figure><img alt="{caption}" src="data:image/svg+xml;base64,{data}"><figcaption>{caption}</figcaption></figure>'
