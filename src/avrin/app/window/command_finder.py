"""The command palette: every command with its keys, filtered by typing; Enter runs it."""

from __future__ import annotations

from collections.abc import Sequence
from typing import TYPE_CHECKING

from PySide6.QtCore import QModelIndex, QPersistentModelIndex, QRect, QSize, Qt, Signal
from PySide6.QtGui import QKeyEvent, QKeySequence, QPainter
from PySide6.QtWidgets import (
    QListWidget,
    QListWidgetItem,
    QStyle,
    QStyledItemDelegate,
    QStyleOptionViewItem,
    QVBoxLayout,
    QWidget,
)

from avrin.app.controls.field import Field
from avrin.app.controls.labels import text_label
from avrin.app.controls.popup import Popup
from avrin.app.controls.scroller import thin_bars
from avrin.app.controls.theme import font, groundless, measure, mono, theme

if TYPE_CHECKING:
    from avrin.app.window.commands import Action

__all__ = ["CommandFinder"]

WIDE, ROW, TOP = 460, 24, 56  # pixels
PAGE = 18  # rows
WALK = (Qt.Key.Key_Up, Qt.Key.Key_Down, Qt.Key.Key_PageUp, Qt.Key.Key_PageDown)


class CommandFinder(Popup):
    """A field, and below it the commands that match all typed words; unavailable ones are pale."""

    exited = Signal()

    def __init__(self, actions: Sequence[Action], window: QWidget) -> None:
        super().__init__(window)
        self._actions = actions
        self._window = window
        self.field = _Field(self)
        self.list = QListWidget(self)
        thin_bars(self.list)
        self.list.setAccessibleName("Commands")
        self.list.setPalette(groundless())
        self.list.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.list.setItemDelegate(_Row(self.list))
        self.list.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.list.itemClicked.connect(lambda _: self.do())
        self.field.textEdited.connect(self._fill)
        self._none = text_label("No command has these words", "second")
        column = QVBoxLayout(self)
        column.setContentsMargins(12, 12, 12, 10)
        column.setSpacing(8)
        column.addWidget(self.field)
        column.addWidget(self.list)
        column.addWidget(self._none)

    def open_it(self) -> None:
        """Show all commands and focus the field."""
        self.field.show_text("")
        self._fill("")
        self.show()
        self.raise_()
        self.field.setFocus()

    def _fill(self, text: str) -> None:
        words = text.lower().split()
        found = [one for one in self._actions if all(word in f"{one.text} {_keys(one)}".lower() for word in words)]
        self.list.clear()
        for action in found:
            item = QListWidgetItem(f"{action.text}  {_keys(action)}".strip())
            item.setData(Qt.ItemDataRole.UserRole, action)
            if not action.enabled():
                item.setFlags(Qt.ItemFlag.NoItemFlags)
            self.list.addItem(item)
        able = (at for at, action in enumerate(found) if action.enabled())
        self.list.setCurrentRow(next(able, -1))
        self.list.setFixedHeight(ROW * min((self._window.height() - 2 * TOP - 60) // ROW, len(found)))
        self.list.setVisible(bool(found))
        self._none.setVisible(not found)
        self.setFixedWidth(WIDE)
        self.adjustSize()
        self.move((self._window.width() - WIDE) // 2, TOP)

    def walk(self, key: int) -> None:
        """Move to another available row."""
        by = {Qt.Key.Key_Up: -1, Qt.Key.Key_Down: 1, Qt.Key.Key_PageUp: -PAGE, Qt.Key.Key_PageDown: PAGE}[Qt.Key(key)]
        able = [at for at in range(self.list.count()) if self.list.item(at).flags() & Qt.ItemFlag.ItemIsEnabled]
        if able:
            now = able.index(self.list.currentRow())
            self.list.setCurrentRow(able[min(max(0, now + by), len(able) - 1)])

    def do(self) -> None:
        """Close it and run the selected command."""
        item = self.list.currentItem()
        if item is None or not item.flags() & Qt.ItemFlag.ItemIsEnabled:
            return
        action: Action = item.data(Qt.ItemDataRole.UserRole)
        self.close_it()
        action.act()

    def close_it(self) -> None:
        super().close_it()
        self.exited.emit()


class _Field(Field):
    """The filter field; the arrow keys control the list."""

    def __init__(self, finder: CommandFinder) -> None:
        super().__init__("find a command", WIDE - 24)
        self._finder = finder
        self.setPlaceholderText("a command, or a key")

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() in WALK:
            self._finder.walk(event.key())
        elif event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self._finder.do()
        elif event.key() == Qt.Key.Key_Escape:
            self._finder.close_it()
        else:
            super().keyPressEvent(event)


class _Row(QStyledItemDelegate):
    """A command at the left, its keys at the right."""

    def sizeHint(self, _option: QStyleOptionViewItem, _index: QModelIndex | QPersistentModelIndex) -> QSize:
        return QSize(WIDE - 24, ROW)

    def paint(
        self, painter: QPainter, option: QStyleOptionViewItem, index: QModelIndex | QPersistentModelIndex
    ) -> None:
        t, rect, state = theme(), QRect(option.rect), option.state
        action: Action = index.data(Qt.ItemDataRole.UserRole)
        able = bool(state & QStyle.StateFlag.State_Enabled)
        if able and state & QStyle.StateFlag.State_Selected:
            painter.fillRect(rect, t.soft)
        room = rect.adjusted(8, 0, -10, 0)
        keys = _keys(action)
        painter.setFont(mono("small"))
        painter.setPen(t.second if able else t.third)
        painter.drawText(room, Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignRight, keys)
        painter.setFont(font())
        painter.setPen(t.ink if able else t.third)
        left = room.adjusted(0, 0, -int(measure(keys, "small")) - 12, 0)
        painter.drawText(left, Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignLeft, action.text)


def _keys(action: Action) -> str:
    """Return its keys for people."""
    names = (QKeySequence(key).toString(QKeySequence.SequenceFormat.NativeText) for key in action.keys)
    return "  ".join(names)
