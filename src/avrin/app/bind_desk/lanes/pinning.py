"""Pin values in a lane's head: type, drag or step a value, which holds until it is unpinned."""

from __future__ import annotations

from PySide6.QtCore import QObject, QPointF, QRectF
from PySide6.QtWidgets import QWidget

from avrin.app.controls.field import Field
from avrin.app.services.editor import Editor
from avrin.editor.by_hand import pin, unpin
from avrin.editor.lanes import Lane
from avrin.edits.typed import typed_value, value_text
from avrin.errors import AvrinError
from avrin.project.project import VariableType
from avrin.trace.frames import Value

__all__ = ["Pinning", "rounded"]

DRAG_FROM = 3  # pixels
ACROSS = 240  # pixels of a drag for a variable's whole range
CROSS = 18  # pixels at the right of a pinned value for the cross that unpins it


class Pinning(QObject):
    """Turns presses, drags and typing into pins of the editor."""

    def __init__(self, editor: Editor, view: QWidget) -> None:
        super().__init__(view)
        self.editor = editor
        self._view = view
        self._lane: Lane | None = None
        self._from = QPointF()
        self._start: Value = None
        self._moved = False
        self._box = QRectF()
        self.field = Field("value to pin", 92, view)
        self.field.taken.connect(self._typed)
        self.field.exited.connect(self.close)
        self.field.editingFinished.connect(self.close)
        self.field.hide()
        self._name = ""

    @property
    def pressed(self) -> bool:
        """Whether the button is down on a value."""
        return self._lane is not None

    def press(self, lane: Lane, box: QRectF, at: QPointF) -> None:
        """Handle a press on a variable's value."""
        self._lane, self._box, self._from, self._moved = lane, box, at, False
        self._start = self.editor.now.value(lane.name)

    def drag(self, at: QPointF) -> None:
        """Change a number during a drag."""
        lane = self._lane
        way = at.x() - self._from.x()
        if lane is None or lane.kind != "number" or (not self._moved and abs(way) < DRAG_FROM):
            return
        self._moved = True
        low, high = self._range(lane.name)
        start = self._start if isinstance(self._start, float) else low
        self.editor.do(pin, lane.name, self._rounded(lane.name, start + way / ACROSS * (high - low)))

    def release(self) -> None:
        """Handle a release: without a move, edit a value, toggle a flag, or unpin."""
        lane, self._lane = self._lane, None
        if lane is None or self._moved:
            return
        if lane.name in self.editor.now.pins and self._from.x() > self._box.right() + 6 - CROSS:
            self.editor.do(unpin, lane.name)
        elif lane.kind == "flag":
            self.editor.do(pin, lane.name, self.editor.now.value(lane.name) is not True)
        else:
            self.type_into(lane.name, self._box)

    def type_into(self, name: str, box: QRectF) -> None:
        """Open a field over a value."""
        self._name = name
        self.field.move(round(box.right() + 8 - self.field.width()), round(box.top()) - 1)
        value = self.editor.now.value(name)
        self.field.show_text(value_text(value) if value is not None else "missing")
        self.field.show()
        self.field.setFocus()
        self.field.selectAll()

    def toggle(self, name: str) -> None:
        """Pin a variable to its current value, or unpin it."""
        if name in self.editor.now.pins:
            self.editor.do(unpin, name)
        else:
            self.editor.do(pin, name, self.editor.now.value(name))

    def step(self, name: str, way: int) -> None:
        """Pin a variable a step higher or lower, or toggle a flag."""
        value = self.editor.now.value(name)
        if isinstance(value, bool):
            self.editor.do(pin, name, not value)
        elif isinstance(value, float) or self._type(name) in ("int", "float"):
            low, high = self._range(name)
            size = 1.0 if self._type(name) == "int" else (high - low) / 100
            start = value if isinstance(value, float) else low
            self.editor.do(pin, name, self._rounded(name, start + way * size))

    def close(self) -> None:
        """Close the field."""
        if self.field.isVisible():
            self.field.hide()
            parent = self._view.parentWidget()
            if parent is not None:
                parent.setFocus()

    def _typed(self, text: str) -> None:
        if text.strip() == "missing":
            self.editor.do(pin, self._name, None)
            return
        try:
            value = typed_value(text, self._type(self._name))
        except AvrinError as error:
            self.editor.say(f"{error}. The value did not change", error=True)
            return
        if not text.strip():
            self.editor.do(unpin, self._name)
        else:
            self.editor.do(pin, self._name, value)
            if isinstance(value, float) and value_text(value) != text.strip() and self._type(self._name) == "int":
                self.editor.say(f"{self._name} counts in whole numbers: pinned at {value_text(value)}")

    def _type(self, name: str) -> VariableType:
        known = self.editor.now.variable(name) or self.editor.now.undeclared(name)
        if known is not None:
            return known.type
        column = self.editor.now.column(name)
        return {"number": "float", "flag": "bool", "text": "text"}[column.kind] if column is not None else "float"  # type: ignore[return-value]

    def _range(self, name: str) -> tuple[float, float]:
        known = self.editor.now.variable(name) or self.editor.now.undeclared(name)
        low = known.low if known is not None and known.low is not None else 0.0
        high = known.high if known is not None and known.high is not None else max(100.0, low * 2)
        return (low, high) if high > low else (low, low + 1.0)

    def _rounded(self, name: str, value: float) -> float:
        if self._type(name) == "int":
            return float(round(value))
        return rounded(value, *self._range(name))


def rounded(value: float, low: float, high: float) -> float:
    """Round a dragged value to about a five-hundredth of its range."""
    digits = 0 if high - low >= 1000 else 1 if high - low >= 50 else 2 if high - low >= 5 else 3
    return round(value, digits) + 0.0
