"""A rule's row on the card: chips above, the field, the result at the right, the error below."""

from __future__ import annotations

from PySide6.QtCore import QPoint, QRectF, Qt, Signal
from PySide6.QtGui import QPainter, QPaintEvent
from PySide6.QtWidgets import QGridLayout, QLabel, QSizePolicy, QWidget

from avrin.app.bind_desk.card.chips import Chips
from avrin.app.bind_desk.card.rule_edit import RuleEdit
from avrin.app.controls.field import Field
from avrin.app.controls.labels import text_label
from avrin.app.controls.theme import font, measure, theme
from avrin.app.services.editor import Editor
from avrin.binding.places import RulePlace
from avrin.editor.edits import redo, seal, set_rule, undo
from avrin.errors import AvrinError
from avrin.render.values import format_value
from avrin.rules.errors import RuleError
from avrin.rules.steps import Step

__all__ = ["LABELS", "RESULT", "RuleRow", "quiet_label"]

LABELS = 62  # pixels of the label column
RESULT = 84  # pixels of the result column
BESIDE = 22  # of those, for the sign before a result


def quiet_label(text: str) -> QLabel:
    """Return a label in the secondary text colour."""
    label = text_label(text)
    label.setFixedWidth(LABELS)
    return label


class RuleRow(QWidget):
    """A rule at a place of the project."""

    chosen = Signal(str)  # a chip was pressed

    def __init__(
        self, editor: Editor, place: RulePlace, name: str, *, template: bool = False, chips: bool = True
    ) -> None:
        super().__init__()
        self.editor = editor
        self.place = place
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Minimum)
        grid = QGridLayout(self)
        grid.setContentsMargins(0, 0, 0, 0)
        grid.setHorizontalSpacing(0)
        grid.setVerticalSpacing(4)
        grid.setColumnStretch(1, 1)
        grid.setRowStretch(4, 1)  # the height of a removed error goes below the field
        self.chips = Chips()
        self.chips.chosen.connect(self.chosen)
        self.edit = RuleEdit(f"{name}, rule", editor, template=template)
        self.edit.edited.connect(self._edited)
        self.edit.exited.connect(editor.doing(seal))
        self._step: Step | None = None
        self._graph: object = None  # the step's graph
        self.edit.exited.connect(self._show_result)
        self.edit.undo_wanted.connect(editor.doing(undo))
        self.edit.redo_wanted.connect(editor.doing(redo))
        self.problem = text_label("", "critical", "small", wrap=True)
        self.problem.hide()
        self._grid, self._label = grid, quiet_label(name)
        grid.addWidget(self._label, 1, 0, Qt.AlignmentFlag.AlignVCenter)
        self._with_chips = chips
        self.chips.setParent(self)
        self.chips.hide()
        if chips:
            grid.addWidget(self.chips, 0, 1)
        grid.addWidget(self.edit, 1, 1)
        grid.setColumnMinimumWidth(2, RESULT)
        grid.addWidget(self.problem, 2, 1, 1, 2)
        self.unfolded = text_label("", "ink", wrap=True)  # the result, if it is too long for the column
        self.unfolded.hide()
        grid.addWidget(self.unfolded, 3, 1, 1, 2)
        self._result = ""
        self.show_text()

    def name_by(self, field: Field) -> None:
        """Use an editable field as the label."""
        self._label.hide()
        self._grid.removeWidget(self._label)
        field.exited.connect(self.edit.setFocus)
        self._grid.addWidget(field, 1, 0, Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignLeft)
        self._grid.setColumnMinimumWidth(0, LABELS)

    def _show_result(self) -> None:
        """Show the result again, unless another project was opened meanwhile: the step does not exist in its graph."""
        if self._graph is self.editor.now.bound.graph:
            self.show_values(self._step)

    def _edited(self, text: str) -> None:
        self.editor.do(set_rule, self.place, text)

    def show_text(self) -> None:
        """Show a changed rule."""
        self.edit.show_rule(self.editor.now.rule_text(self.place))
        error = self.editor.now.bound.errors.get(self.place)
        self.edit.show_error(error)
        self.problem.setVisible(error is not None)
        if error is not None:
            self.problem.setText(_error_text(error))
        self.update()

    def show_values(self, step: Step | None) -> None:
        """Update the chips and the result for the playhead."""
        editor, self._step, self._graph = self.editor, step, self.editor.now.bound.graph
        if step is None:
            self.chips.show_values([])
            result = ""
        else:
            feeding = [(name, format_value(editor.now.value(name))) for name in step.sources()]
            # During typing the field must not move: new chips appear when it is left.
            if self._with_chips and bool(feeding) != self.chips.isVisibleTo(self) and not self.edit.hasFocus():
                # The label is beside the chips, or beside the field if there are none.
                self.chips.setVisible(bool(feeding))
                self._grid.addWidget(self._label, 0 if feeding else 1, 0, Qt.AlignmentFlag.AlignVCenter)
            self.chips.show_values(feeding)
            broken = self.place in editor.now.bound.errors
            result = "—" if broken else format_value(editor.now.tracks.value(step, editor.now.frame))
        if result != self._result:
            self._result = result
            # Once unfolded it stays, so that rows below do not jump with the playhead.
            if measure(result, "text", True) > RESULT - BESIDE:
                self.unfolded.show()
            self.unfolded.setText(f"= {result}")
            self.edit.setAccessibleDescription(f"= {result}" if result else "")
            self.update(self._result_rect().toAlignedRect())

    def result(self) -> str:
        """Return the displayed result."""
        return self._result

    def chip_left(self, name: str) -> QPoint | None:
        """Return where a chip's ribbon starts, in this row."""
        found = self.chips.chip_left(name)
        return self.chips.mapTo(self, found) if found is not None and self.chips.isVisible() else None

    def _result_rect(self) -> QRectF:
        box = self.edit.geometry()
        return QRectF(box.right() + 1, box.top(), RESULT, box.height())

    def paintEvent(self, _event: QPaintEvent) -> None:
        t = theme()
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        self.edit.paint_frame(painter)
        if not self._result or self.unfolded.isVisibleTo(self):
            return
        area = self._result_rect()
        painter.setFont(font())
        painter.setPen(t.third)
        painter.drawText(area.adjusted(8, 0, 0, 0), Qt.AlignmentFlag.AlignVCenter, "=")
        painter.setFont(font("text", True))
        painter.setPen(t.third if self._result in ("missing", "—") else t.ink)
        shown = painter.fontMetrics().elidedText(self._result, Qt.TextElideMode.ElideRight, int(area.width()) - BESIDE)
        painter.drawText(area, Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignRight, shown)


def _error_text(error: AvrinError) -> str:
    """Return an error without its place, which the underline shows."""
    text = error.problem[0].upper() + error.problem[1:]
    if not isinstance(error, RuleError) and error.place:
        text = f"{', '.join(error.place)}: {error.problem}"
    return f"{text}. {error.advice}." if error.advice and not text.endswith("?") else text
