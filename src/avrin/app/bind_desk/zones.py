"""Zones that a plate keeps clear, drawn and moved by hand in the picture."""

from __future__ import annotations

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QKeyEvent, QPainter, QPen

from avrin.app.painting.marks import handles
from avrin.app.session.session import Session
from avrin.arrange import zones_set

__all__ = ["Zones"]

Box = tuple[float, float, float, float]
INK = QColor("#ffb38a")
TAKE_AWAY = (Qt.Key.Key_Delete, Qt.Key.Key_Backspace)
STEPS = {Qt.Key.Key_Left: (-1, 0), Qt.Key.Key_Right: (1, 0), Qt.Key.Key_Up: (0, -1), Qt.Key.Key_Down: (0, 1)}


class Zones:
    """Of the plate that is shown, while they are edited. chosen: the number of one, None for none.

    A press in a zone takes hold of it, at its lower right corner of its size; beside all a drag draws another one.
    """

    def __init__(self, session: Session) -> None:
        self.session = session
        self.chosen: int | None = None
        self._from: QPointF | None = None
        self._was: Box | None = None
        self._sizes = False

    @property
    def boxes(self) -> list[Box]:
        """The zones there are, in reference pixels."""
        return list(self.session.plate.keep_clear) if self.session.plate is not None else []

    def rects(self, area: QRectF) -> list[QRectF]:
        """Where they lie in a picture's area."""
        width, height = self.session.project.reference
        across, along = area.width() / width, area.height() / height
        return [QRectF(area.x() + x * across, area.y() + y * along, w * across, h * along) for x, y, w, h in self.boxes]

    def _reference(self, point: QPointF, area: QRectF) -> QPointF:
        width, height = self.session.project.reference
        return QPointF((point.x() - area.x()) / area.width() * width, (point.y() - area.y()) / area.height() * height)

    def press(self, point: QPointF, area: QRectF) -> None:
        """Take hold of a zone, or begin one."""
        self.session.seal()
        self._from, self._was, self._sizes = self._reference(point, area), None, False
        rects = self.rects(area)
        if self.chosen is not None and self.chosen < len(rects) and _corner(rects[self.chosen]).contains(point):
            self._was, self._sizes = self.boxes[self.chosen], True
            return
        self.chosen = next((i for i, rect in reversed([*enumerate(rects)]) if rect.contains(point)), None)
        if self.chosen is not None:
            self._was = self.boxes[self.chosen]

    def drag(self, point: QPointF, area: QRectF) -> None:
        """Draw it, move it, or size it."""
        if self._from is None:
            return
        to, boxes = self._reference(point, area), self.boxes
        way = to - self._from
        if self._was is None:
            drawn = QRectF(self._from, to).normalized()
            box = (round(drawn.x()), round(drawn.y()), round(drawn.width()), round(drawn.height()))
            if self.chosen is None:
                if min(box[2], box[3]) < 8:
                    return
                boxes.append(box)
                self.chosen = len(boxes) - 1
            boxes[self.chosen] = box
        elif self.chosen is not None:
            x, y, w, h = self._was
            if self._sizes:
                boxes[self.chosen] = (x, y, max(8, round(w + way.x())), max(8, round(h + way.y())))
            else:
                boxes[self.chosen] = (round(x + way.x()), round(y + way.y()), w, h)
        self._put(boxes)

    def release(self) -> None:
        """The hand lets go."""
        self._from = None
        self.session.seal()

    def wants(self, event: QKeyEvent) -> bool:
        """Whether a key acts on the chosen one."""
        there = self.chosen is not None and self.chosen < len(self.boxes)
        return there and (event.key() in TAKE_AWAY or Qt.Key(event.key()) in STEPS)

    def key(self, event: QKeyEvent) -> bool:
        """Delete takes the chosen one away, the arrows move it. Returns whether the key was for it."""
        if not self.wants(event) or self.chosen is None:
            return False
        boxes, step = self.boxes, STEPS.get(Qt.Key(event.key()))
        if event.key() in TAKE_AWAY:
            del boxes[self.chosen]
            self.chosen = None
        elif step is not None:
            x, y, w, h = boxes[self.chosen]
            by = 10 if event.modifiers() & Qt.KeyboardModifier.ShiftModifier else 1
            boxes[self.chosen] = (x + step[0] * by, y + step[1] * by, w, h)
        self._put(boxes)
        return True

    def _put(self, boxes: list[Box]) -> None:
        plate = self.session.plate
        assert plate is not None  # they are edited while one is shown
        made = zones_set(self.session.project, plate.name, boxes)
        self.session.edit(made, f"zones of {plate.name}", f"zones {plate.name}")

    def paint(self, painter: QPainter, area: QRectF) -> None:
        """All of them, the chosen one with its corner."""
        for number, rect in enumerate(self.rects(area)):
            painter.setPen(QPen(INK, 2 if number == self.chosen else 1.2, Qt.PenStyle.DashLine))
            painter.setBrush(QColor(255, 179, 138, 60 if number == self.chosen else 34))
            painter.drawRect(rect)
            if number == self.chosen:
                painter.setPen(QPen(QColor("#142027"), 1))
                painter.setBrush(QColor("#ffffff"))
                painter.drawRect(handles(rect)[3])


def _corner(rect: QRectF) -> QRectF:
    return handles(rect)[3].adjusted(-4, -4, 4, 4)
