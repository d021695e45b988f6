"""The band strip: a histogram of a widget's level with its bands' limits and the current level."""

from __future__ import annotations

from itertools import pairwise

import numpy as np
from PySide6.QtCore import QEvent, QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen, QPixmap, QPolygonF
from PySide6.QtWidgets import QWidget

from avrin.app.controls.assistive import Assisted, Part, Role
from avrin.app.controls.focus import Stepped, ring
from avrin.app.controls.theme import font, measure, theme
from avrin.app.painting.offscreen import painting
from avrin.app.painting.stretches import band_colour, fill_stretch
from avrin.app.services.editor import Editor
from avrin.binding.bound import BoundWidget
from avrin.editor.edits import seal, set_widget
from avrin.edits.bands import band_put, band_removed, band_sticky, split
from avrin.project.numbers import rule_number
from avrin.project.project import Band
from avrin.trace.frames import FloatArray

__all__ = ["BandStrip"]

TALL, TOP, STRIP = 76, 34, 12
GRIP = 6.0
AWAY = 40.0  # pixels off the strip at which a band is removed


class BandStrip(Stepped, Assisted, QWidget):
    """Constant limits can be dragged along the strip; Left and Right move the focused one."""

    name_wanted = Signal(str)  # of a band
    kept_keys = frozenset({Qt.Key.Key_Left, Qt.Key.Key_Right, Qt.Key.Key_Delete, Qt.Key.Key_Return})

    def __init__(self, editor: Editor) -> None:
        super().__init__()
        self.editor = editor
        self._drag: str = ""
        self._of_back = False  # its `back` limit is dragged
        self._away = False  # it was dragged off the strip
        self._pressed: QPointF | None = None
        self._ghost: float | None = None  # where a press would add a band
        self._still: QPixmap | None = None
        self._still_of: tuple[object, ...] = ()
        self._counts: FloatArray = np.zeros(0)
        self._of: tuple[object, object] = (None, None)
        self.setFixedHeight(TALL)
        self.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.setMouseTracking(True)
        self.setAccessibleName("Bands along the level")

    def sizeHint(self) -> QSize:
        return QSize(300, TALL)

    @property
    def _widget(self) -> BoundWidget | None:
        chosen = self.editor.now.widget
        return chosen if chosen is not None and chosen.level is not None else None

    def domain(self) -> tuple[float, float]:
        """Return the levels at the strip's ends: empty to full of a share, else the recorded range and all limits."""
        widget = self._widget
        assert widget is not None
        if widget.kind.share:
            return (0.0, 1.0)
        values = self._levels()
        known = values[~np.isnan(values)]
        marks = [limit for _, limit in self._limits()]
        low = min([*(known.min(keepdims=True) if len(known) else [0.0]), *marks])
        high = max([*(known.max(keepdims=True) if len(known) else [1.0]), *marks])
        return (float(low), float(high)) if high > low else (float(low) - 1, float(low) + 1)

    def _levels(self) -> FloatArray:
        widget = self._widget
        assert widget is not None
        assert widget.level is not None
        return self.editor.now.tracks.column(widget.level).data

    def _limits(self) -> list[tuple[Band, float]]:
        """Return bands with constant limits."""
        widget = self._widget
        if widget is None:
            return []
        found = []
        for band in widget.widget.bands:
            limit = widget.thresholds[band.name].limit
            if limit is not None and limit.constant is not None and not np.isnan(limit.constant[0]):
                found.append((band, float(limit.constant[0])))
        return found

    def _backs(self) -> list[tuple[Band, float, float]]:
        """Return bands with constant limit and `back`: where they are entered and left."""
        widget, found = self._widget, []
        for band, limit in self._limits() if widget is not None else ():
            back = widget.thresholds[band.name].back if widget is not None else None
            if back is not None and back.constant is not None and not np.isnan(back.constant[0]):
                found.append((band, limit, float(back.constant[0])))
        return found

    def _by_level(self) -> list[tuple[Band, float]]:
        return sorted(self._limits(), key=lambda pair: pair[1])

    def parts(self) -> int:
        return len(self._limits())

    def _x(self, level: float) -> float:
        low, high = self.domain()
        return (level - low) / (high - low) * self.width()

    def assisted_parts(self) -> list[Part]:
        """Return each band's limit as on its handle, and whether the level is in the band."""
        widget = self._widget
        now = self.editor.now.tracks.state(widget, self.editor.now.frame)["band"] if widget is not None else ""
        return [
            Part(
                _describe(band),
                QRectF(self._x(limit) - GRIP, TOP, 2 * GRIP, STRIP),
                Role.ListItem,
                chosen=band.name == now,
            )
            for band, limit in self._limits()
        ]

    # -- painting ---------------------------------------------------------------------------------------------------

    def paintEvent(self, _event: QPaintEvent) -> None:
        widget = self._widget
        if widget is None:
            return
        now = (widget, self.editor.now.tracks, self.size(), self._drag)
        if self._still is None or self._still_of != now:
            self._still, self._still_of = self._painted(widget), now
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.drawPixmap(0, 0, self._still)
        self._paint_now(painter, widget)
        if self.stands_on is not None:
            x = self._x(self._by_level()[self.stands_on][1])
            ring(painter, QRectF(x - 8, TOP - 6, 16, STRIP + 19))

    def _painted(self, widget: BoundWidget) -> QPixmap:
        """Return everything but the playhead's mark."""
        ratio = self.devicePixelRatioF()
        still = QPixmap(self.size() * ratio)
        still.setDevicePixelRatio(ratio)
        still.fill(Qt.GlobalColor.transparent)
        with painting(still) as painter:
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            self._paint_counts(painter)
            self._paint_strip(painter, widget)
            self._paint_handles(painter)
        return still

    def _paint_counts(self, painter: QPainter) -> None:
        """Paint the histogram of levels."""
        values, bins = self._levels(), max(10, self.width() // 6)
        if self._of != (id(values), bins):
            known = values[~np.isnan(values)]
            self._counts = np.histogram(known, bins, self.domain())[0].astype(float)
            self._of = (id(values), bins)
        most = self._counts.max(initial=0)
        if not most:
            return
        wide = self.width() / len(self._counts)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(theme().line)
        # The square root keeps rare levels visible next to frequent ones.
        for i, share in enumerate(np.sqrt(self._counts / most).tolist()):
            if share:
                tall = max(1.5, share * (TOP - 6))
                painter.drawRect(QRectF(i * wide + 0.5, TOP - 2 - tall, wide - 1, tall))

    def _paint_strip(self, painter: QPainter, widget: BoundWidget) -> None:
        low, high = self.domain()
        limits = self._limits()
        edges = sorted({low, high, *(limit for _, limit in limits if low < limit < high)})
        for start, end in pairwise(edges):
            middle = (start + end) / 2
            name = next((b.name for b, limit in limits if (middle < limit if b.below else middle > limit)), "")
            rect = QRectF(self._x(start), TOP, self._x(end) - self._x(start), STRIP)
            fill_stretch(painter, rect, band_colour(widget, name), name)
        for band, limit, back in self._backs():
            a, b = sorted((self._x(limit), self._x(back)))
            painter.setBrush(band_colour(widget, band.name))
            painter.setOpacity(0.45)
            painter.setPen(Qt.PenStyle.NoPen)
            painter.drawRect(QRectF(a, TOP, b - a, STRIP))
            painter.setOpacity(1)

    def _paint_handles(self, painter: QPainter) -> None:
        t = theme()
        painter.setFont(font("small"))
        taken = -100.0
        for band, _, back in self._backs():
            painter.setPen(QPen(t.ink, 1.2, Qt.PenStyle.DotLine))
            x = self._x(back)
            painter.drawLine(QPointF(x, TOP - 2), QPointF(x, TOP + STRIP + 3))
            painter.setPen(QPen(t.accent if self._drag == band.name and self._of_back else t.ink, 1.4))
            painter.setBrush(t.desk)
            painter.drawEllipse(QPointF(x, TOP + STRIP + 6), 3.2, 3.2)
        for band, limit in self._by_level():
            painter.setOpacity(0.3 if self._away and band.name == self._drag else 1)
            x = self._x(limit)
            painter.setPen(QPen(t.ink, 2))
            painter.drawLine(QPointF(x, TOP - 4), QPointF(x, TOP + STRIP + 5))
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(t.accent if self._drag == band.name else t.ink)
            painter.drawEllipse(QPointF(x, TOP + STRIP + 6), 4, 4)
            text = _describe(band)
            wide = measure(text, "small")
            left = max(0.0, min(max(x - wide / 2, taken + 10), self.width() - wide))
            painter.setPen(t.second)
            painter.drawText(QPointF(left, TALL - 6), text)
            taken = left + wide

    def _paint_now(self, painter: QPainter, widget: BoundWidget) -> None:
        assert widget.level is not None
        if self._ghost is not None:
            self._paint_ghost(painter, self._ghost)
        level = self.editor.now.tracks.value(widget.level, self.editor.now.frame)
        if not isinstance(level, float):
            return
        x = min(max(self._x(level), 0.0), float(self.width()))
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(theme().accent)
        painter.drawPolygon(QPolygonF([QPointF(x - 5, TOP - 9), QPointF(x + 5, TOP - 9), QPointF(x, TOP - 1)]))

    def _paint_ghost(self, painter: QPainter, level: float) -> None:
        """Paint the limit that a press would add."""
        t, x, text = theme(), self._x(level), f"+ {self._written(level)[0]}"
        painter.setPen(QPen(t.ink, 1.4, Qt.PenStyle.DotLine))
        painter.drawLine(QPointF(x, TOP - 4), QPointF(x, TOP + STRIP + 5))
        wide = measure(text, "small", True) + 8
        box = QRectF(min(max(x - wide / 2, 0), self.width() - wide), TOP - 22, wide, 15)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(t.accent)
        painter.drawRoundedRect(box, 3, 3)
        painter.setPen(t.desk)
        painter.setFont(font("small", True))
        painter.drawText(box, Qt.AlignmentFlag.AlignCenter, text)

    # -- input ------------------------------------------------------------------------------------------------------

    def _handle_at(self, point: QPointF) -> tuple[str, bool]:
        """Return the band whose limit is at a point, and whether it is its `back`; "" for none."""
        near = [(abs(self._x(limit) - point.x()), band.name, False) for band, limit in self._limits()]
        near += [(abs(self._x(back) - point.x()) + 0.5, band.name, True) for band, _, back in self._backs()]
        best = min(near, default=(99.0, "", False))
        return (best[1], best[2]) if best[0] <= GRIP and point.y() > TOP - 6 else ("", False)

    def _level_at(self, x: float) -> float:
        low, high = self.domain()
        return low + min(max(x / self.width(), 0.0), 1.0) * (high - low)

    def _on_strip(self, point: QPointF) -> bool:
        return TOP - 5 <= point.y() <= TOP + STRIP + 5

    def mousePressEvent(self, event: QMouseEvent) -> None:
        if event.button() == Qt.MouseButton.LeftButton and self._widget is not None:
            self._drag, self._of_back = self._handle_at(event.position())
            self._pressed = event.position() if not self._drag and self._on_strip(event.position()) else None
            self.editor.do(seal)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        point = event.position()
        if not self._drag:
            over = self._handle_at(point)[0]
            splits = self._widget is not None and not over and self._on_strip(point)
            self._show_ghost(self._level_at(point.x()) if splits else None)
            shape = Qt.CursorShape.SizeHorCursor if over else Qt.CursorShape.PointingHandCursor
            self.setCursor(shape if over or splits else Qt.CursorShape.ArrowCursor)
            return
        self._away = abs(point.y() - TOP - STRIP / 2) > AWAY and not self._of_back
        band = next((b for b, _ in self._limits() if b.name == self._drag), None)
        if band is None or self._away:
            self._outdated()
        elif self._of_back:
            self._put_back(band, self._level_at(point.x()))
        else:
            self._put(band, self._level_at(point.x()))

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        dragged, away, pressed = self._drag, self._away, self._pressed
        self._drag, self._away, self._pressed = "", False, None
        self.editor.do(seal)
        self._outdated()
        if dragged and away:
            self._remove(dragged)
        elif pressed is not None and (event.position() - pressed).manhattanLength() < 5:
            self.split_at(self._level_at(pressed.x()))

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        name = self._handle_at(event.position())[0]
        if name:
            self.name_wanted.emit(name)

    def leaveEvent(self, _event: QEvent) -> None:
        self._show_ghost(None)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        key = Qt.Key(event.key())
        way = {Qt.Key.Key_Left: -1, Qt.Key.Key_Right: 1}.get(key, 0)
        if self.stands_on is None or not (way or key in self.kept_keys):
            super().keyPressEvent(event)
            return
        band, limit = self._by_level()[self.stands_on]
        if key == Qt.Key.Key_Delete:
            self._remove(band.name)
        elif not way:
            self.name_wanted.emit(band.name)
        else:
            self._step(band, limit, way * (10 if event.modifiers() & Qt.KeyboardModifier.ShiftModifier else 1))

    def _step(self, band: Band, limit: float, steps: int) -> None:
        widget, (low, high) = self._widget, self.domain()
        assert widget is not None
        step = 0.01 if widget.kind.share else step_of(high - low)
        self._put(band, min(max(limit + steps * step, low), high))
        self.at = next(i for i, (one, _) in enumerate(self._by_level()) if one.name == band.name)

    # -- edits ------------------------------------------------------------------------------------------------------

    def split_now(self) -> None:
        """Add a band with its limit at the current level, or in the centre if that is missing."""
        widget, (low, high) = self._widget, self.domain()
        assert widget is not None
        assert widget.level is not None
        level = self.editor.now.tracks.value(widget.level, self.editor.now.frame)
        inside = isinstance(level, float) and low < level < high
        self.split_at(level if inside and isinstance(level, float) else (low + high) / 2)

    def split_at(self, level: float) -> None:
        """Add a band with its limit at a level, unless there is one already."""
        widget, editor = self._widget, self.editor
        assert widget is not None
        text, at = self._written(level)
        if any(abs(limit - at) < 1e-12 for _, limit in self._limits()):
            editor.say(f"There is already a band at {text}")
            return
        known = [(band.name, limit) for band, limit in self._limits()]
        made = split(widget.widget, text, at, known)
        editor.do(seal)
        editor.do(set_widget, made, f"add band to {widget.widget.title}")
        new = next(band.name for band in made.bands if all(band.name != one.name for one in widget.widget.bands))
        editor.say(f"Band {new}: double-click its mark to name it, drag it off the strip to remove it")

    def _written(self, level: float) -> tuple[str, float]:
        """Return a limit rounded to a readable rule, and its value."""
        widget, (low, high) = self._widget, self.domain()
        assert widget is not None
        if widget.kind.share:
            return f"{round(level * 100)}%", round(level * 100) / 100
        number = handy(level, high - low)
        return rule_number(number), number

    def _put(self, band: Band, level: float) -> None:
        """Move a band's limit. Its `back` moves along and stays on its side."""
        widget, (low, high) = self._widget, self.domain()
        assert widget is not None
        text, at = self._written(level)
        before = next(limit for one, limit in self._limits() if one.name == band.name)
        back = next((value for one, _, value in self._backs() if one.name == band.name), None)
        moved = self._written(min(max(back + at - before, low), high))[0] if back is not None else None
        made = band_put(widget.widget, band.name, text, moved)
        if made != widget.widget:
            self.editor.do(set_widget, made, f"limit of band {band.name}", f"limit {widget.widget.id} {band.name}")

    def _put_back(self, band: Band, level: float) -> None:
        """Move a band's `back`, never past its limit."""
        widget = self._widget
        assert widget is not None
        limit = next(value for one, value in self._limits() if one.name == band.name)
        text, _ = self._written(max(level, limit) if band.below else min(level, limit))
        made = band_sticky(widget.widget, band.name, text)
        if made != widget.widget:
            self.editor.do(set_widget, made, f"stickiness of band {band.name}", f"back {widget.widget.id} {band.name}")

    def _remove(self, name: str) -> None:
        widget = self._widget
        assert widget is not None
        self.editor.do(seal)
        self.editor.do(set_widget, band_removed(widget.widget, name), f"removal of band {name}")
        self.editor.say(f"Removed band {name}.  Ctrl+Z restores it")

    def _show_ghost(self, level: float | None) -> None:
        if level != self._ghost:
            self._ghost = level
            self.update()

    def _outdated(self) -> None:
        self._still = None
        self.update()


def _describe(band: Band) -> str:
    return f"{band.name} {'below' if band.below else 'above'} {band.below or band.above}"


def step_of(span: float) -> float:
    """Return a round step of about a hundredth of a span."""
    return float(10.0 ** np.floor(np.log10(span / 100))) if span > 0 else 1.0


def handy(level: float, span: float) -> float:
    """Round a limit to a readable value, about a hundredth of the span."""
    step = step_of(span)
    return float(round(round(level / step) * step, 9))
