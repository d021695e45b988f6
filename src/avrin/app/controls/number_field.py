"""A one-line field for a number."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QWidget

from avrin.app.controls.field import Field
from avrin.edits.typed import NumberInput
from avrin.errors import AvrinError

__all__ = ["NumberField"]


class NumberField(Field):
    """Commits a number. An invalid text is marked and reported, and nothing is committed.

    report: shows the message to the user.
    """

    entered = Signal(float)

    def __init__(
        self,
        name: str,
        width: int,
        accepts: NumberInput,
        report: Callable[[str], object],
        parent: QWidget | None = None,
    ) -> None:
        super().__init__(name, width, parent)
        self._accepts = accepts
        self._report = report
        self.taken.connect(self._enter)

    def read(self) -> float | None:
        """Return the number in the field, or None after reporting that there is none."""
        try:
            return self._accepts.parse(self.text())
        except AvrinError as error:
            self.mark(True)
            self._report(str(error))
            return None

    def _enter(self) -> None:
        if (number := self.read()) is not None:
            self.mark(False)
            self.entered.emit(number)
