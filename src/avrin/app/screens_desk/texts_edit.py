"""Edit translations in place: the HUD's texts in a language, saved to its catalogue while typing."""

from __future__ import annotations

from functools import partial

from PySide6.QtCore import QPoint, Qt, Signal
from PySide6.QtGui import QResizeEvent
from PySide6.QtWidgets import QGridLayout, QVBoxLayout, QWidget

from avrin.app.controls.field import Field
from avrin.app.controls.labels import text_label
from avrin.app.controls.link import Link
from avrin.app.controls.popup import Popup, row
from avrin.app.controls.scroller import scrolled
from avrin.app.services.editor import Editor
from avrin.editor.edits import edit, seal
from avrin.edits.languages import language_added, language_removed, language_written
from avrin.errors import AvrinError, reason_of
from avrin.i18n.extraction import with_translation
from avrin.i18n.languages import Fault, language_name, translation, why_not
from avrin.i18n.languages import forms as forms_of
from avrin.i18n.messages import Message
from avrin.project.project import Locale, Project
from avrin.storage.files import write

__all__ = ["TextsEdit"]

WIDE, TALL = 640, 420  # pixels
SOURCE, FIELD = 252, 316


class TextsEdit(Popup):
    """One language's texts. written: its catalogue or its settings changed."""

    written = Signal()

    def __init__(self, editor: Editor, parent: QWidget) -> None:
        super().__init__(parent)
        self.editor = editor
        self.code = ""
        self.fields: dict[str, list[Field]] = {}  # by singular text
        self._title = text_label("", "ink", "title", bold=True)
        self._count = text_label("", size="small")
        self.new_code = Field("code of a new language", 90)
        self.new_code.setPlaceholderText("de, pt_BR …")
        self.new_code.taken.connect(self._added)
        self.font_field = Field("font for missing glyphs", 170)
        self.font_field.setPlaceholderText("the look's own")
        self.font_field.taken.connect(self._set_font)
        self.mirror = Link("", self._turned, bold=True)
        self.remove = Link("remove it", self._removed)
        self.remove.setToolTip("Removes the language from the project; its catalogue file remains")
        for field in (self.new_code, self.font_field):
            field.exited.connect(self.setFocus)
        whole = QVBoxLayout(self)
        whole.setContentsMargins(16, 10, 12, 12)
        whole.setSpacing(6)
        whole.addLayout(row(self._title, self._count, None, self.remove, Link("done", self.close_it, bold=True)))
        self._how = QWidget()
        self._how.setLayout(row("missing letters from", self.font_field, "   the HUD is", self.mirror, None))
        self._new = QWidget()
        self._new.setLayout(row("its code, for example de", self.new_code, None))
        whole.addWidget(self._how)
        whole.addWidget(self._new)
        self._rows = QWidget()
        self._grid = QGridLayout(self._rows)
        self._grid.setContentsMargins(0, 4, 8, 4)
        self._grid.setHorizontalSpacing(12)
        self._grid.setVerticalSpacing(7)
        self._area = scrolled(self._rows)
        whole.addWidget(self._area, 1)

    # -- display ------------------------------------------------------------------------------------------------------

    def open_under(self, link: QWidget, code: str, widget: str = "") -> None:
        """Edit a language's texts; "" for a new language. widget: whose texts come first."""
        self.code = code
        parent = self.parentWidget()
        assert parent is not None
        self.show_it()
        self.resize(min(WIDE, parent.width() - 40), min(TALL, parent.height() - 80) if code else 96)
        corner = link.mapTo(parent, QPoint(link.width() - self.width(), link.height() + 4))
        self.move(max(8, min(corner.x(), parent.width() - self.width() - 8)), max(8, corner.y()))
        self.show()
        self.raise_()
        wanted = next((self.fields[one.single][0] for one in self._messages if self._is_of(one, widget)), None)
        if wanted is not None:
            self._rows.adjustSize()
            self._area.ensureWidgetVisible(wanted)
            wanted.setFocus()
        else:
            (self.new_code if not code else self).setFocus()

    @staticmethod
    def _is_of(message: Message, widget: str) -> bool:
        return any(place.widget == widget for place in message.places)

    def show_it(self) -> None:
        """Show all texts, those with errors first."""
        code, editor = self.code, self.editor
        self._how.setVisible(bool(code))
        self.remove.setVisible(any(one.code == code for one in editor.now.project.languages))
        self._area.setVisible(bool(code))
        self._new.setVisible(not code)
        self._title.setText(language_name(code) if code else "A new language")
        self._messages: tuple[Message, ...] = ()
        while (item := self._grid.takeAt(0)) is not None:
            if (part := item.widget()) is not None:
                part.hide()
                part.deleteLater()
        self.fields = {}
        self._count.setText("")
        if not code:
            self.new_code.show_text("")
            return
        entry = next((one for one in editor.now.project.languages if one.code == code), Locale(code=code))
        self.font_field.show_text(entry.font)
        self.mirror.set_text("mirrored" if entry.mirror else "as it is")
        try:
            read = translation(editor.now.bound, code)
        except AvrinError as error:
            self._grid.addWidget(text_label(str(error), "critical", wrap=True), 0, 0, 1, 2)
            return
        wrong = {fault.text: fault for fault in read.faults if fault.message is not None}
        self._messages = tuple(sorted(read.messages, key=lambda message: message.single not in wrong))
        self._show_count(len(read.messages) - len(wrong))
        for at, message in enumerate(self._messages):
            self._line(at, message, wrong.get(message.single))
        self._grid.setRowStretch(len(self._messages), 1)

    def _show_count(self, there: int) -> None:
        self._count.setText(f"{there} of {len(self._messages)} texts")

    def _line(self, at: int, message: Message, fault: Fault | None) -> None:
        said = text_label(message.single, "ink", wrap=True)
        said.setFixedWidth(SOURCE)
        said.setTextFormat(Qt.TextFormat.PlainText)
        said.setToolTip(", ".join(dict.fromkeys(place.widget for place in message.places)))
        self._grid.addWidget(said, at, 0, Qt.AlignmentFlag.AlignTop)
        column = QVBoxLayout()
        column.setSpacing(3)
        holder = QWidget()
        holder.setLayout(column)
        column.setContentsMargins(0, 0, 0, 0)
        fields = self.fields[message.single] = []
        for number, form in enumerate(forms_of(self.editor.now.bound, self.code, message)):
            many = f", form {number + 1}" if message.many else ""
            field = Field(f"{message.single} in {self.code}{many}", FIELD)
            field.show_text(form)
            field.taken.connect(partial(self._set_translation, message))
            field.exited.connect(self.setFocus)
            fields.append(field)
            column.addWidget(field)
        problem = text_label(
            fault.why if fault is not None and fault.sort != "untranslated" else "", "critical", "small", wrap=True
        )
        problem.setVisible(bool(problem.text()))
        column.addWidget(problem)
        self._grid.addWidget(holder, at, 1, Qt.AlignmentFlag.AlignTop)

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self._rows.setMaximumWidth(self._area.width())

    # -- edits --------------------------------------------------------------------------------------------------------

    def _set_translation(self, message: Message, _text: str) -> None:
        fields = self.fields[message.single]
        forms = [field.text() for field in fields]
        why = why_not(message, forms) if all(forms) else ""
        for field in fields:
            field.mark(bool(why))
        if why:
            self.editor.say(f"This translation does not fit: {why}", error=True)
            return
        if not all(forms) and any(forms):
            return  # the others are not written yet
        editor = self.editor
        if editor.now.path is None:
            editor.say("Save the project first: translations are stored in its folder", error=True)
            return
        try:
            path, data = with_translation(editor.now.bound, self.code, message, forms)
            path.parent.mkdir(exist_ok=True)
            write(path, data)
            read = translation(editor.now.bound, self.code)
        except OSError as error:
            editor.say(f"texts cannot be made ({reason_of(error)})", error=True)
            return
        except AvrinError as error:
            editor.say(str(error), error=True)
            return
        self._show_count(len(read.messages) - sum(fault.message is not None for fault in read.faults))
        self.written.emit()

    def _edit(self, field: Field | None, change: object, what: str) -> None:
        assert callable(change)
        try:
            project: Project = change()
        except AvrinError as error:
            if field is not None:
                field.mark(True)
            self.editor.say(str(error), error=True)
            return
        self.editor.do(seal)
        self.editor.do(edit, project, what)
        self.written.emit()

    def _added(self, code: str) -> None:
        plain = code.strip()
        before = self.editor.now.project
        self._edit(self.new_code, lambda: language_added(before, plain), f"language {plain}")
        if self.editor.now.project is not before:
            self.open_under(self, plain)

    def _set_font(self, font: str) -> None:
        project = self.editor.now.project
        self._edit(self.font_field, lambda: language_written(project, self.code, font=font), f"font of {self.code}")

    def _turned(self) -> None:
        project = self.editor.now.project
        known = next((one.mirror for one in project.languages if one.code == self.code), False)
        self._edit(None, lambda: language_written(project, self.code, mirror=not known), f"direction of {self.code}")
        self.mirror.set_text("as it is" if known else "mirrored")

    def _removed(self) -> None:
        project = self.editor.now.project
        self._edit(None, lambda: language_removed(project, self.code), f"removal of language {self.code}")
        self.close_it()
