"""Lane bodies over time: a variable's curve or stretches, a widget's bands over its driver's curve."""

from __future__ import annotations

import math
from itertools import pairwise

import numpy as np
from PySide6.QtCore import QPointF, QRect, QRectF, Qt
from PySide6.QtGui import QColor, QPainter, QPen, QPixmap, QPolygonF

from avrin.app.bind_desk.lanes.scale import HEAD, TimeScale
from avrin.app.controls.theme import font, measure, theme
from avrin.app.painting import marks
from avrin.app.painting.curve import Span, curve_image, ranges
from avrin.app.painting.offscreen import painting
from avrin.app.painting.stretches import band_colour, fill_stretch, stretches
from avrin.app.services.checking import Checking
from avrin.app.services.comparison import Compared, Comparison
from avrin.app.services.editor import Editor
from avrin.binding.occurrences import Occurrences
from avrin.binding.tracks import Tracks, changes
from avrin.editor.comments import comment_frames
from avrin.editor.lanes import Lane
from avrin.editor.snapshot import sources
from avrin.errors import AvrinError
from avrin.render.values import clock, format_value
from avrin.rules.steps import Step
from avrin.trace.frames import Column, FloatArray, Trace, event_column
from avrin.trace.pyramid import Pyramid

__all__ = ["BodyPainter", "paint_run_starts", "thresholds"]

PAD = 5.0  # pixels above and below a lane's content
MOST_PICTURES = 120  # of lanes, some 200 KB each
BEFORE = 11.0  # pixels of the earlier widget's strip below the current one
MOST_STRETCHES = 4000  # more are narrower than a pixel
MIN_RUN_GAP_PX = 40  # mean distance of run starts below which their lines are faint


Limit = float | FloatArray


def thresholds(tracks: Tracks, name: str) -> list[tuple[str, Limit]]:
    """Return limits that bands set directly on a variable, in its unit: (band, a value or values of shape (T,)).

    The limit of a share varies per frame: for example a quarter of the current `full`.
    """
    found: list[tuple[str, Limit]] = []
    for widget in tracks.bound.widgets.values():
        value = widget.inputs.get("value")
        if value is None or value.op.name != "column" or value.params != (name,):
            continue
        full, empty = widget.inputs.get("full"), widget.inputs.get("empty")
        for band, threshold in widget.thresholds.items():
            if threshold.limit is None:
                continue
            at = _limit(tracks, threshold.limit)
            if full is not None and empty is not None:  # the level is a share between empty and full
                low = _limit(tracks, empty)
                at = low + at * (_limit(tracks, full) - low)
            found.append((band, at))
    return found


def _limit(tracks: Tracks, step: Step) -> Limit:
    return float(step.constant[0]) if step.constant is not None else tracks.column(step).data


class BodyPainter:
    """Paints lanes; caches each curve's pyramid while its trace is open."""

    def __init__(self, editor: Editor, checking: Checking, comparison: Comparison, scale: TimeScale) -> None:
        self.editor = editor
        self._checking, self._comparison = checking, comparison
        self.scale = scale
        self._pyramids: dict[int, tuple[object, Pyramid]] = {}
        self._pictures: dict[tuple[object, ...], tuple[QPixmap, object]] = {}
        self._limits: tuple[Tracks | None, dict[str, list[tuple[str, Limit]]]] = (None, {})

    def forget(self) -> None:
        """Drop the caches for another trace."""
        self._pyramids.clear()
        self._pictures.clear()

    def span(self) -> Span:
        """Return the frames of each pixel column in the current view."""
        scale = self.scale
        return Span.of(self.editor.now.trace.axis, scale.start, scale.per_pixel, math.ceil(scale.width))

    def paint(self, painter: QPainter, lane: Lane, top: float, span: Span) -> None:
        """Paint one lane's body, whose rectangle starts at `top`. Unchanged bodies are copied."""
        ratio = painter.device().devicePixelRatioF()
        key, held = self._looks(lane)
        key = (*key, lane, self.scale.start, self.scale.span, self.scale.width, ratio)
        known = self._pictures.get(key)
        if known is None:
            whole = QRectF(0, 0, self.scale.width + 2, lane.height)
            picture = QPixmap(round(whole.width() * ratio), round(whole.height() * ratio))
            picture.setDevicePixelRatio(ratio)
            picture.fill(Qt.GlobalColor.transparent)
            with painting(picture) as inner:
                inner.setRenderHint(QPainter.RenderHint.Antialiasing)
                inner.translate(1 - self.scale.left, 0)
                self._paint(inner, lane, QRectF(self.scale.left, PAD, self.scale.width, lane.height - 2 * PAD), span)
            while len(self._pictures) >= MOST_PICTURES:
                del self._pictures[next(iter(self._pictures))]
            known = self._pictures[key] = (picture, held)
        painter.drawPixmap(QPointF(self.scale.left - 1, top), known[0])

    def _paint(self, painter: QPainter, lane: Lane, area: QRectF, span: Span) -> None:
        if lane.sort == "widget":
            self._widget(painter, lane, area, span)
            for frame in self._commented(lane.name):
                marks.comment(painter, self.scale.x(float(self.editor.now.trace.axis[frame])), area.top() - 2)
        elif lane.sort == "event":
            self._events(painter, lane.name, area)
        elif lane.sort == "variable":
            column = self.editor.now.column(lane.name)
            if column is None:
                self._nothing(painter, area)
            elif lane.kind == "number":
                self._number(painter, lane.name, column, area, span)
            else:
                self._stretches(painter, column, area)

    def _commented(self, ident: str) -> list[int]:
        """Return the frames of the open comments on a widget."""
        return [frame for frame, one in comment_frames(self.editor.now) if one.widget == ident]

    def _looks(self, lane: Lane) -> tuple[tuple[object, ...], object]:
        """Return a lane body's cache key besides time and size, and objects that must outlive it."""
        editor = self.editor
        comments = tuple(self._commented(lane.name)) if lane.sort == "widget" else ()
        notes = tuple((f.start, f.end, f.short) for f in self._checking.of_lane(lane.name))
        arrays: list[object] = [editor.now.trace.t]
        more: tuple[object, ...] = ()
        if lane.sort == "widget":
            widget = editor.now.bound.widgets[lane.name]
            arrays.append(widget.widget)
            arrays.append(self._comparison.found)
            arrays += [editor.now.tracks.column(widget.columns[name]).data for name in ("visible", "band")]
            if widget.level is not None and widget.level.constant is None:
                arrays.append(editor.now.tracks.column(widget.level).data)
        elif lane.sort == "variable":
            column = editor.now.column(lane.name)
            arrays.append(column.data if column is not None else None)
            limits = self._thresholds(lane.name) if lane.kind == "number" else []
            arrays += [limit for _, limit in limits if not isinstance(limit, float)]
            declared = editor.now.variable(lane.name)
            ends = (declared.low, declared.high) if declared is not None else None
            more = (ends, tuple(limit if isinstance(limit, float) else band for band, limit in limits))
        elif lane.sort == "event":
            arrays += [editor.now.trace.events, editor.now.bound.scope.derived_events.get(lane.name), editor.now.tracks]
        name = event_column(lane.name) if lane.sort == "event" else lane.name
        more = (*more, name in self._selected_sources(), editor.now.pins.get(lane.name, self))
        return (tuple(map(id, arrays)), notes, comments, *more), arrays

    # -- variables --------------------------------------------------------------------------------------------------

    def _number(self, painter: QPainter, name: str, column: Column, area: QRectF, span: Span) -> None:
        recorded = self.editor.now.recorded_column(name) if name in self.editor.now.pins else None
        values = recorded.data if recorded is not None and recorded.kind == "number" else column.data
        low, high = ranges(self._pyramid(values), span)
        self._missing(painter, np.isnan(low), area)
        limits = self._thresholds(name)
        held = self.editor.now.pins.get(name)
        ends = self._ends(name, values, [*limits, *([("held", held)] if isinstance(held, float) else [])])
        t = theme()
        for band, limit in limits:
            colour = {"low": t.low, "critical": t.critical}.get(band, t.low)
            if isinstance(limit, float):
                lower = upper = np.full(len(low), limit)
            else:
                lower, upper = ranges(self._pyramid(limit), span)
            lower = np.where(np.arange(len(lower)) % 8 > 4, np.nan, lower)  # dashes
            painter.drawImage(area.topLeft(), curve_image(lower, upper, ends, round(area.height()), colour))
        if recorded is not None:
            painter.setOpacity(0.35)
        used = name in self._selected_sources()
        colour = t.accent if used else t.second
        painter.drawImage(area.topLeft(), curve_image(low, high, ends, round(area.height()), colour))
        painter.setOpacity(1)
        if isinstance(held, float):
            level = np.full(len(low), held)
            painter.drawImage(area.topLeft(), curve_image(level, level, ends, round(area.height()), t.accent))

    def _thresholds(self, name: str) -> list[tuple[str, Limit]]:
        tracks = self.editor.now.tracks
        if self._limits[0] is not tracks:
            self._limits = (tracks, {})
        if name not in self._limits[1]:
            self._limits[1][name] = thresholds(tracks, name)
        return self._limits[1][name]

    def _ends(self, name: str, values: FloatArray, limits: list[tuple[str, Limit]]) -> tuple[float, float]:
        """Return bottom and top of a lane: the recorded range, extended to a nearby declared one, and to limits."""
        low, high = self._pyramid(values).extremes()
        if math.isnan(low):
            return (0.0, 1.0)
        reach = high - low
        marks: list[float] = []
        for _, at in limits:
            both = (at,) if isinstance(at, float) else self._pyramid(at).extremes()
            marks += [end for end in both if not math.isnan(end)]
        variable = self.editor.now.variable(name)
        if variable is not None:
            marks += [end for end in (variable.low, variable.high) if end is not None]
        near = [mark for mark in marks if low - 2 * reach <= mark <= high + 2 * reach]
        low, high = min([low, *near]), max([high, *near])
        if low == high:
            return (low - 1.0, high + 1.0)
        return (low, high)

    @staticmethod
    def _word(painter: QPainter, text: str, right: float, top: float, colour: QColor | None = None) -> None:
        """Paint a finding in words, ending at `right`, readable over any background."""
        t = theme()
        width = measure(text, "small")
        ground = QColor(t.desk)
        ground.setAlpha(225)
        painter.fillRect(QRectF(right - width - 4, top, width + 8, 15), ground)
        painter.setFont(font("small"))
        painter.setPen(colour or t.second)
        painter.drawText(QPointF(right - width, top + 11), text)

    def _stretches(self, painter: QPainter, column: Column, area: QRectF) -> None:
        """Paint a flag's true stretches as blocks, a text's as named stretches."""
        t = theme()
        axis = self.editor.now.trace.axis
        edges = [0, *changes(column.data).tolist(), len(column.data)]
        if len(edges) > MOST_STRETCHES:
            edges = [*edges[:: len(edges) // MOST_STRETCHES + 1], len(column.data)]
        tall = min(area.height(), 10.0 if column.kind == "flag" else 16.0)
        for number, (start, end) in enumerate(pairwise(edges)):
            value = column[start]
            if value is False:
                continue
            left = self.scale.x(float(axis[start]))
            right = self.scale.x(float(axis[min(end, len(axis) - 1)]))
            if right < area.left() or left > area.right():
                continue
            rect = QRectF(left, area.center().y() - tall / 2, max(1.0, right - left - 1), tall)
            if value is None:
                self._hatched(painter, rect)
                continue
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(t.second if column.kind == "flag" else (t.gutter, t.line)[number % 2])
            painter.drawRoundedRect(rect, 2, 2)
            if column.kind == "text" and rect.width() > 24:
                painter.setPen(t.ink)
                painter.setFont(font("small"))
                inner = rect.intersected(area).adjusted(6, 0, -4, 0)
                painter.drawText(inner, Qt.AlignmentFlag.AlignVCenter, str(value))

    def _missing(self, painter: QPainter, missing: np.ndarray, area: QRectF) -> None:
        edges = np.flatnonzero(np.diff(np.concatenate(([0], missing.astype(np.int8), [0])))).tolist()
        for start, end in zip(edges[0::2], edges[1::2], strict=True):
            if end - start >= 2:
                self._hatched(painter, QRectF(area.left() + start, area.top(), end - start, area.height()))

    @staticmethod
    def _hatched(painter: QPainter, rect: QRectF) -> None:
        t = theme()
        painter.fillRect(rect, t.missing_back)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(Qt.BrushStyle.BDiagPattern)
        brush = painter.brush()
        brush.setColor(t.missing_line)
        painter.setBrush(brush)
        painter.drawRect(rect)

    def _nothing(self, painter: QPainter, area: QRectF) -> None:
        self._hatched(painter, QRectF(area.left(), area.center().y() - 4, area.width(), 8))
        painter.setPen(theme().second)
        painter.setFont(font("small"))
        text = "not in this recording"
        width = measure(text, "small") + 12
        painter.fillRect(QRectF(area.left() + 20, area.center().y() - 8, width, 16), theme().desk)
        painter.drawText(QPointF(area.left() + 26, area.center().y() + 4), text)

    # -- events -----------------------------------------------------------------------------------------------------

    def _events(self, painter: QPainter, name: str, area: QRectF) -> None:
        t = theme()
        middle = area.center().y()
        painter.setPen(QPen(t.line, 1))
        painter.drawLine(QPointF(area.left(), middle), QPointF(area.right(), middle))
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(t.accent if event_column(name) in self._selected_sources() else t.second)
        marks = self._event_marks(name)[1]
        inside = marks[(marks >= area.left() - 6) & (marks <= area.right() + 6)]
        _, first = np.unique(np.round(inside), return_index=True)  # one mark for each pixel
        for x in inside[first].tolist():
            shape = ((0, -6), (4.5, 0), (0, 6), (-4.5, 0))
            painter.drawPolygon(QPolygonF([QPointF(x + dx, middle + dy) for dx, dy in shape]))

    def _event_marks(self, name: str) -> tuple[Occurrences, FloatArray]:
        """Return the occurrences of an event with their pixel positions, shape (occurrences,)."""
        found = self.editor.now.tracks.occurrences(name)
        return found, self.scale.xs(self.editor.now.trace.axis[found.frames])

    def event_at(self, name: str, x: float) -> str:
        """Return the event at a pixel column in words, or ""."""
        found, marks = self._event_marks(name)
        away = np.abs(marks - x)
        if not len(away) or away.min() > 6:
            return ""
        event = found[int(away.argmin())]
        args = "".join(f"\n{arg}: {format_value(value)}" for arg, value in event.args.items())
        return f"{event.name} at {clock(event.t)}{args}"

    # -- widgets ----------------------------------------------------------------------------------------------------

    def _widget(self, painter: QPainter, lane: Lane, area: QRectF, span: Span) -> None:
        widget = self.editor.now.bound.widgets[lane.name]
        fault = self.editor.now.bound.fault(lane.name)
        if fault is not None:
            self._fault(painter, fault, area)
            return
        found = self._comparison.found
        if found is not None and lane.name in found.widgets:
            strip = QRectF(area.left(), area.bottom() - BEFORE, area.width(), BEFORE)
            self._before(painter, lane.name, strip, found)
            area = area.adjusted(0, 0, 0, -BEFORE - 3)
        axis = self.editor.now.trace.axis
        end_of_trace = self.editor.now.trace.length + self.editor.now.trace.frame_time
        for part in stretches(self.editor.now.tracks, widget)[:MOST_STRETCHES]:
            left = self.scale.x(float(axis[part.start]))
            right = self.scale.x(float(axis[part.end]) if part.end < len(axis) else end_of_trace)
            if right < area.left() or left > area.right():
                continue
            rect = QRectF(left, area.top(), max(1.0, right - left - 1), area.height())
            fill_stretch(painter, rect, band_colour(widget, part.name), part.name)
            inner = rect.intersected(area).adjusted(7, 0, -5, 0)
            if part.name and measure(part.name, "small", True) < inner.width():
                light = band_colour(widget, part.name).lightnessF() > 0.62
                painter.setPen(QColor("#24211d" if light else "#ffffff"))
                painter.setFont(font("small", True))
                painter.drawText(inner, Qt.AlignmentFlag.AlignVCenter, part.name)
        self._marks(painter, lane.name, area)
        if widget.level is not None and widget.level.constant is None:
            values = self.editor.now.tracks.column(widget.level).data
            low, high = ranges(self._pyramid(values), span)
            ends = self._pyramid(values).extremes()
            if widget.kind.share and not math.isnan(ends[0]):  # as the widget draws it: from empty to full
                ends, low, high = (0.0, 1.0), np.clip(low, 0.0, 1.0), np.clip(high, 0.0, 1.0)
            if not math.isnan(ends[0]) and ends[1] > ends[0]:
                image = curve_image(low, high, ends, round(area.height()), QColor(255, 255, 255, 190))
                painter.drawImage(area.topLeft(), image)

    def _before(self, painter: QPainter, ident: str, strip: QRectF, comparison: Compared) -> None:
        """Paint the earlier version of a widget below it, underlined where it differs."""
        axis, trace = self.editor.now.trace.axis, self.editor.now.trace
        end_of_trace = trace.length + trace.frame_time
        before = comparison.tracks.bound.widgets[ident]
        for part in stretches(comparison.tracks, before)[:MOST_STRETCHES]:
            left = self.scale.x(float(axis[part.start]))
            right = self.scale.x(float(axis[part.end]) if part.end < len(axis) else end_of_trace)
            if right >= strip.left() and left <= strip.right():
                fill_stretch(painter, QRectF(left, strip.top(), max(1.0, right - left - 1), strip.height() - 3),
                             band_colour(before, part.name), part.name)  # fmt: skip
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(theme().accent)
        for one in comparison.widgets[ident][:MOST_STRETCHES]:
            left, last = self.scale.x(float(axis[one.start])), min(one.start + one.frames, len(axis) - 1)
            right = self.scale.x(float(axis[last]))
            if right >= strip.left() and left <= strip.right():
                painter.drawRect(QRectF(left, strip.bottom() - 2, max(2.0, right - left), 2))

    def _fault(self, painter: QPainter, fault: AvrinError, area: QRectF) -> None:
        """Paint a widget with an error, which is in no band."""
        t = theme()
        self._hatched(painter, area)
        painter.setFont(font("small", True))
        painter.setPen(t.critical)
        room = area.adjusted(7, 0, -5, 0)
        text = painter.fontMetrics().elidedText(fault.problem, Qt.TextElideMode.ElideRight, int(room.width()))
        ground = QRectF(room.x() - 3, room.center().y() - 9, measure(text, "small", True) + 8, 18)
        painter.fillRect(ground, t.missing_back)
        painter.drawText(room, Qt.AlignmentFlag.AlignVCenter, text)

    def _marks(self, painter: QPainter, ident: str, area: QRectF) -> None:
        """Paint findings about a stretch of time: framed, with words before it."""
        axis = self.editor.now.trace.axis
        told = [f for f in self._checking.of_lane(ident) if f.severity != "hint"]
        marks = sorted(
            (self.scale.x(float(axis[min(start, len(axis) - 1)])), self.scale.x(float(axis[min(end, len(axis) - 1)])), f.short)
            for f in told for start, end in f.stretches
        )  # fmt: skip
        seen = [mark for mark in marks if mark[1] >= area.left() and mark[0] <= area.right()]
        until = area.left()
        for number, (left, right, short) in enumerate(seen):
            painter.setPen(QPen(theme().critical, 1.5))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRoundedRect(QRectF(left - 2, area.top() - 2, right - left + 3, area.height() + 4), 3, 3)
            wide = measure(short, "small") + 12
            beyond = seen[number + 1][0] if number + 1 < len(seen) else area.right()
            at_left, until = left - wide > until, right
            if at_left:
                self._word(painter, short, left - 8, area.center().y() - 7, theme().critical)
            elif right + wide < beyond:
                self._word(painter, short, right + wide - 4, area.center().y() - 7, theme().critical)
                until = right + wide

    def _selected_sources(self) -> set[str]:
        chosen = self.editor.now.widget
        return set(sources(chosen)) if chosen is not None else {self.editor.now.selection.variable}

    def _pyramid(self, values: FloatArray) -> Pyramid:
        found = self._pyramids.get(id(values))
        if found is None or found[0] is not values:
            found = self._pyramids[id(values)] = (values, Pyramid(values))
        return found[1]


def paint_run_starts(painter: QPainter, trace: Trace, scale: TimeScale, area: QRect) -> None:
    """Paint a dotted line where a restart begins a new run."""
    t = theme()
    starts = [scale.x(float(trace.axis[start])) for start in trace.run_starts[1:].tolist()]
    visible = [x for x in starts if HEAD < x < area.width()]
    is_dense = len(visible) > 1 and (visible[-1] - visible[0]) / (len(visible) - 1) < MIN_RUN_GAP_PX
    painter.setPen(QPen(t.third, 0.6) if is_dense else QPen(t.ink, 1.2, Qt.PenStyle.DotLine))
    for x in visible:
        painter.drawLine(QPointF(x, 0), QPointF(x, area.height()))
