"""The bands of a widget along its level: how often each level occurred, where the limits lie, where the playhead is."""

from __future__ import annotations

from itertools import pairwise

import numpy as np
from PySide6.QtCore import QPointF, QRectF, QSize, Qt
from PySide6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen, QPixmap, QPolygonF
from PySide6.QtWidgets import QWidget

from avrin.app.controls.assistive import Assisted, Part, Role
from avrin.app.controls.by_keys import Stepped, ring
from avrin.app.controls.theme import font, measure, theme
from avrin.app.painting.apart import painting
from avrin.app.painting.stretches import band_colour, fill_stretch
from avrin.app.session.session import Session
from avrin.model import Band
from avrin.trace import FloatArray
from avrin.widgets import BoundWidget, RulePlace

__all__ = ["BandStrip"]

TALL, TOP, STRIP = 76, 34, 12
GRIP = 6.0


class BandStrip(Stepped, Assisted, QWidget):
    """Limits that are plain numbers can be dragged along the strip; Left and Right move the one that Tab stands on."""

    own_keys = frozenset({Qt.Key.Key_Left, Qt.Key.Key_Right})

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self._drag: str = ""
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
        chosen = self.session.widget
        return chosen if chosen is not None and chosen.level is not None else None

    def domain(self) -> tuple[float, float]:
        """Levels at the strip's ends: empty to full of a share, the recorded range and all limits of a number."""
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
        return self.session.tracks.column(widget.level).data

    def _limits(self) -> list[tuple[Band, float]]:
        """Bands with limits that never change."""
        widget = self._widget
        if widget is None:
            return []
        found = []
        for band in widget.widget.bands:
            limit = widget.thresholds[band.name][0]
            if limit is not None and limit.constant is not None and not np.isnan(limit.constant[0]):
                found.append((band, float(limit.constant[0])))
        return found

    def _by_level(self) -> list[tuple[Band, float]]:
        return sorted(self._limits(), key=lambda pair: pair[1])

    def parts(self) -> int:
        return len(self._limits())

    def _x(self, level: float) -> float:
        low, high = self.domain()
        return (level - low) / (high - low) * self.width()

    def assisted_parts(self) -> list[Part]:
        """Each band's limit, as its handle says it, and whether the level lies in it now."""
        widget = self._widget
        now = self.session.tracks.state(widget, self.session.frame)["band"] if widget is not None else ""
        return [
            Part(
                _said(band), QRectF(self._x(limit) - GRIP, TOP, 2 * GRIP, STRIP), Role.ListItem, chosen=band.name == now
            )
            for band, limit in self._limits()
        ]

    # -- painting ---------------------------------------------------------------------------------------------------

    def paintEvent(self, _event: QPaintEvent) -> None:
        widget = self._widget
        if widget is None:
            return
        now = (widget, self.session.tracks, self.size(), self._drag)
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
        """All but the playhead's mark."""
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
        """How often each level occurred, as a row of columns."""
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
        # The square root keeps rare levels visible beside those where the game spends its time.
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
        for band, limit in limits:
            back = widget.thresholds[band.name][1]
            if back is None or back.constant is None:
                continue
            a, b = sorted((self._x(limit), self._x(float(back.constant[0]))))
            painter.setBrush(band_colour(widget, band.name))
            painter.setOpacity(0.45)
            painter.setPen(Qt.PenStyle.NoPen)
            painter.drawRect(QRectF(a, TOP, b - a, STRIP))
            painter.setOpacity(1)

    def _paint_handles(self, painter: QPainter) -> None:
        t = theme()
        painter.setFont(font("small"))
        taken = -100.0
        for band, limit in self._by_level():
            x = self._x(limit)
            painter.setPen(QPen(t.ink, 2))
            painter.drawLine(QPointF(x, TOP - 4), QPointF(x, TOP + STRIP + 5))
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(t.accent if self._drag == band.name else t.ink)
            painter.drawEllipse(QPointF(x, TOP + STRIP + 6), 4, 4)
            text = _said(band)
            wide = measure(text, "small")
            left = max(0.0, min(max(x - wide / 2, taken + 10), self.width() - wide))
            painter.setPen(t.second)
            painter.drawText(QPointF(left, TALL - 6), text)
            taken = left + wide

    def _paint_now(self, painter: QPainter, widget: BoundWidget) -> None:
        assert widget.level is not None
        level = self.session.tracks.value(widget.level, self.session.frame)
        if not isinstance(level, float):
            return
        x = min(max(self._x(level), 0.0), float(self.width()))
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(theme().accent)
        painter.drawPolygon(QPolygonF([QPointF(x - 5, TOP - 9), QPointF(x + 5, TOP - 9), QPointF(x, TOP - 1)]))

    # -- hands ------------------------------------------------------------------------------------------------------

    def _handle_at(self, point: QPointF) -> str:
        near = [(abs(self._x(limit) - point.x()), band.name) for band, limit in self._limits()]
        best = min(near, default=(99.0, ""))
        return best[1] if best[0] <= GRIP and point.y() > TOP - 6 else ""

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self._drag = self._handle_at(event.position())

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if not self._drag:
            over = self._handle_at(event.position())
            self.setCursor(Qt.CursorShape.SizeHorCursor if over else Qt.CursorShape.ArrowCursor)
            return
        band = next((b for b, _ in self._limits() if b.name == self._drag), None)
        if band is not None:
            low, high = self.domain()
            self._put(band, low + min(max(event.position().x() / self.width(), 0.0), 1.0) * (high - low))

    def keyPressEvent(self, event: QKeyEvent) -> None:
        way = {Qt.Key.Key_Left: -1, Qt.Key.Key_Right: 1}.get(Qt.Key(event.key()), 0)
        if not way or self.stands_on is None:
            super().keyPressEvent(event)
            return
        widget, (low, high) = self._widget, self.domain()
        assert widget is not None
        band, limit = self._by_level()[self.stands_on]
        far = event.modifiers() & Qt.KeyboardModifier.ShiftModifier
        step = (0.01 if widget.kind.share else step_of(high - low)) * (10 if far else 1)
        self._put(band, min(max(limit + way * step, low), high))
        self.at = next(i for i, (one, _) in enumerate(self._by_level()) if one.name == band.name)

    def _put(self, band: Band, level: float) -> None:
        """A band begins at another level, written as a person would."""
        widget, (low, high) = self._widget, self.domain()
        assert widget is not None
        text = f"{round(level * 100)}%" if widget.kind.share else f"{handy(level, high - low):g}"
        self.session.set_rule(
            RulePlace("widget", widget.widget.id, "bands", band.name, "below" if band.below else "above"), text
        )

    def mouseReleaseEvent(self, _event: QMouseEvent) -> None:
        self._drag = ""
        self.session.seal()
        self.update()


def _said(band: Band) -> str:
    return f"{band.name} {'below' if band.below else 'above'} {band.below or band.above}"


def step_of(span: float) -> float:
    """The round step of about a hundredth of a span."""
    return float(10.0 ** np.floor(np.log10(span / 100))) if span > 0 else 1.0


def handy(level: float, span: float) -> float:
    """A limit a person would write: the nearest of round steps of about a hundredth of the span."""
    step = step_of(span)
    return float(round(round(level / step) * step, 9))
