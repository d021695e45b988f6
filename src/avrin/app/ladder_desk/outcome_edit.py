"""What a warning warns of: an outcome of the project, a restart, or a new one."""

from __future__ import annotations

from collections.abc import Sequence

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QWidget

from avrin.app.controls.choice import Choice
from avrin.app.controls.field import Field
from avrin.app.controls.link import Link
from avrin.app.controls.popup import row
from avrin.app.services.editor import Editor
from avrin.binding.own_examples import own_example
from avrin.binding.places import RulePlace
from avrin.editor.edits import edit, seal, set_rule
from avrin.edits.outcomes import outcome_added, outcome_called, outcome_removed
from avrin.errors import AvrinError
from avrin.project.project import Project
from avrin.trace.frames import Trace
from avrin.tuning.signals import RESTART
from avrin.tuning.suggestions import rare_flags

__all__ = ["OutcomeEdit"]

FIRST = "*"  # the first one in the project
ANEW, ANOTHER = "a restart", "another …"
FLAG = ", a flag"


class OutcomeEdit(QWidget):
    """Chooses an outcome, and edits its name and rule. chosen: another one was chosen, or it changed."""

    chosen = Signal()

    def __init__(self, editor: Editor) -> None:
        super().__init__()
        self.editor = editor
        self.name = FIRST  # the outcome's name, or `RESTART`; "" for a new one
        self._flags: dict[str, str] = {}  # rules of flags that could be outcomes, by name
        self._searched: object = None  # what they were searched in
        self.choice = Choice("what it warns of", [ANOTHER])
        self.choice.taken.connect(self._choose)
        self.rule = Field("condition of the outcome", 230)
        self.rule.setPlaceholderText(own_example("hull <= 0", editor.now.project))
        self.rule.taken.connect(self._set_rule)
        self.called = Field("name of the outcome", 90)
        self.called.taken.connect(self._rename)
        self.remove = Link("remove it", self._remove)
        self.setLayout(row(self.choice, self.called, self.rule, self.remove))

    def reset(self) -> None:
        """Choose the project's first outcome when it is next shown."""
        self.name = FIRST

    def show_outcomes(self, traces: Sequence[Trace]) -> None:
        """Offer the project's outcomes, and flags of recordings that rarely turn true; show the chosen one."""
        project = self.editor.now.project
        names = [one.name for one in project.outcomes]
        if self.name not in (*names, RESTART, ""):
            self.name = names[0] if names else ""
        key = (project.variables, project.outcomes, tuple(map(id, traces)))
        if key != self._searched:
            self._flags, self._searched = rare_flags(project, traces), key
        self.choice.offer([*names, *(f"{name}{FLAG}" for name in self._flags), ANEW, ANOTHER])
        self.choice.show_value(ANEW if self.name == RESTART else self.name or ANOTHER)
        is_own = self.name not in ("", RESTART)
        self.rule.setVisible(self.name != RESTART)
        self.rule.show_text(next((one.rule for one in project.outcomes if one.name == self.name), ""))
        self.rule.mark(RulePlace("outcome", self.name) in self.editor.now.bound.errors)
        self.called.setVisible(is_own)
        self.called.show_text(self.name if is_own else "")
        self.remove.setVisible(is_own)

    def _choose(self, choice: object) -> None:
        flag = str(choice).removesuffix(FLAG)
        if str(choice) not in {one.name for one in self.editor.now.project.outcomes} and flag in self._flags:
            project, self.name = outcome_added(self.editor.now.project, self._flags[flag], flag.replace(".", "_"))
            self.editor.do(seal)
            self.editor.do(edit, project, f"outcome {self.name}")
        else:
            self.name = {ANEW: RESTART, ANOTHER: ""}.get(str(choice), str(choice))
        self.chosen.emit()
        if not self.name:
            self.rule.setFocus()

    def _set_rule(self, text: str) -> None:
        """Set the rule of the chosen outcome, or of a new one."""
        editor = self.editor
        editor.do(seal)
        if self.name:
            editor.do(set_rule, RulePlace("outcome", self.name), text.strip())
        elif text.strip():
            project, self.name = outcome_added(editor.now.project, text.strip())
            editor.do(edit, project, f"outcome {self.name}")
        error = editor.now.bound.errors.get(RulePlace("outcome", self.name))
        if error is not None:
            editor.show_error(str(error))
        self.chosen.emit()

    def _rename(self, text: str) -> None:
        editor, before = self.editor, self.name
        try:
            project: Project = outcome_called(editor.now.project, before, text)
        except AvrinError as error:
            self.called.mark(True)
            editor.show_error(str(error))
            return
        self.name = text.strip()
        editor.do(seal)
        editor.do(edit, project, f"name of outcome {before}")
        self.chosen.emit()

    def _remove(self) -> None:
        editor, removed = self.editor, self.name
        self.reset()
        editor.do(seal)
        editor.do(edit, outcome_removed(editor.now.project, removed), f"removal of outcome {removed}")
        self.chosen.emit()
