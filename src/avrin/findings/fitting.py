"""Texts that exceed their box, and characters without a glyph."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np
from msgspec.structs import replace

from avrin.binding.bound import BoundWidget
from avrin.binding.missing_glyphs import missing_glyphs
from avrin.findings.case import Case
from avrin.findings.finding import Check, Finding, Fix
from avrin.findings.fixes import fix_place, fix_widget
from avrin.kinds.glyph_sheet import GlyphSheet
from avrin.render.columns import CutCell, columns_fitted, cut_cells
from avrin.render.extent import Extent, beyond, declared_extent
from avrin.render.fonts import face, typeface
from avrin.render.layout import Rect

__all__ = ["CHECKS", "larger"]


def _outgrows(case: Case, widget: BoundWidget) -> Iterator[Finding]:
    for tracks in case.tracks:
        got = case.extent(tracks, widget)
        if got is not None and beyond(widget, got):
            yield _outgrown_finding(widget, got, tracks.trace.name, got.frame, "in this recording")
            return
        if got is not None and (most := declared_extent(tracks, widget, got.frame)) is not None:
            yield _outgrown_finding(widget, most, "", None, "at the ends of the ranges declared")
            return
    if cut := max(cut_cells(case.tracks, widget), key=lambda cut: cut.needs - cut.cell.room, default=None):
        yield _cut(case, widget, cut)


def _cut(case: Case, widget: BoundWidget, cut: CutCell) -> Finding:
    cell, own = cut.cell, widget.widget
    name = f"the column {cell.title}" if cell.title and not cell.spans else "a column" if not cell.spans else "its row"
    made = columns_fitted(case.tracks, widget)
    return Finding(
        own.id, f"“{cell.text}” is cut",
        f"{own.title}: “{cell.text}” needs {cut.needs:.0f} pixels, and {name} has {cell.room:.0f}; it ends with “…”",
        "Make its columns wider, or its text smaller or shorter", about="columns", trace=cut.trace.name,
        start=cut.frame, end=cut.frame + 1,
        fix=fix_widget("fit its columns", own.id, lambda now: replace(now, options=made.options, place=replace(
            now.place, size=made.place.size))),
    )  # fmt: skip


def _outgrown_finding(widget: BoundWidget, got: Extent, trace: str, frame: int | None, when: str) -> Finding:
    width, height = widget.widget.place.size
    most: Rect = got.most
    return Finding(
        widget.widget.id, f"outgrows its box by {beyond(widget, got):.0f}",
        f"{widget.widget.title} reaches {beyond(widget, got):.0f} pixels beyond its box of {width:.0f} × {height:.0f} {when}",
        "Make its box larger, its text smaller, or its pattern shorter", about="box", trace=trace,
        start=frame, end=None if frame is None else frame + 1, fix=larger(widget, most),
    )  # fmt: skip


def larger(widget: BoundWidget, most: Rect) -> Fix:
    """Return a fix with a box in which the whole widget fits."""
    width, height = widget.widget.place.size
    wide = float(np.ceil(max(width, most.width)))
    high = float(np.ceil(max(height, most.height))) if widget.kind.fits != "line" else height
    size = f"{wide:.0f} × {high:.0f}"
    return fix_place(f"make the box {size}", widget.widget.id, lambda place: replace(place, size=(wide, high)))


def _missing_characters(case: Case, widget: BoundWidget) -> Iterator[Finding]:
    sheet = getattr(widget.options, "face", None)
    look = widget.looks[""]
    font = typeface(look.font, case.bound.folder, bold=look.bold, even=look.figures == "even")
    for tracks in case.tracks:
        for column in widget.kind.writes:
            known: set[str] | None = None
            if isinstance(sheet, GlyphSheet) and column == widget.kind.glyph_text:
                known = {*sheet.characters, " "}
            elif font is None:
                continue
            has = known.__contains__ if known is not None else face(font).has
            wrong = missing_glyphs(tracks, widget, column, has)
            if wrong:
                frame = min(wrong.values())
                quoted = " ".join(f"“{character}”" for character in wrong)
                where = "its glyph sheet" if known is not None else "its font"
                yield Finding(
                    widget.widget.id, f"no {quoted} in {where}",
                    f"{widget.widget.title} writes {quoted}, which {where} does not have",
                    "Add them to the sheet or choose a font that has them", about="".join(sorted(wrong)),
                    trace=tracks.trace.name, start=frame, end=frame + 1,
                )  # fmt: skip
                return


def _no_room(_case: Case, widget: BoundWidget) -> Iterator[Finding]:
    """Yield widgets whose chosen edge and gap would leave no room for the fill of a thin box."""
    own = widget.widget
    chosen = [name for name in ("edge_width", "gap") if name in own.look]
    width, height = own.place.size
    caption = own.inputs.get(widget.kind.words, "")
    if not chosen or not widget.kind.squeezed(width, height, widget.looks[""], caption):
        return
    names = " and ".join("the edge" if name == "edge_width" else "the gap" for name in chosen)
    yield Finding(
        own.id, f"no room inside {width:.0f} × {height:.0f}",
        f"{own.title} is {width:.0f} × {height:.0f} pixels: {names} would leave no room for its fill, and is drawn thinner",
        "Make its box larger, or its edge and gap thinner", about="gap",
        fix=fix_widget("use the thickness that is drawn", own.id,
                       lambda w: replace(w, look={k: v for k, v in w.look.items() if k not in chosen})),
    )  # fmt: skip


CHECKS = (
    Check("no-room", "warning", "A bar's edge and gap would leave no room for its fill.", widget=_no_room),
    Check("outgrows", "warning", "A text or a row reaches beyond its box with recorded or declared values.", widget=_outgrows),
    Check("missing-characters", "warning", "A glyph sheet or a font lacks a written character.", widget=_missing_characters),
)  # fmt: skip
