"""The head of the card: what is selected, and its current state."""

from __future__ import annotations

from PySide6.QtCore import QRectF, Qt
from PySide6.QtGui import QPainter, QPaintEvent
from PySide6.QtWidgets import QWidget

from avrin.app.controls.assistive import Assisted, Role
from avrin.app.controls.theme import font, measure, theme
from avrin.app.painting.stretches import band_colour
from avrin.app.services.editor import Editor
from avrin.binding.bound import BoundWidget
from avrin.render.values import format_value, with_unit

__all__ = ["Head"]


class Head(Assisted, QWidget):
    """The card's title, the kind of thing, and its current band or value."""

    def __init__(self, editor: Editor) -> None:
        super().__init__()
        self.editor = editor
        self.setFixedHeight(44)
        self.setAccessibleName(f"{self._words()[0]}, {self._words()[1]}")

    assisted_role = Role.Heading

    def assisted_value(self) -> str:
        """Return the current band or value."""
        chosen, editor = self.editor.now.widget, self.editor
        if chosen is not None:
            return self._band_text(chosen)
        name = editor.now.selection.variable
        if name.endswith("()"):
            return f"{editor.now.happened_so_far(name.removesuffix('()')):,}×"
        variable = editor.now.variable(name)
        return with_unit(editor.now.value(name), variable.unit if variable else "")

    def _words(self) -> tuple[str, str]:
        """Return the title, and the kind of thing."""
        editor, chosen = self.editor, self.editor.now.widget
        if chosen is not None:
            group = chosen.widget.group
            return chosen.widget.title, chosen.kind.name + (f" in group {group}" if group else "")
        name = editor.now.selection.variable
        sort = "variable" if editor.now.variable(name) else "derived value" if editor.now.is_derived(name) else ""
        derived = name.removesuffix("()") in editor.now.bound.scope.derived_events
        known = ("derived event" if derived else "event") if name.endswith("()") else sort
        return name.removesuffix("()"), known or "in the recording, not declared"

    def _band_text(self, chosen: BoundWidget) -> str:
        editor = self.editor
        return editor.now.bound.state_word(chosen, editor.now.tracks.value(chosen.state, editor.now.frame))

    def paintEvent(self, _event: QPaintEvent) -> None:
        t, editor = theme(), self.editor
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        chosen = editor.now.widget
        title, what = self._words()
        painter.setFont(font("title", True))
        painter.setPen(t.ink)
        room = self.width() - (
            round(measure(self._band_text(chosen), "text", True)) + 46 if chosen is not None else 110
        )
        painter.drawText(0, 18, painter.fontMetrics().elidedText(title, Qt.TextElideMode.ElideRight, room))
        painter.setFont(font("small"))
        painter.setPen(t.second)
        painter.drawText(0, 36, what)
        if chosen is not None:
            self._paint_band(painter, chosen)
        else:
            painter.setFont(font("title", True))
            painter.setPen(t.ink)
            painter.drawText(self.rect(), Qt.AlignmentFlag.AlignRight, self.assisted_value())

    def _paint_band(self, painter: QPainter, chosen: BoundWidget) -> None:
        t, editor = theme(), self.editor
        state = editor.now.tracks.state(chosen, editor.now.frame)
        band = str(state["band"] or "")
        text = self._band_text(chosen)
        wide = measure(text, "text", True) + 38
        box = QRectF(self.width() - wide, 4, wide, 24)
        colour = band_colour(chosen, band) if state["visible"] else t.third
        if editor.now.bound.fault(chosen.widget.id) is not None:
            colour = t.critical
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(colour)
        painter.setOpacity(0.2)
        painter.drawRoundedRect(box, 12, 12)
        painter.setOpacity(1)
        painter.drawEllipse(QRectF(box.x() + 11, box.center().y() - 4, 8, 8))
        painter.setFont(font("text", True))
        painter.setPen(t.ink)
        painter.drawText(box.adjusted(27, 0, 0, 0), Qt.AlignmentFlag.AlignVCenter, text)
        level = editor.now.tracks.value(chosen.level, editor.now.frame) if chosen.level is not None else None
        if isinstance(level, float) and chosen.kind.share:
            painter.setFont(font("small"))
            painter.setPen(t.second)
            painter.drawText(
                QRectF(0, 29, self.width(), 14),
                Qt.AlignmentFlag.AlignRight,
                f"{format_value(round(level * 100, 1))} % of full",
            )
