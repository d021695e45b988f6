"""Handles in the selected widget: those of its kind, and the copies of a repeated widget."""

from __future__ import annotations

from collections.abc import Callable
from typing import NamedTuple

from msgspec.structs import replace
from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QPainter, QPen

from avrin.app.controls.theme import theme
from avrin.app.services.editor import Editor
from avrin.binding.bound import BoundWidget
from avrin.editor.edits import seal, set_widget
from avrin.kinds.kind import Grip
from avrin.project.project import Widget
from avrin.render.scene import grips

__all__ = ["Grips"]

STRAIGHT = 6.0  # pixels within which a dragged copy snaps to horizontal or vertical
HANDLE_WIDTH_PX = 8.0  # pixels of a handle that is dragged horizontally


class _Held(NamedTuple):
    """The dragged handle: its start, and the widget at that time. copy: its number, 0 for a handle."""

    start: QPointF
    widget: Widget
    grip: Grip | None
    copy: int


class Grips:
    """The handles of the selected widget. box_of: its box in the view."""

    def __init__(self, editor: Editor, box_of: Callable[[str], QRectF]) -> None:
        self.editor = editor
        self._box_of = box_of
        self._held: _Held | None = None
        self._moving = False

    @property
    def held(self) -> bool:
        """Whether a handle is being dragged."""
        return self._held is not None

    def _chosen(self) -> BoundWidget | None:
        editor = self.editor
        chosen = editor.now.widget
        if chosen is None or len(editor.now.selection.widgets) > 1 or chosen.widget.id in editor.now.locked:
            return None
        return chosen

    def _unit(self, chosen: BoundWidget) -> float:
        """Return view pixels per reference pixel."""
        return self._box_of(chosen.widget.id).width() / chosen.widget.place.size[0]

    def parts(self) -> list[tuple[QRectF, Grip]]:
        """Return the kind's handles with their rectangles."""
        chosen = self._chosen()
        if chosen is None:
            return []
        box, unit = self._box_of(chosen.widget.id), self._unit(chosen)
        state = self.editor.now.tracks.state(chosen, self.editor.now.frame)
        found = []
        for grip in grips(chosen, state, self.editor.now.bound):
            x, y, width, height = grip.box
            rect = QRectF(box.x() + x * unit, box.y() + y * unit, width * unit, height * unit)
            if grip.across:
                rect = QRectF(rect.center().x() - HANDLE_WIDTH_PX / 2, rect.y(), HANDLE_WIDTH_PX, rect.height())
            found.append((rect, grip))
        return sorted(found, key=lambda item: not item[1].across)  # draggable handles cover clickable ones

    def copies(self) -> list[QRectF]:
        """Return the boxes of the further copies of a repeated widget, slot 1 first."""
        chosen = self._chosen()
        if chosen is None or not chosen.copies or chosen.widget.place.follow is not None:
            return []
        box, unit = self._box_of(chosen.widget.id), self._unit(chosen)
        x, y = chosen.widget.place.step
        return [box.translated(x * unit * n, y * unit * n) for n in range(1, len(chosen.copies) + 1)]

    def at(self, point: QPointF) -> tuple[Grip | None, int]:
        """Return the handle at a point, or the number of the copy there; (None, 0) for neither."""
        grip = next((grip for rect, grip in self.parts() if rect.contains(point)), None)
        if grip is not None:
            return grip, 0
        chosen = self._chosen()
        if chosen is None or self._box_of(chosen.widget.id).contains(point):
            return None, 0
        return None, next((n for n, rect in enumerate(self.copies(), 1) if rect.contains(point)), 0)

    def cursor(self, point: QPointF) -> Qt.CursorShape | None:
        """Return the pointer's shape over a handle, or None."""
        grip, copy = self.at(point)
        if grip is not None:
            return Qt.CursorShape.SplitHCursor if grip.across else Qt.CursorShape.PointingHandCursor
        return Qt.CursorShape.SizeAllCursor if copy else None

    def press(self, point: QPointF) -> bool:
        """Grab a handle. A clickable one lets the widget be dragged, and acts if released without a move."""
        chosen = self._chosen()
        grip, copy = self.at(point)
        if chosen is None or (grip is None and not copy):
            return False
        self._held, self._moving = _Held(point, chosen.widget, grip, copy), False
        return bool(copy) or (grip is not None and grip.across)

    def drag(self, point: QPointF) -> None:
        """Resize a column, or move a copy and all others with it."""
        held = self._held
        chosen = self._chosen()
        if held is None or chosen is None:
            return
        way = point - held.start
        if not self._moving and way.manhattanLength() < 4:
            return
        self._moving = True
        unit = self._unit(chosen)
        if held.copy:
            self._step(held, way, unit)
        elif held.grip is not None and held.grip.across:
            self._edit_widget(held, held.grip, way.x() / unit)

    def _step(self, held: _Held, way: QPointF, unit: float) -> None:
        x, y = (a * unit * held.copy + b for a, b in zip(held.widget.place.step, (way.x(), way.y()), strict=True))
        x, y = (0.0 if abs(side) < STRAIGHT else side for side in (x, y))
        step = (float(round(x / unit / held.copy)), float(round(y / unit / held.copy)))
        place = replace(held.widget.place, step=step)
        title, ident = held.widget.title, held.widget.id
        self.editor.do(set_widget, replace(held.widget, place=place), f"step of {title}", f"step {ident}")

    def release(self, *, moved: bool) -> None:
        """Release the handle. moved: whether the widget was dragged, so that it was no click."""
        held, self._held = self._held, None
        if held is not None and held.grip is not None and not held.grip.across and not moved:
            self.editor.do(seal)
            self._edit_widget(held, held.grip, 0.0)
        self.editor.do(seal)

    def _edit_widget(self, held: _Held, grip: Grip, by: float) -> None:
        options = grip.change(held.widget.options, by)
        what = f"{grip.title}, {held.widget.title}"
        self.editor.do(set_widget, replace(held.widget, options=options), what, f"grip {held.widget.id} {grip.title}")

    def paint(self, painter: QPainter, pointer: QPointF | None) -> None:
        """Paint draggable bars, the hovered handle, and outlines of the copies."""
        painter.setPen(QPen(QColor(255, 255, 255, 130), 1, Qt.PenStyle.DashLine))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        for rect in self.copies():
            painter.drawRect(rect)
        for rect, grip in self.parts():
            if grip.across:
                painter.setPen(Qt.PenStyle.NoPen)
                painter.setBrush(QColor("#ffffff"))
                middle = rect.center()
                painter.drawRoundedRect(QRectF(middle.x() - 1.5, rect.y() + 2, 3, rect.height() - 4), 1.5, 1.5)
            elif pointer is not None and rect.contains(pointer):
                painter.setPen(QPen(theme().accent, 1.5))
                painter.setBrush(Qt.BrushStyle.NoBrush)
                painter.drawRoundedRect(rect.adjusted(0.5, 0.5, -0.5, -0.5), 3, 3)
