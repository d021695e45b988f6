"""A row of the card."""

from __future__ import annotations

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QHBoxLayout, QSizePolicy, QWidget

from avrin.app.bind_desk.card.rule_row import quiet_label

__all__ = ["Line"]


class Line(QWidget):
    """A label in the first column with widgets beside it, aligned to its top or its centre."""

    def __init__(self, name: str = "", *, level: bool = False) -> None:
        super().__init__()
        self.row = QHBoxLayout(self)
        self.row.setContentsMargins(0, 0, 0, 0)
        self.row.setSpacing(2)
        label = quiet_label(name)
        label.setAlignment(Qt.AlignmentFlag.AlignVCenter if level else Qt.AlignmentFlag.AlignTop)
        self.row.addWidget(label)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
