"""Edit the border of a nine-slice picture: four draggable lines, one per side; the part between them is stretched."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial

from PySide6.QtCore import QLineF, QPointF, QRectF, Qt, Signal
from PySide6.QtGui import QMouseEvent, QPainter, QPen
from PySide6.QtWidgets import QHBoxLayout, QVBoxLayout, QWidget

from avrin.app.bind_desk.popups.whole_picture import PictureEdit, WholePicture
from avrin.app.controls.labels import text_label
from avrin.app.controls.link import Link
from avrin.app.controls.number_field import NumberField
from avrin.app.controls.theme import theme
from avrin.app.services.editor import Editor
from avrin.editor.edits import seal
from avrin.edits.typed import DISTANCE

__all__ = ["BorderEdit"]

SIDES = ("left", "top", "right", "bottom")
REACH = 9.0  # pixels around a line within which it can be grabbed
Border = tuple[float, float, float, float]


class _Lines(WholePicture):
    """The picture with its four lines. moved: the border during a drag; let_go: at its end."""

    moved = Signal(object)
    let_go = Signal()

    def __init__(self) -> None:
        super().__init__()
        self.border: Border = (0.0, 0.0, 0.0, 0.0)
        self._held: int | None = None
        self.setMouseTracking(True)

    def line(self, side: int) -> QLineF:
        """Return the line of a side."""
        area, by = self.area(), self.border[side] * self.unit()
        at = (area.left() + by, area.top() + by, area.right() - by, area.bottom() - by)[side]
        if side % 2 == 0:
            return QLineF(at, area.top(), at, area.bottom())
        return QLineF(area.left(), at, area.right(), at)

    def _near(self, point: QPointF) -> int | None:
        """Return the side whose line is nearest to a point, or None if none is near."""
        away = [
            abs(point.x() - line.x1()) if side % 2 == 0 else abs(point.y() - line.y1())
            for side, line in enumerate(map(self.line, range(4)))
        ]
        side = min(range(4), key=away.__getitem__)
        return side if away[side] <= REACH and not self.image.isNull() else None

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self._held = self._near(event.position())

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self._held is None:
            side = self._near(event.position())
            shapes = (Qt.CursorShape.SplitHCursor, Qt.CursorShape.SplitVCursor)
            self.setCursor(shapes[side % 2] if side is not None else Qt.CursorShape.ArrowCursor)
            return
        at = self.in_picture(event.position())
        size = (self.image.width(), self.image.height())
        along, far = (at.x(), at.y())[self._held % 2], size[self._held % 2]
        other = self.border[(self._held + 2) % 4]
        told = max(0.0, min(far - other, float(round(along if self._held < 2 else far - along))))
        self.moved.emit(tuple(told if side == self._held else by for side, by in enumerate(self.border)))

    def mouseReleaseEvent(self, _event: QMouseEvent) -> None:
        self._held = None
        self.let_go.emit()

    def paint_parts(self, painter: QPainter) -> None:
        for side in range(4):
            painter.setPen(QPen(theme().accent if side == self._held else theme().desk, 3))
            painter.drawLine(self.line(side))
            painter.setPen(QPen(theme().under, 1, Qt.PenStyle.DashLine))
            painter.drawLine(self.line(side))


class BorderEdit(PictureEdit):
    """Each drag, and each field, is one edit; the widget follows at once."""

    def __init__(self, editor: Editor, box_of: Callable[[str], QRectF], parent: QWidget) -> None:
        super().__init__(editor, box_of, parent)
        self.lines = _Lines()
        self.lines.moved.connect(lambda border: self._set_border(border, "border"))
        self.lines.let_go.connect(editor.doing(seal))
        column = QVBoxLayout(self)
        column.setContentsMargins(12, 10, 12, 10)
        column.setSpacing(8)
        column.addWidget(text_label("Drag the lines: corners keep their size, the rest is stretched", size="small"))
        column.addWidget(self.lines)
        row = QHBoxLayout()
        row.setSpacing(6)
        self.fields: dict[str, NumberField] = {}
        for side, name in enumerate(SIDES):
            field = self.fields[name] = NumberField(f"border at the {name}", 48, DISTANCE, editor.show_error)
            field.entered.connect(partial(self._typed, side))
            field.exited.connect(self.setFocus)
            row.addWidget(text_label(name, size="small"))
            row.addWidget(field)
        row.addStretch(1)
        row.addWidget(Link("done", self.close_it, bold=True))
        column.addLayout(row)

    @property
    def border(self) -> Border:
        """Return the current border."""
        said = self.widget.look.get("slice", 0.0) if self.widget is not None else 0.0
        if isinstance(said, list | tuple) and len(said) == 4 and all(isinstance(one, int | float) for one in said):
            return (float(said[0]), float(said[1]), float(said[2]), float(said[3]))
        number = float(said) if isinstance(said, int | float) else 0.0
        return (number, number, number, number)

    def show_it(self) -> None:
        widget = self.widget
        if widget is None:
            return
        self.lines.show_picture(self.file(str(widget.look.get("asset", ""))))
        self.lines.border = self.border
        for name, by in zip(SIDES, self.border, strict=True):
            self.fields[name].show_text(f"{by:g}")

    def _typed(self, side: int, number: float) -> None:
        border = [number if at == side else by for at, by in enumerate(self.border)]
        self.editor.do(seal)
        self._set_border((border[0], border[1], border[2], border[3]), "")

    def _set_border(self, border: Border, merge: str) -> None:
        if self.widget is not None:
            alike = len(set(border)) == 1
            look = {**self.widget.look, "slice": border[0] if alike else list(border)}
            self.become("border", f"{merge} {self.ident}" if merge else "", look=look)
