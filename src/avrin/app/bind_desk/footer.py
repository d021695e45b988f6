"""The footer below the lanes: add things, filter lanes, drive by hand with the project's actions."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial

from PySide6.QtCore import QPoint, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QContextMenuEvent, QKeySequence, QPainter, QPaintEvent, QPen, QShortcut
from PySide6.QtWidgets import QHBoxLayout, QSizePolicy, QStackedWidget, QWidget

from avrin.app.controls.assistive import Assisted, Role
from avrin.app.controls.choice import Choice
from avrin.app.controls.field import Field
from avrin.app.controls.labels import text_label
from avrin.app.controls.link import Link, Pressable
from avrin.app.controls.menu import new_menu
from avrin.app.controls.theme import EDGE, font, measure, theme
from avrin.app.services.editor import Editor
from avrin.app.services.files import Files
from avrin.app.services.traces import Traces
from avrin.editor.by_hand import press_action, restart_drive, start_drive, stop_drive
from avrin.editor.changes import Change
from avrin.editor.layout import order_lanes
from avrin.errors import AvrinError
from avrin.kinds.registry import KINDS
from avrin.project.project import Action
from avrin.storage.view_state import LANE_ORDERS

__all__ = ["Footer"]


class Footer(QWidget):
    """Three modes (idle, driving, a drive that can be saved) next to the filter field."""

    find_changed = Signal(str)
    widget_wanted = Signal(str)  # a kind
    variable_wanted = Signal()
    derived_wanted = Signal()
    roster_wanted = Signal()
    recording_wanted = Signal()
    offers_wanted = Signal()
    action_wanted = Signal(str)  # the label of an action to edit; "" for a new one

    def __init__(self, editor: Editor, files: Files, traces: Traces) -> None:
        super().__init__()
        self.editor = editor
        self._files, self._traces = files, traces
        self.finder = Field("find a lane", 96)
        self.order = Choice("order of the lanes", LANE_ORDERS)
        self.order.setToolTip("The order of the lanes; a lane's head can be dragged up and down  (Alt+Up, Alt+Down)")
        self.order.taken.connect(editor.doing(order_lanes))
        self.order.show_value(editor.now.layout.order)
        self.keys: list[ActionKey] = []
        self._shortcuts: list[QShortcut] = []
        self._displaced: list[QShortcut] = []  # commands of the window whose keys belong to actions while driving
        self._faces = QStackedWidget()
        self._driving, self._kept = QWidget(), text_label("", "ink", bold=True)
        for face in (self._resting(), self._driving, self._keeping()):
            self._faces.addWidget(face)
        self.finder.setPlaceholderText("find   Ctrl+F")
        self.finder.textChanged.connect(self.find_changed)
        whole = QHBoxLayout(self)
        whole.setContentsMargins(0, 1, EDGE, 0)
        whole.setSpacing(0)
        whole.addWidget(self._faces, 1)
        whole.addWidget(self.order)
        whole.addSpacing(6)
        whole.addWidget(self.finder)
        editor.follow("footer", self)

    def on_change(self, change: Change) -> None:
        """Show the order of the lanes, and what a drive needs."""
        if change.of("layout"):
            self.order.show_value(self.editor.now.layout.order)
        if change.of("driving", "recording"):
            self._changed()
        elif change.of("tracks"):
            self._actions_changed()

    def _resting(self) -> QWidget:
        face, row = _face()
        self.more = Link("+ widget", self._pick_kind, bold=True)
        self.more.setToolTip("Add a widget to the screen and edit its rules")
        row.addWidget(self.more)
        variable = Link("+ variable", self.variable_wanted.emit, bold=True)
        variable.setToolTip("Declare a variable of the game")
        row.addWidget(variable)
        derived = Link("+ derived", self.derived_wanted.emit, bold=True)
        derived.setToolTip("A named rule over variables; Ctrl+Shift+E makes one of the selected part of a rule")
        row.addWidget(derived)
        roster = Link("+ roster", self.roster_wanted.emit, bold=True)
        roster.setToolTip("Several alike: players, boats, party members")
        row.addWidget(roster)
        recording = Link("+ recording", self.recording_wanted.emit, bold=True)
        recording.setToolTip("Add a recording of the game")
        row.addWidget(recording)
        action = Link("+ action", lambda: self.action_wanted.emit(""), bold=True)
        action.setToolTip("Something to do by hand while the clock runs: Hit  H  hull -20")
        row.addWidget(action)
        row.addStretch(1)
        hint = text_label(
            "Drag a variable onto the picture to show it there; drag its value to pin it", "third", "small"
        )
        hint.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Preferred)
        hint.setAlignment(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)
        row.addWidget(hint, 100)
        row.addSpacing(8)
        self._offers = Link("offers", self.offers_wanted.emit, bold=True)
        self._offers.setToolTip("Offers for this recording  (Ctrl+J)")
        row.addWidget(self._offers)
        drive = Link("drive by hand", self.editor.doing(start_drive), bold=True)
        drive.setToolTip("Run the clock and press the project's actions; everything is recorded  (D)")
        row.addWidget(drive)
        return face

    def set_offers(self, shown: bool) -> None:
        """Set whether the shelf of offers is visible."""
        self._offers.set_text("hide offers" if shown else "offers")

    def _pick_kind(self) -> None:
        """Show a menu of all kinds with their descriptions."""
        menu = new_menu(self)
        for kind, info in KINDS.items():
            menu.addAction(f"{kind}\t{info.help}", partial(self.widget_wanted.emit, kind))
        menu.popup(self.more.mapToGlobal(QPoint(0, -menu.sizeHint().height() - 4)))

    def _keeping(self) -> QWidget:
        face, row = _face()
        row.addSpacing(7)
        row.addWidget(self._kept)
        row.addSpacing(6)
        row.addWidget(Link("keep it", self.keep, bold=True))
        row.addWidget(Link("continue driving", self.editor.doing(start_drive), bold=True))
        row.addWidget(Link("back to the recording", self._back, bold=True))
        row.addStretch(1)
        return face

    def _fill_driving(self) -> None:
        """Show keys for the current actions."""
        self._drop_shortcuts()
        self.keys = []
        old = self._driving
        self._driving, row = _face()
        self._faces.removeWidget(old)
        old.deleteLater()
        self._faces.insertWidget(1, self._driving)
        row.addSpacing(7)
        row.addWidget(_Lamp())
        do, doing = self.editor.do, self.editor.doing
        for action in self.editor.now.project.actions:
            key = ActionKey(
                action, partial(do, press_action, action.label), partial(self.action_wanted.emit, action.label)
            )
            self.keys.append(key)
            row.addWidget(key)
            if action.key:
                self._shortcut(action.key, partial(do, press_action, action.label))
        for widget in self.editor.now.project.widgets:
            kind = KINDS.get(widget.kind)
            pressed = str(widget.options.get("key", "")) if kind is not None and kind.pressed else ""
            if pressed and all(action.key.upper() != pressed.upper() for action in self.editor.now.project.actions):
                self._shortcut(pressed, partial(do, press_action, widget.id))
        row.addWidget(Link("+ action", lambda: self.action_wanted.emit(""), bold=True))
        row.addStretch(1)
        restart = ActionKey(Action(label="restart", key="R"), doing(restart_drive), None)
        if all(action.key.upper() != "R" for action in self.editor.now.project.actions):
            self._shortcut("R", doing(restart_drive))
        row.addWidget(restart)
        row.addWidget(Link("stop", doing(stop_drive), bold=True))

    def _drop_shortcuts(self) -> None:
        for shortcut in self._shortcuts:
            shortcut.setEnabled(False)  # it still exists for a while
            shortcut.deleteLater()
        for shortcut in self._displaced:
            shortcut.setEnabled(True)
        self._shortcuts, self._displaced = [], []

    def _shortcut(self, key: str, act: Callable[[], None]) -> None:
        """Let a key act while driving; a command of the window with that key waits, as two would block each other."""
        for other in self.window().findChildren(QShortcut):
            if other.isEnabled() and other.key() == QKeySequence(key) and other not in self._shortcuts:
                other.setEnabled(False)
                self._displaced.append(other)
        shortcut = QShortcut(QKeySequence(key), self.window())
        shortcut.activated.connect(act)
        self._shortcuts.append(shortcut)

    def _actions_changed(self) -> None:
        if self.editor.now.live is not None:
            self._fill_driving()
            self._faces.setCurrentIndex(1)

    def _changed(self) -> None:
        now = self.editor.now
        if now.live is not None:
            self._fill_driving()
            self._faces.setCurrentIndex(1)
            return
        self._drop_shortcuts()
        if now.unkept:
            self._kept.setText(f"Driven by hand, {self.editor.now.trace.length:.1f} s")
        self._faces.setCurrentIndex(2 if now.unkept else 0)

    def keep(self) -> None:
        """Save the drive."""
        try:
            path = self._files.keep_drive()
        except AvrinError as error:
            self.editor.say(str(error), error=True)
        else:
            self.editor.say(f"Saved as {path}")

    def _back(self) -> None:
        editor = self.editor
        listed = editor.now.project.traces
        try:
            self._traces.show(editor.now.latest or (listed[0].key if listed else ""))
        except AvrinError as error:
            editor.say(str(error), error=True)

    def paintEvent(self, _event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setPen(QPen(theme().line, 1))
        painter.drawLine(0, 0, self.width(), 0)


class ActionKey(Pressable):
    """An action as a key cap with its label; triggered by click or key. A right click edits it."""

    def __init__(self, action: Action, act: Callable[[], object], edit: Callable[[], None] | None) -> None:
        super().__init__(act)
        self.action = action
        self._edit = edit
        self.setAccessibleName(f"{action.label}, key {action.key}" if action.key else action.label)
        self.setToolTip("  ".join(f"{c.set} = {c.to}" for c in action.does) + ("\nright press: edit" if edit else ""))
        self.setSizePolicy(QSizePolicy.Policy.Fixed, QSizePolicy.Policy.Fixed)

    def sizeHint(self) -> QSize:
        cap = measure(self.action.key, "small", True) + 16 if self.action.key else 0
        return QSize(round(cap + measure(self.action.label)) + 18, 26)

    def contextMenuEvent(self, _event: QContextMenuEvent) -> None:
        if self._edit is not None:
            self._edit()

    def paintEvent(self, _event: QPaintEvent) -> None:
        t = theme()
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        if self.over or self.hasFocus():
            painter.setPen(QPen(t.accent, 1.5) if self.hasFocus() else Qt.PenStyle.NoPen)
            painter.setBrush(t.raised)
            painter.drawRoundedRect(QRectF(self.rect()).adjusted(1, 1, -1, -1), 4, 4)
        x = 6.0
        if self.action.key:
            wide = measure(self.action.key, "small", True) + 12
            cap = QRectF(x, 5, wide, 16)
            painter.setPen(QPen(t.third, 1))
            painter.setBrush(t.raised)
            painter.drawRoundedRect(cap, 3, 3)
            painter.setFont(font("small", True))
            painter.setPen(t.ink)
            painter.drawText(cap, Qt.AlignmentFlag.AlignCenter, self.action.key)
            x += wide + 6
        painter.setFont(font())
        painter.setPen(t.ink)
        painter.drawText(
            QRectF(x, 0, self.width() - x, self.height()), Qt.AlignmentFlag.AlignVCenter, self.action.label
        )


class _Lamp(Assisted, QWidget):
    """Indicates recording."""

    assisted_role = Role.StaticText

    def __init__(self) -> None:
        super().__init__()
        self.setFixedSize(round(measure("driving", "text", True)) + 26, 26)
        self.setAccessibleName("driving: recording")

    def paintEvent(self, _event: QPaintEvent) -> None:
        t = theme()
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(t.critical)
        painter.drawEllipse(QRectF(0, 9, 8, 8))
        painter.setPen(t.ink)
        painter.setFont(font("text", True))
        painter.drawText(QRectF(14, 0, self.width(), 26), Qt.AlignmentFlag.AlignVCenter, "driving")


def _face() -> tuple[QWidget, QHBoxLayout]:
    face = QWidget()
    row = QHBoxLayout(face)
    row.setContentsMargins(EDGE - 11, 0, 6, 0)
    row.setSpacing(2)
    return face, row
