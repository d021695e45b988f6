"""The visual history: each step with its name and a thumbnail of the HUD; a press goes back to it."""

from __future__ import annotations

from collections.abc import Generator

from PySide6.QtCore import QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QColor, QImage, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QWheelEvent
from PySide6.QtWidgets import QVBoxLayout, QWidget

from avrin.app.controls.assistive import Assisted, Part, Role
from avrin.app.controls.focus import ring
from avrin.app.controls.keys import KeepsKeys
from avrin.app.controls.labels import text_label
from avrin.app.controls.popup import Popup
from avrin.app.controls.theme import font, theme
from avrin.app.painting.offscreen import painting
from avrin.app.painting.paint import draw_shapes
from avrin.app.services.editor import Editor
from avrin.app.services.jobs import TimeSlices
from avrin.binding.binding import bind
from avrin.binding.tracks import Tracks
from avrin.editor.edits import go_to_step
from avrin.editor.snapshot import Snapshot
from avrin.errors import AvrinError
from avrin.project.project import Project
from avrin.render.pictures import UNDER, ground_shapes
from avrin.render.scene import scene

__all__ = ["HistoryPopup", "HistoryStrip"]

WIDE, HIGH, GAP, WORDS = 160, 90, 12, 36
WALKED = frozenset((Qt.Key.Key_Left, Qt.Key.Key_Right, Qt.Key.Key_Home, Qt.Key.Key_End))
SHOWN = 6  # visible steps


class HistoryStrip(KeepsKeys, Assisted, QWidget):
    """All steps, the latest at the right. chosen: the index of a pressed one.

    The arrow keys move, Enter presses. Thumbnails are drawn in the background, the nearest to the current step first.
    """

    kept_keys = WALKED
    chosen = Signal(int)
    assisted_role = Role.List

    def __init__(self, editor: Editor) -> None:
        super().__init__()
        self.editor = editor
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("steps of the history")
        self.at = 0
        self.first = 0
        self.pictures: dict[int, QImage] = {}
        self._painting = TimeSlices(self, editor, "file", "trace")

    @property
    def busy(self) -> bool:
        """Whether thumbnails are pending."""
        return self._painting.busy

    def refresh(self) -> None:
        """Show the current history."""
        self.at = self.editor.now.history.at
        seen = max(2, min(SHOWN, len(self.editor.now.history.steps)))
        self.setFixedSize(seen * (WIDE + GAP) + GAP, HIGH + WORDS + 2 * GAP)
        self._see()
        self.pictures.clear()
        self._painting.submit(self._paint_all, lambda _, __: None)
        self.update()

    def _see(self) -> None:
        """Scroll to the focused step."""
        count = len(self.editor.now.history.steps)
        self.first = max(0, min(self.at - SHOWN // 2, count - SHOWN))

    def _paint_all(self, _now: Snapshot) -> Generator[None, None, None]:
        steps = self.editor.now.history.steps
        for number in sorted(range(len(steps)), key=lambda number: abs(number - self.at)):
            self.pictures[number] = self._picture(steps[number][0])
            self.update()
            yield

    def _picture(self, project: Project) -> QImage:
        """Return the HUD of a project at the playhead, on the visible screen."""
        editor, screen = self.editor, self.editor.now.view.screen
        ratio = self.devicePixelRatioF()
        image = QImage(QSize(round(WIDE * ratio), round(HIGH * ratio)), QImage.Format.Format_RGB32)
        image.setDevicePixelRatio(ratio)
        image.fill(QColor(UNDER))
        try:
            bound = bind(project, editor.now.bound, editor.now.bound.events, editor.now.folder)
            tracks = Tracks(bound, editor.now.trace, editor.now.tracks)
            with painting(image) as painter:
                painter.setRenderHints(QPainter.RenderHint.Antialiasing | QPainter.RenderHint.SmoothPixmapTransform)
                zoom = min(WIDE / screen.size[0], HIGH / screen.size[1])
                painter.translate((WIDE - screen.size[0] * zoom) / 2, (HIGH - screen.size[1] * zoom) / 2)
                painter.scale(zoom, zoom)
                plate = next((one for one in project.plates if editor.now.plate is not None and one.name == editor.now.plate.name
                              and not one.film), None)  # fmt: skip
                draw_shapes(painter, ground_shapes(project, screen, plate, editor.now.folder))
                draw_shapes(painter, [one.group for one in scene(tracks, editor.now.frame, screen)])
        except AvrinError:
            return image  # a step whose plate no longer exists
        return image

    # -- painting -----------------------------------------------------------------------------------------------------

    def box(self, number: int) -> QRectF:
        """Return the rectangle of a step's thumbnail."""
        return QRectF(GAP + (number - self.first) * (WIDE + GAP), GAP, WIDE, HIGH)

    def paintEvent(self, _event: QPaintEvent) -> None:
        t = theme()
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        history = self.editor.now.history
        for number, (_, label) in enumerate(history.steps):
            if not self.first <= number < self.first + SHOWN:
                continue
            box = self.box(number)
            painter.setOpacity(1.0 if number <= history.at else 0.45)  # undone steps
            painter.fillRect(box, QColor(UNDER))
            if number in self.pictures:
                painter.drawImage(box.topLeft(), self.pictures[number])
            painter.setFont(font("small", number == history.at))
            painter.setPen(t.ink if number == history.at else t.second)
            flags = Qt.AlignmentFlag.AlignHCenter | Qt.AlignmentFlag.AlignTop | Qt.TextFlag.TextWordWrap
            words = f"now: {label}" if number == history.at and label else label or "opened"
            painter.drawText(QRectF(box.x(), box.bottom() + 4, box.width(), WORDS - 4), flags, words)
            painter.setOpacity(1.0)
            if number == history.at:
                painter.setPen(t.accent)
                painter.setBrush(Qt.BrushStyle.NoBrush)
                painter.drawRect(box.adjusted(-1.5, -1.5, 1.5, 1.5))
            if number == self.at and self.hasFocus():
                ring(painter, box.adjusted(-4, -4, 4, 4))

    # -- input --------------------------------------------------------------------------------------------------------

    def step_at(self, point: QPointF) -> int | None:
        """Return the index of the step at a point."""
        numbers = range(self.first, min(self.first + SHOWN, len(self.editor.now.history.steps)))
        return next((one for one in numbers if self.box(one).adjusted(0, 0, 0, WORDS).contains(point)), None)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        number = self.step_at(event.position())
        if number is not None:
            self.at = number
            self.chosen.emit(number)

    def wheelEvent(self, event: QWheelEvent) -> None:
        count = len(self.editor.now.history.steps)
        self.first = max(0, min(self.first - round(event.angleDelta().y() / 120), count - SHOWN))
        self.update()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        count = len(self.editor.now.history.steps)
        moved = {
            Qt.Key.Key_Left: self.at - 1,
            Qt.Key.Key_Right: self.at + 1,
            Qt.Key.Key_Home: 0,
            Qt.Key.Key_End: count - 1,
        }
        if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self.chosen.emit(self.at)
        elif Qt.Key(event.key()) in moved:
            self.at = max(0, min(moved[Qt.Key(event.key())], count - 1))
            self._see()
            self.update()
        else:
            super().keyPressEvent(event)

    def assisted_parts(self) -> list[Part]:
        """Return each step by its name."""
        steps, now = self.editor.now.history.steps, self.editor.now.history.at
        return [
            Part(label or "opened", self.box(number), Role.ListItem, "", number == now)
            for number, (_, label) in enumerate(steps)
        ]


class HistoryPopup(Popup):
    """The strip in a popup: a press goes to a step, or compares with it. compared: the index of the chosen step."""

    compared = Signal(int)

    def __init__(self, editor: Editor, parent: QWidget) -> None:
        super().__init__(parent)
        self.editor = editor
        self.strip = HistoryStrip(editor)
        self.strip.chosen.connect(self._chosen)
        self._compares = False
        self.words = text_label("", "second")
        column = QVBoxLayout(self)
        column.setContentsMargins(14, 12, 14, 12)
        column.setSpacing(4)
        column.addWidget(self.words)
        column.addWidget(self.strip)

    def open_it(self, *, compares: bool = False) -> None:
        """Show it in the window's centre. compares: choose a step for a comparison."""
        self._compares = compares
        does = "compare with that version" if compares else "go there"
        self.words.setText(f"Press a step to {does}; or use the arrow keys and Enter.")
        self.strip.refresh()
        self.adjustSize()
        window = self.parentWidget()
        assert window is not None
        self.move((window.width() - self.width()) // 2, 96)
        self.show()
        self.raise_()
        self.strip.setFocus()

    def _chosen(self, number: int) -> None:
        self.close_it()
        if self._compares:
            self.compared.emit(number)
        elif number != self.editor.now.history.at:
            self.editor.do(go_to_step, number)
