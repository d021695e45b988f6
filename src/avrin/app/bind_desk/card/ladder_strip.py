"""The short ladder: the selected widget around its thresholds, at the ends, beyond them, and missing."""

from __future__ import annotations

from functools import partial
from typing import TYPE_CHECKING

from PySide6.QtCore import QEvent, QPointF, QRectF, QSize, Qt, QTimer
from PySide6.QtGui import QColor, QHelpEvent, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen, QPolygonF
from PySide6.QtWidgets import QToolTip, QWidget

from avrin.app.controls.assistive import Assisted, Part
from avrin.app.controls.focus import Stepped, ring
from avrin.app.controls.theme import font, theme
from avrin.app.painting.paint import draw_shapes
from avrin.app.services.editor import Editor
from avrin.app.services.jobs import TimeSlices
from avrin.binding.bound import BoundWidget
from avrin.editor.by_hand import pin
from avrin.editor.changes import Change
from avrin.editor.playback import go_to_seconds
from avrin.errors import AvrinError
from avrin.ladder.drivers import drivers
from avrin.render.thumbnail import changing_part, thumbnail
from avrin.render.values import clock, format_value

if TYPE_CHECKING:  # imported when the first ladder is computed, after the first painting
    from avrin.ladder.samples import Ladder, Sample

__all__ = ["LadderStrip", "short"]

CELL_TALL, TALL = 36, 74
MAX_CELLS = 8
REST_MS = 180  # milliseconds the playhead must rest before the ladder follows


def short(ladder: Ladder) -> list[Sample]:
    """Return the present value, and the most significant cells: missing, both sides of band and visibility edges, ends."""
    found = list(ladder.samples)
    if len(found) < MAX_CELLS:
        return [ladder.now, *found]
    missing, rest = found[0], found[1:]
    edges = [i for i in range(1, len(rest)) if rest[i].edge or rest[i - 1].edge]
    telling = [
        i for i in edges
        if (rest[i - 1].state["band"], rest[i - 1].state["visible"]) != (rest[i].state["band"], rest[i].state["visible"])
    ] or edges  # fmt: skip
    kept = {0, len(rest) - 1}
    for i in telling:
        if len(kept | {i - 1, i}) <= MAX_CELLS - 2:
            kept |= {i - 1, i}
    ends = [i for i in range(1, len(rest) - 1) if not any(abs(i - j) < 2 for j in edges)]
    for i in [*(i for i in reversed(edges) if rest[i].edge), *reversed(ends)]:
        if len(kept) < MAX_CELLS - 2:
            kept.add(i)
    return [ladder.now, missing, *(rest[i] for i in sorted(kept))]


class LadderStrip(Stepped, Assisted, QWidget):
    """A row of cells. A press, or Enter on the focused one, goes to its first recorded moment."""

    def __init__(self, editor: Editor) -> None:
        super().__init__()
        self.editor = editor
        self.samples: list[Sample] = []
        self.driver = ""
        self._for: BoundWidget | None = None
        self._outdated = True
        self._timer = QTimer(self)
        self._timer.setSingleShot(True)
        self._timer.timeout.connect(self._begin)
        self._climbing = TimeSlices(self, editor, "tracks", "selection", "playhead", failed=self._failed)
        self._bound = editor.now.bound  # of the cells
        self._clock = 0.0
        self.setFixedHeight(TALL)
        self.setMouseTracking(True)
        self.setAccessibleName("The widget around its thresholds")
        editor.follow("ladder strip", self)

    def on_change(self, change: Change) -> None:
        """Climb again for the playhead."""
        if change.of("figures"):
            self._later()
        self.update()

    def assisted_parts(self) -> list[Part]:
        """Return each cell: the value, the widget's state, and its first recorded moment."""
        return [
            Part(
                f"{self.driver} {'now ' if i == 0 else ''}{format_value(sample.value)}", self._cell(i),
                value=self._recorded_text(sample), chosen=i == 0,
                press=partial(self._go, sample),
            )
            for i, sample in enumerate(self.samples)
        ]  # fmt: skip

    @staticmethod
    def _recorded_text(sample: Sample) -> str:
        from avrin.ladder.sheet import interval_words, percent  # late: 4 ms

        found, words = sample.interval.occurrences, interval_words(sample.interval)
        if found.first is None:
            return "no frame of this recording shows it"
        told = f"{words + ': ' if words else ''}{percent(sample.interval.share)} of its frames, first at {clock(found.first)}"
        return told + (". That exact value was never recorded" if sample.never else "")

    def sizeHint(self) -> QSize:
        return QSize(300, TALL)

    def outdated(self) -> None:
        """Mark it outdated: the next painting shows the old cells and starts the computation."""
        self._outdated = True
        self.update()

    def _later(self) -> None:
        if not self.editor.now.playing and not self._timer.isActive():
            self._timer.start(REST_MS)

    def _begin(self) -> None:
        """Compute the ladder for the playhead in time slices; a newer request cancels an older one."""
        from avrin.ladder.samples import sample_ladder  # late: 3 ms

        chosen = self.editor.now.widget
        names = drivers(self.editor.now.bound, chosen) if chosen is not None else ()
        if chosen is None or not names:
            self._climbing.cancel()
            self._show([], "", chosen)
            return
        driver = names[0]
        self._climbing.submit(
            lambda now: sample_ladder(now.tracks, chosen, driver, now.frame),
            lambda result, now: self._show(
                short(result), driver, chosen, float(now.trace.t[now.frame]) if len(now.trace) else 0.0
            ),
        )

    @property
    def busy(self) -> bool:
        """Whether it is being computed."""
        return self._timer.isActive() or self._climbing.busy

    def _failed(self, _error: AvrinError) -> None:
        self._show([], "", None)

    def _show(self, cells: list[Sample], driver: str, widget: BoundWidget | None, clock_at: float = 0.0) -> None:
        """Show cells, the first of them the present one, of a frame at some seconds of the trace."""
        self._clock = clock_at
        self.samples, self.driver, self._for, self._bound = cells, driver, widget, self.editor.now.bound
        self.setFocusPolicy(Qt.FocusPolicy.TabFocus if cells else Qt.FocusPolicy.NoFocus)
        self.update()

    def _cell(self, i: int) -> QRectF:
        count = max(len(self.samples), MAX_CELLS)
        wide = (self.width() + 5) / count
        return QRectF(i * wide, 0, wide - 5, CELL_TALL)

    def paintEvent(self, _event: QPaintEvent) -> None:
        t = theme()
        if self._outdated:
            self._outdated = False
            # Immediately for a newly selected widget; after a pause while typing.
            self._timer.start(0 if not self.samples else REST_MS)
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        if (failure := self._climbing.failure) is not None:
            painter.setPen(t.third)
            painter.setFont(font("small"))
            words = Qt.AlignmentFlag.AlignTop | Qt.TextFlag.TextWordWrap
            painter.drawText(self.rect(), words, f"The ladder could not be computed: {failure}")
            return
        if not self.samples and (self._climbing.busy or self._for is None):
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(t.gutter)
            for i in range(MAX_CELLS):  # placeholders of the cells
                painter.drawRoundedRect(self._cell(i), 4, 4)
            return
        if not self.samples or self._for is None:
            painter.setPen(t.third)
            painter.setFont(font("small"))
            painter.drawText(self.rect(), Qt.AlignmentFlag.AlignTop, "No variable feeds this widget yet.")
            return
        for i, sample in enumerate(self.samples):
            self._paint_rung(painter, self._cell(i), sample, self._for)
            if i == self.stands_on:
                ring(painter, self._cell(i).adjusted(-2, -2, 2, 2))
        painter.setFont(font("small"))
        painter.setPen(t.third)
        never = any(sample.never for sample in self.samples[1:])
        if never:
            fold = QPolygonF([QPointF(0, TALL - 12), QPointF(7, TALL - 12), QPointF(7, TALL - 5)])
            painter.setBrush(t.missing_line)
            painter.setPen(Qt.PenStyle.NoPen)
            painter.drawPolygon(fold)
            painter.setPen(t.third)
            painter.drawText(QPointF(12, TALL - 4), "this recording never shows it")

    def _paint_rung(self, painter: QPainter, box: QRectF, sample: Sample, widget: BoundWidget) -> None:
        t = theme()
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(self._ground())
        painter.drawRoundedRect(box, 4, 4)
        if sample.state["visible"]:
            size = (box.width() - 8, box.height() - 8)
            clock_at = self._clock if sample is self.samples[0] or widget.kind.moves else 0.0
            part = partial(changing_part, widget, [one.state for one in self.samples], 0.0, self._bound)
            ground = self._ground().name()
            small = thumbnail(widget, sample.state, clock_at, self._bound, size, part=part, ground=ground)
            painter.save()
            painter.setClipRect(box)
            painter.translate(box.x() + 4, box.y() + 4)
            draw_shapes(painter, [small])
            painter.restore()
        if sample is self.samples[0]:
            painter.setPen(QPen(t.accent, 2))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRoundedRect(box.adjusted(-1, -1, 1, 1), 5, 5)
        elif sample.never:
            corner = box.topRight()
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(t.desk)
            painter.drawPolygon(
                QPolygonF([corner + QPointF(-11, -1), corner + QPointF(1, -1), corner + QPointF(1, 11)])
            )
            painter.setBrush(t.missing_line)
            painter.drawPolygon(
                QPolygonF([corner + QPointF(-11, 0), corner + QPointF(-11, 11), corner + QPointF(0, 11)])
            )
        painter.setFont(font("small", sample.edge))
        painter.setPen(t.ink)
        text = painter.fontMetrics().elidedText(
            format_value(sample.value), Qt.TextElideMode.ElideRight, int(box.width()) + 4
        )
        painter.drawText(QRectF(box.x() - 3, box.bottom() + 2, box.width() + 6, 16), Qt.AlignmentFlag.AlignCenter, text)

    def _ground(self) -> QColor:
        """Return the mean colour of the plate, the background of thumbnails."""
        return QColor(self.editor.now.ground or theme().under)

    def _at(self, point: QPointF) -> Sample | None:
        return next(
            (r for i, r in enumerate(self.samples) if self._cell(i).adjusted(0, 0, 0, 18).contains(point)), None
        )

    def parts(self) -> int:
        return len(self.samples)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if self.stands_on is not None and event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self._go(self.samples[self.stands_on])
        else:
            super().keyPressEvent(event)

    def _go(self, sample: Sample) -> None:
        """Go to a cell's first recorded moment, or pin its value if there is none. The present cell does nothing."""
        if sample is self.samples[0]:
            return
        first = sample.there.first
        if first is not None:
            self.editor.do(go_to_seconds, first)
        elif self.editor.now.variable(self.driver) is None:
            words = f"{self.driver} is derived from other variables: pin one of those"
            self.editor.say(f"{self._recorded_text(sample).capitalize()}.  {words}")
        else:
            self.editor.do(pin, self.driver, sample.value)
            held = f"{self.driver} is pinned at {format_value(sample.value)}.  Ctrl+L lets go"
            self.editor.say(f"{self._recorded_text(sample).capitalize()}: {held}")

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        there = self._at(event.position()) is not None
        self.setCursor(Qt.CursorShape.PointingHandCursor if there else Qt.CursorShape.ArrowCursor)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        sample = self._at(event.position())
        if sample is not None:
            self._go(sample)

    def event(self, event: QEvent) -> bool:
        if isinstance(event, QHelpEvent):
            sample = self._at(QPointF(event.pos()))
            if sample is not None:
                QToolTip.showText(
                    event.globalPos(),
                    f"{self.driver} {format_value(sample.value)}: {self._recorded_text(sample)}",
                    self,
                )
            return True
        return super().event(event)
