"""A hand over one window: presses, drags, keys; and a look into the file that is saved. Nothing of the program is imported."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Any

from PySide6.QtCore import QEvent, QMimeData, QPoint, QPointF, QRectF, Qt, QUrl
from PySide6.QtGui import QDragEnterEvent, QDropEvent, QGuiApplication, QMouseEvent
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QLineEdit, QMenu, QWidget

__all__ = ["ALT", "CTRL", "LEFT", "PLAIN", "SHIFT", "Hand", "Key", "rewrite"]

LEFT = Qt.MouseButton.LeftButton
PLAIN, SHIFT, CTRL, ALT = (
    Qt.KeyboardModifier.NoModifier, Qt.KeyboardModifier.ShiftModifier, Qt.KeyboardModifier.ControlModifier,
    Qt.KeyboardModifier.AltModifier,
)  # fmt: skip
Key = Qt.Key


class Hand:
    """A hand over one window: presses, drags, keys; and a look into the file that is saved."""

    def __init__(self, window: Any) -> None:
        self.window = window
        self.picture: QWidget = window.desk.hud
        self.folder = Path(window.editor.now.path)
        self.before = self.file()

    def file(self) -> dict[str, Any]:
        self.key(Key.Key_S, CTRL)
        found: dict[str, Any] = json.loads(self.folder.read_text("utf-8"))
        return found

    def widget(self, ident: str) -> dict[str, Any]:
        return next(one for one in self.file()["widgets"] if one["id"] == ident)

    def ids(self) -> list[str]:
        return [one["id"] for one in self.file()["widgets"]]

    def offset(self, ident: str) -> tuple[float, float]:
        x, y = self.widget(ident)["place"].get("offset", (0, 0))
        return x, y

    def at(self, ident: str, x: float = 0.5, y: float = 0.5) -> QPoint:
        """A point of a widget that is drawn, in the picture's pixels."""
        box = next(self.picture.to_view(one.rect) for one in self.picture.placed if one.ident == ident)  # type: ignore[attr-defined]
        return QPointF(box.x() + x * box.width(), box.y() + y * box.height()).toPoint()

    def box(self, ident: str) -> QRectF:
        """Of a widget, drawn or not, in the picture's pixels."""
        found: QRectF = self.picture.box_of(ident)  # type: ignore[attr-defined]
        return found

    def drop(self, *files: Path) -> None:
        """Files from elsewhere, onto the picture."""
        data = QMimeData()
        data.setUrls([QUrl.fromLocalFile(str(file)) for file in files])
        copy, where = Qt.DropAction.CopyAction, QPoint(300, 300)
        QApplication.sendEvent(self.window, QDragEnterEvent(where, copy, data, LEFT, PLAIN))
        QApplication.sendEvent(self.window, QDropEvent(QPointF(where), copy, data, LEFT, PLAIN))
        QApplication.processEvents()

    def menu(self, begins: str) -> None:
        """Choose what begins so in the menu that is open."""
        QApplication.processEvents()
        found = QApplication.activePopupWidget()
        assert isinstance(found, QMenu)
        next(one for one in found.actions() if one.text().startswith(begins)).trigger()
        found.close()
        QApplication.processEvents()

    def press(self, at: QPoint, keys: Qt.KeyboardModifier = PLAIN) -> None:
        QTest.mouseClick(self.picture, LEFT, keys, at)
        QApplication.processEvents()

    def drag(self, start: QPoint, way: QPoint, keys: Qt.KeyboardModifier = PLAIN) -> None:
        QTest.mousePress(self.picture, LEFT, keys, start)
        for step in (1, 2, 3, 4):
            at = QPointF(start) + QPointF(way) * step / 4
            there = QPointF(self.picture.mapToGlobal(at.toPoint()))
            move = QMouseEvent(QEvent.Type.MouseMove, at, there, Qt.MouseButton.NoButton, LEFT, keys)
            QApplication.sendEvent(self.picture, move)
        QTest.mouseRelease(self.picture, LEFT, keys, start + way)
        QApplication.processEvents()

    def key(self, key: Qt.Key, keys: Qt.KeyboardModifier = PLAIN) -> None:
        QTest.keyClick(self.picture, key, keys)
        QApplication.processEvents()

    def command(self, words: str) -> None:
        """Found by typing."""
        self.key(Key.Key_K, CTRL)
        QTest.keyClicks(self.window.popups.finder.field, words)
        QTest.keyClick(self.window.popups.finder.field, Key.Key_Return)
        QApplication.processEvents()

    def type_into(self, field: QWidget, text: str) -> None:
        field.setFocus()
        QTest.keyClick(field, Key.Key_A, CTRL)
        QTest.keyClick(field, Key.Key_Delete)
        QTest.keyClicks(field, text)
        QTest.keyClick(field, Key.Key_Return)
        QApplication.processEvents()

    def paste_into(self, field: QWidget, text: str) -> None:
        """What would take long to type."""
        QGuiApplication.clipboard().setText(text)
        field.setFocus()
        QTest.keyClick(field, Key.Key_A, CTRL)
        QTest.keyClick(field, Key.Key_V, CTRL)
        QTest.keyClick(field, Key.Key_Return)
        QApplication.processEvents()

    def pressed(self, text: str) -> None:
        """A link of the window, by what it says."""
        found = [one for one in self.window.findChildren(QWidget) if hasattr(one, "text") and callable(one.text)]
        link = next(one for one in found if one.text() == text and one.isVisible())
        QTest.mouseClick(link, LEFT)
        QApplication.processEvents()

    def press_if_there(self, text: str) -> bool:
        """The same, where it is there."""
        try:
            self.pressed(text)
        except StopIteration:
            return False
        return True


def rewrite(field: QLineEdit, text: str) -> None:
    """Write something else into a field, and take it with Enter."""
    field.setFocus()
    field.selectAll()
    QTest.keyClicks(field, text)
    QTest.keyClick(field, Qt.Key.Key_Return)
    QApplication.processEvents()
