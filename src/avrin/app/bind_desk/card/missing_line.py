"""The placeholder for a missing value: the project's, a text, or nothing."""

from __future__ import annotations

from msgspec.structs import replace
from PySide6.QtWidgets import QHBoxLayout, QWidget

from avrin.app.controls.choice import Choice
from avrin.app.controls.field import Field
from avrin.app.services.editor import Editor
from avrin.editor.edits import set_widget
from avrin.project.project import WhileMissing

__all__ = ["MissingLine"]

OURS, TEXT, HIDDEN = "the placeholder", "a text", "nothing, hidden"


class MissingLine(QWidget):
    """A choice, with a field for the text."""

    def __init__(self, editor: Editor, ident: str) -> None:
        super().__init__()
        self.editor = editor
        self.ident = ident
        self.choice = Choice("while missing", (OURS, TEXT, HIDDEN))
        self.choice.taken.connect(self._chosen)
        self.field = Field("text while missing", 110)
        self.field.taken.connect(lambda text: self._set(WhileMissing(text=text)))
        self.field.exited.connect(self.setFocus)
        line = QHBoxLayout(self)
        line.setContentsMargins(0, 0, 0, 0)
        line.setSpacing(6)
        line.addWidget(self.choice)
        line.addWidget(self.field)
        line.addStretch(1)
        self.refresh()

    def refresh(self) -> None:
        """Show the current state."""
        missing = self.editor.now.project.widget(self.ident).missing
        self.choice.show_value(HIDDEN if missing.hide else TEXT if missing.text is not None else OURS)
        self.field.setVisible(missing.text is not None and not missing.hide)
        self.field.show_text(missing.text or "")
        self.choice.setToolTip(f"The project's placeholder is {self.editor.now.project.placeholder}")

    def _chosen(self, word: object) -> None:
        self._set(
            WhileMissing(hide=True) if word == HIDDEN else WhileMissing(text="###") if word == TEXT else WhileMissing()
        )
        if word == TEXT:
            self.field.setFocus()
            self.field.selectAll()

    def _set(self, missing: WhileMissing) -> None:
        widget = self.editor.now.project.widget(self.ident)
        self.editor.do(set_widget, replace(widget, missing=missing), f"what {widget.title} shows while missing")
