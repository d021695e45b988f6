"""Show a whole picture file, scaled to fit, for popups that mark parts of it; and their common base."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

from msgspec.structs import replace
from PySide6.QtCore import QPoint, QPointF, QRectF, Qt
from PySide6.QtGui import QImage, QPainter, QPaintEvent
from PySide6.QtWidgets import QWidget

from avrin.app.controls.popup import Popup
from avrin.app.controls.theme import font, theme
from avrin.app.services.editor import Editor
from avrin.editor.changes import Change
from avrin.editor.edits import set_widget
from avrin.errors import AvrinError
from avrin.project.project import Json, Widget
from avrin.render.artwork import artwork
from avrin.storage.files import inside

__all__ = ["PictureEdit", "WholePicture"]

ROOM = (430, 230)  # pixels of the window
MAX_ZOOM = 24.0  # its size


class WholePicture(QWidget):
    """The picture centred on a dark background; subclasses paint its parts over it."""

    def __init__(self) -> None:
        super().__init__()
        self.setFixedSize(*ROOM)
        self.image = QImage()

    def show_picture(self, path: Path | None) -> None:
        """Show a file; nothing if it cannot be read."""
        content = artwork(str(path)) if path is not None else None
        self.image = QImage.fromData(content) if content is not None else QImage()
        self.update()

    def unit(self) -> float:
        """Return window pixels per picture pixel; a whole number if it is enlarged."""
        if self.image.isNull():
            return 1.0
        fits = min((ROOM[0] - 16) / self.image.width(), (ROOM[1] - 16) / self.image.height(), MAX_ZOOM)
        return float(int(fits)) if fits >= 1 else fits

    def area(self) -> QRectF:
        """Return the picture's rectangle."""
        wide, high = self.image.width() * self.unit(), self.image.height() * self.unit()
        return QRectF(int((self.width() - wide) / 2), int((self.height() - high) / 2), wide, high)

    def in_picture(self, point: QPointF) -> QPointF:
        """Convert a window point to the picture's pixels."""
        return (point - self.area().topLeft()) / self.unit()

    def paintEvent(self, _event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.fillRect(self.rect(), theme().under)
        if self.image.isNull():
            painter.setPen(theme().desk)
            painter.setFont(font())
            painter.drawText(self.rect(), Qt.AlignmentFlag.AlignCenter, "this picture cannot be read")
            return
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform, self.unit() < 1)
        painter.drawImage(self.area(), self.image)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        self.paint_parts(painter)

    def paint_parts(self, painter: QPainter) -> None:
        """Paint the marked parts."""


class PictureEdit(Popup):
    """A popup that edits parts of a widget's picture. ident: of the widget. box_of: its box in the parent."""

    def __init__(self, editor: Editor, box_of: Callable[[str], QRectF], parent: QWidget) -> None:
        super().__init__(parent)
        self.editor = editor
        self._box_of = box_of
        self.ident = ""
        editor.follow("popups", self)

    @property
    def widget(self) -> Widget | None:
        """The widget; None if it was deleted."""
        return next((one for one in self.editor.now.project.widgets if one.id == self.ident), None)

    def open_for(self, ident: str) -> None:
        """Edit a widget's picture."""
        self.ident = ident
        self.show_it()
        self.adjustSize()
        parent = self.parentWidget()
        assert parent is not None
        box = self._box_of(ident)  # keeps the widget visible, and the card's rows if there is room
        left = 28.0 if box.left() > self.width() + 52 else min(box.right() + 40, parent.width() - self.width() - 8)
        self.move(QPoint(round(left), 24))
        self.show()
        self.raise_()

    def on_change(self, change: Change) -> None:
        """Show the picture as it is now; close if its widget is gone."""
        if change.of("tracks") and self.isVisible():
            if self.widget is None:
                self.close_it()
            else:
                self.show_it()

    def show_it(self) -> None:
        """Show the current state."""

    def file(self, asset: str) -> Path | None:
        """Return the file of a picture in the project's folder."""
        try:
            return inside(self.editor.now.bound.folder, asset)
        except AvrinError:
            return None

    def become(self, what: str, merge: str = "", **fields: Json) -> None:
        """Change the widget's options or look."""
        widget = self.widget
        if widget is not None:
            self.editor.do(set_widget, replace(widget, **fields), f"{what} of {widget.title}", merge)
