"""Accessibility of painted controls: their role, content, selection and actions.

Qt's own controls are accessible already. A control that paints itself is `Assisted`: it has a role, and lists the parts
that can be seen and pressed in it. They are computed when assistive technology asks, so nothing is kept up to date.
"""

# mypy: disable-error-code="override"
# (Qt lets each of these return null; its type stubs do not say so.)

from __future__ import annotations

from collections.abc import Callable, Sequence

from msgspec import Struct
from PySide6.QtCore import QObject, QPoint, QRect, QRectF
from PySide6.QtGui import (
    QAccessible,
    QAccessibleActionInterface,
    QAccessibleEvent,
    QAccessibleInterface,
    QAccessibleValueInterface,
)
from PySide6.QtWidgets import QAccessibleWidget, QWidget
from shiboken6 import Shiboken

__all__ = ["Assisted", "Part", "Role", "Scale", "assist", "tell_chosen"]

Role = QAccessible.Role
NOTHING = Shiboken.VoidPtr(0)  # a null interface: Qt turns None into an invalid pointer
PRESS = "Press"  # Qt's name of the action: `QAccessibleActionInterface.pressAction()`


class Part(Struct, frozen=True):
    """A visible part of a painted control. rect: in the control's pixels. value: its current content.

    chosen: whether it is selected. press: its action, or None.
    """

    name: str
    rect: QRectF | QRect
    role: QAccessible.Role = QAccessible.Role.ListItem
    value: str = ""
    chosen: bool = False
    press: Callable[[], object] | None = None


class Scale(Struct, frozen=True):
    """The value of a control between two ends, and a function that sets it."""

    now: float
    low: float
    high: float
    step: float
    put: Callable[[float], object]


class Assisted:
    """Mixed into a painted control, before its Qt class. Its name is the accessible name."""

    assisted_role = QAccessible.Role.List

    def assisted_value(self) -> str:
        """Return its content, if it has a single value."""
        return ""

    def assisted_press(self) -> Callable[[], object] | None:
        """Return its action, if it has a single one."""
        return None

    def assisted_scale(self) -> Scale | None:
        """Return its range value, if it has one."""
        return None

    def assisted_parts(self) -> Sequence[Part]:
        """Return its visible parts, in keyboard order."""
        return ()


def assist() -> None:
    """Install the accessibility interfaces. Call once, after creating the application."""
    QAccessible.installFactory(_make_interface)


def tell_chosen(control: QWidget, number: int) -> None:
    """Notify screen readers that another part is selected."""
    if QAccessible.isActive():
        event = QAccessibleEvent(control, QAccessible.Event.Focus)
        event.setChild(number)
        QAccessible.updateAccessibility(event)


def _make_interface(_class_name: str, thing: QObject) -> QAccessibleInterface | None:
    return _Control(thing) if isinstance(thing, Assisted) and isinstance(thing, QWidget) else None


class _Action(QAccessibleActionInterface):
    def __init__(self, press: Callable[[], object]) -> None:
        super().__init__()
        self._press = press

    def actionNames(self) -> list[str]:
        return [PRESS]

    def doAction(self, name: str) -> None:
        if name == PRESS:
            self._press()

    def keyBindingsForAction(self, _name: str) -> list[str]:
        return []


class _Value(QAccessibleValueInterface):
    def __init__(self, scale: Callable[[], Scale]) -> None:
        super().__init__()
        self._scale = scale

    def currentValue(self) -> object:
        return self._scale().now

    def setCurrentValue(self, value: object) -> None:
        if isinstance(value, int | float):
            self._scale().put(float(value))

    def minimumValue(self) -> object:
        return self._scale().low

    def maximumValue(self) -> object:
        return self._scale().high

    def minimumStepSize(self) -> object:
        return self._scale().step


class _Control(QAccessibleWidget):
    """The control itself; its parts follow its real child widgets."""

    def __init__(self, control: QWidget) -> None:
        assert isinstance(control, Assisted)
        super().__init__(control, control.assisted_role)
        self._control = control
        self._parts: list[_Part] = []
        press, scale = control.assisted_press(), control.assisted_scale()
        self._action = _Action(press) if press is not None else None
        self._value = _Value(lambda: control.assisted_scale() or scale) if scale is not None else None

    @property
    def assisted(self) -> Assisted:
        """The control, as `Assisted`."""
        assert isinstance(self._control, Assisted)
        return self._control

    def text(self, which: QAccessible.Text) -> str:
        if which == QAccessible.Text.Value:
            return self.assisted.assisted_value()
        return super().text(which)

    def _own(self) -> int:
        return super().childCount()

    def childCount(self) -> int:
        return self._own() + len(self.assisted.assisted_parts())

    def child(self, number: int) -> QAccessibleInterface | None:
        own = self._own()
        if number < own:
            return super().child(number)
        if number - own >= len(self.assisted.assisted_parts()):
            return None
        while len(self._parts) <= number - own:
            self._parts.append(_Part(self._control, len(self._parts)))
        return self._parts[number - own]

    def indexOfChild(self, child: QAccessibleInterface) -> int:
        return self._own() + self._parts.index(child) if child in self._parts else super().indexOfChild(child)

    def childAt(self, x: int, y: int) -> QAccessibleInterface | None:
        for number, part in enumerate(self.assisted.assisted_parts()):
            if _on_screen(self._control, part).contains(x, y):
                return self.child(self._own() + number)
        return super().childAt(x, y)

    def focusChild(self) -> QAccessibleInterface | None:
        chosen = next((n for n, part in enumerate(self.assisted.assisted_parts()) if part.chosen), None)
        if chosen is None or not self._control.hasFocus():
            return super().focusChild()
        return self.child(self._own() + chosen)

    def interface_cast(self, which: QAccessible.InterfaceType) -> object:
        if which == QAccessible.InterfaceType.ActionInterface and self._action is not None:
            return self._action
        if which == QAccessible.InterfaceType.ValueInterface and self._value is not None:
            return self._value
        known = super().interface_cast(which)
        return known if known is not None else NOTHING


class _Part(QAccessibleInterface):
    """One part of a control, by index; its content is computed on each access."""

    def __init__(self, control: QWidget, number: int) -> None:
        super().__init__()
        self._control = control
        self._number = number
        self._action = _Action(self._press)

    def _content(self) -> Part:
        assert isinstance(self._control, Assisted)
        parts = self._control.assisted_parts()
        return parts[self._number] if self._number < len(parts) else Part("", QRect())

    def _press(self) -> None:
        press = self._content().press
        if press is not None:
            press()

    def isValid(self) -> bool:
        return bool(self._content().name)

    def object(self) -> QObject | None:
        return None

    def window(self) -> None:
        return None

    def parent(self) -> QAccessibleInterface:
        return QAccessible.queryAccessibleInterface(self._control)

    def child(self, _number: int) -> None:
        return None

    def childAt(self, _x: int, _y: int) -> None:
        return None

    def childCount(self) -> int:
        return 0

    def indexOfChild(self, _child: QAccessibleInterface) -> int:
        return -1

    def focusChild(self) -> None:
        return None

    def rect(self) -> QRect:
        return _on_screen(self._control, self._content())

    def role(self) -> QAccessible.Role:
        return self._content().role

    def state(self) -> QAccessible.State:
        part, state = self._content(), QAccessible.State()
        state.focusable = state.selectable = part.press is not None
        state.selected = part.chosen
        state.focused = part.chosen and self._control.hasFocus()
        state.invisible = not self._control.isVisible()
        return state

    def text(self, which: QAccessible.Text) -> str:
        if which == QAccessible.Text.Name:
            return self._content().name
        return self._content().value if which == QAccessible.Text.Value else ""

    def setText(self, _which: QAccessible.Text, _text: str) -> None:
        """Do nothing: painted parts are not editable."""

    def interface_cast(self, which: QAccessible.InterfaceType) -> _Action | Shiboken.VoidPtr:
        wanted = which == QAccessible.InterfaceType.ActionInterface and self._content().press is not None
        return self._action if wanted else NOTHING


def _on_screen(control: QWidget, part: Part) -> QRect:
    rect = part.rect.toAlignedRect() if isinstance(part.rect, QRectF) else part.rect
    return QRect(control.mapToGlobal(rect.topLeft() if rect.isValid() else QPoint()), rect.size())
