"""The state coverage of each widget, painted from its sheet."""

from __future__ import annotations

from PySide6.QtCore import QRect, QSize
from PySide6.QtGui import QPainter, QPaintEvent
from PySide6.QtWidgets import QSizePolicy, QWidget

from avrin.app.controls.assistive import Assisted, Part, Role
from avrin.app.ladder_desk.ladder_rows import paper
from avrin.app.painting.paint import draw
from avrin.binding.bound import Bound
from avrin.kinds.shapes import Shape
from avrin.kinds.states import state_label
from avrin.ladder.coverage_sheet import Covered, coverage_sheet

__all__ = ["CoverageView"]


class CoverageView(Assisted, QWidget):
    """A row per state, a column per recording."""

    def __init__(self) -> None:
        super().__init__()
        self.covered: Covered = {}
        self._bound: Bound | None = None
        self._shapes: list[Shape] = []
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.setAccessibleName("states by recording")

    assisted_role = Role.Table

    def assisted_parts(self) -> list[Part]:
        """Return each state of each widget with its occurrence in each recording."""
        return [
            Part(
                f"{ident}, {state_label(state, states)}", QRect(0, 0, self.width(), self.height()), Role.Cell,
                "; ".join(f"{stay.trace} {stay.share:.1%}, {stay.times} times" for stay in stays),
            )
            for ident, states in self.covered.items() for state, stays in states.items()
        ]  # fmt: skip

    def show_covered(self, covered: Covered, bound: Bound) -> None:
        """Show a result."""
        self.covered = covered
        self._bound = bound
        self._lay_out()

    def _lay_out(self) -> None:
        if self._bound is not None:
            self._shapes, height = coverage_sheet(self.covered, self._bound, self.width(), paper())
            self.setFixedHeight(round(height))
            self.update()

    def resizeEvent(self, _event: object) -> None:
        self._lay_out()

    def sizeHint(self) -> QSize:
        return QSize(1240, self.height())

    def paintEvent(self, _event: QPaintEvent) -> None:
        draw(QPainter(self), self._shapes)
