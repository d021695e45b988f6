"""Completion below the caret: names with current values, functions with their help."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import QAbstractListModel, QModelIndex, QPersistentModelIndex, QPoint, QRect, QRectF, QSize, Qt
from PySide6.QtGui import QFontMetrics, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QFrame, QListView, QStyledItemDelegate, QStyleOptionViewItem, QWidget

from avrin.app.controls.theme import font, measure, mono, theme
from avrin.app.services.editor import Editor
from avrin.editor.completion import Entry, entries

__all__ = ["Completion"]

ROW, SHOWN, WIDE, HELP = 22, 7, 420, 42


Index = QModelIndex | QPersistentModelIndex
HERE = Qt.ItemDataRole.UserRole  # a row's entry


class _Entries(QAbstractListModel):
    """The entries as an item model, for Qt's view and assistive technology."""

    def __init__(self) -> None:
        super().__init__()
        self.entries: list[Entry] = []

    def fill(self, entries: list[Entry]) -> None:
        """Replace the entries."""
        self.beginResetModel()
        self.entries = entries
        self.endResetModel()

    def rowCount(self, _parent: Index | None = None) -> int:
        return len(self.entries)

    def data(self, index: Index, role: int = Qt.ItemDataRole.DisplayRole) -> object:
        entry = self.entries[index.row()]
        if role == HERE:
            return entry
        if role == Qt.ItemDataRole.DisplayRole:
            return entry.text
        if role == Qt.ItemDataRole.AccessibleDescriptionRole:
            return entry.beside or entry.help
        return None


class _Look(QStyledItemDelegate):
    """Paints a row: the text, then its arguments, or its value at the right."""

    def sizeHint(self, _option: QStyleOptionViewItem, _index: Index) -> QSize:
        return QSize(100, ROW)

    def paint(self, painter: QPainter, option: QStyleOptionViewItem, index: Index) -> None:
        t, entry, row = theme(), index.data(HERE), option.rect
        view = option.widget
        assert isinstance(view, QListView)
        painter.save()
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        if view.currentIndex() == index:
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(t.soft)
            painter.drawRoundedRect(QRectF(row), 3, 3)
        inner = row.adjusted(8, 0, -8, 0)
        painter.setFont(mono())
        painter.setPen(t.accent if entry.call else t.ink)
        painter.drawText(inner, Qt.AlignmentFlag.AlignVCenter, entry.text)
        painter.setPen(t.second)
        if entry.call:
            left = round(QFontMetrics(mono()).horizontalAdvance(entry.text))
            painter.drawText(inner.adjusted(left, 0, 0, 0), Qt.AlignmentFlag.AlignVCenter, entry.beside)
        else:
            painter.setFont(font("text", True))
            painter.drawText(inner, Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignRight, entry.beside)
        painter.restore()


class Completion(QFrame):
    """A list below the caret, with a sentence about the current row. It never takes the focus: the field's keys control it.

    Qt's own completer shows its list in a separate window without room for the sentence.
    """

    def __init__(self, editor: Editor, take: Callable[[Entry], None]) -> None:
        super().__init__()
        self.editor = editor
        self._take = take
        self._entries = _Entries()
        self.list = QListView(self)
        self.list.setModel(self._entries)
        self.list.setItemDelegate(_Look(self.list))
        self.list.setFrameShape(QFrame.Shape.NoFrame)
        self.list.setUniformItemSizes(True)
        self.list.setVerticalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.list.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.list.setVerticalScrollMode(QListView.ScrollMode.ScrollPerPixel)
        self.list.setAccessibleName("Completions")
        self.list.setMouseTracking(True)
        for part in (self, self.list):  # typing continues while it is open
            part.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.list.entered.connect(self.list.setCurrentIndex)
        self.list.pressed.connect(lambda index: self._choose(index.row()))
        self.list.selectionModel().currentChanged.connect(self.update)
        self.hide()

    @property
    def entries(self) -> list[Entry]:
        """The entries shown."""
        return self._entries.entries

    @property
    def at(self) -> int:
        """The index of the current row."""
        return max(0, self.list.currentIndex().row())

    def _choose(self, number: int) -> None:
        self.hide()
        self._take(self.entries[number])

    def _go_to(self, number: int) -> None:
        self.list.setCurrentIndex(self._entries.index(number))

    def offer(self, begun: str, over: QWidget, caret: QPoint) -> None:
        """Show matching entries below a position of a window; nothing without a match."""
        if self.parentWidget() is not over:  # a child of the window: in the field it would be clipped
            self.setParent(over)
        self._entries.fill(entries(self.editor.now, begun))
        if not self.entries:
            self.hide()
            return
        tall = min(SHOWN, len(self.entries)) * ROW
        self.resize(WIDE, 8 + tall + HELP)
        self.list.setGeometry(4, 4, WIDE - 8, tall)
        self._go_to(0)
        x = min(caret.x() - 8, over.width() - WIDE - 4)
        below = caret.y() + 4
        self.move(x, below if below + self.height() < over.height() else caret.y() - 24 - self.height())
        self.show()
        self.raise_()

    def key(self, key: int) -> bool:
        """Handle a key of the field; return whether it was meant for the list."""
        if not self.isVisible():
            return False
        if key in (Qt.Key.Key_Down, Qt.Key.Key_Up):
            # Wrap around: up from the first is the shortest way to the functions at the end.
            self._go_to((self.at + (1 if key == Qt.Key.Key_Down else -1)) % len(self.entries))
        elif key in (Qt.Key.Key_Return, Qt.Key.Key_Enter, Qt.Key.Key_Tab):
            self._choose(self.at)
        elif key == Qt.Key.Key_Escape:
            self.hide()
        else:
            return False
        return True

    def paintEvent(self, _event: QPaintEvent) -> None:
        t = theme()
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.fillRect(self.rect(), t.raised)
        painter.setPen(QPen(t.line, 1))
        painter.drawRect(QRectF(self.rect()).adjusted(0.5, 0.5, -0.5, -0.5))
        if not self.entries:
            return
        foot = QRect(0, self.height() - HELP - 2, self.width(), HELP)
        painter.drawLine(foot.left() + 8, foot.top(), foot.right() - 8, foot.top())
        painter.setPen(t.second)
        painter.setFont(font("small"))
        flags = Qt.AlignmentFlag.AlignVCenter | Qt.TextFlag.TextWordWrap
        painter.drawText(foot.adjusted(12, 2, -12, -4), flags, self.entries[self.at].help)
        if len(self.entries) > SHOWN:
            text = f"{self.at + 1} of {len(self.entries)}"
            painter.setPen(t.third)
            painter.drawText(QRectF(self.width() - measure(text, "small") - 10, self.height() - 16, 80, 12), text)
