"""Edit a recording's entry in a popup below the header: name, note and clock."""

from __future__ import annotations

import math
from functools import partial

from msgspec.structs import replace
from PySide6.QtWidgets import QGridLayout, QWidget

from avrin.app.controls.field import Field
from avrin.app.controls.labels import text_label
from avrin.app.controls.link import Link
from avrin.app.controls.number_field import NumberField
from avrin.app.controls.popup import Popup, row
from avrin.app.services.editor import Editor
from avrin.app.services.traces import Traces
from avrin.binding.own_examples import own_example
from avrin.editor.changes import Change
from avrin.editor.edits import edit
from avrin.edits.typed import NumberInput
from avrin.errors import AvrinError, nearest
from avrin.project.project import Project, Recording
from avrin.render.values import format_value

__all__ = ["TraceEdit"]

RATE = NumberInput("a number of frames per second", "60", low=0, high=100_000, empty=0)
UNITS = ("", "s", "ms", "us", "frames")
FLAGS = {"yes": True, "no": False, "true": True, "false": False}
WORDS = {"": "guess", "s": "seconds", "ms": "ms", "us": "µs", "frames": "frames"}


class TraceEdit(Popup):
    """Each field is one edit; a change of the clock is applied to the recording at once."""

    def __init__(self, editor: Editor, traces: Traces, parent: QWidget) -> None:
        super().__init__(parent)
        self.editor = editor
        self._traces = traces
        self.rate = NumberField("frames per second", 60, RATE, editor.show_error)
        self.rate.entered.connect(lambda rate: self._say(rate=rate))
        self.fields: dict[str, Field] = {
            "name": Field("name", 180), "note": Field("note", 330), "time": Field("time column", 110),
            "rate": self.rate, "run": Field("run column", 110),
            "starts": Field("starts with", 330),
        }  # fmt: skip
        for name, field in self.fields.items():
            if field is not self.rate:
                field.taken.connect(lambda text, name=name: self._taken(name, text))
            field.exited.connect(self.setFocus)
        self.fields["time"].setPlaceholderText("guessed")
        self.fields["run"].setPlaceholderText("guessed")
        self.fields["rate"].setPlaceholderText("60")
        example = own_example("hull 50, leak yes", editor.now.project)
        self.fields["starts"].setPlaceholderText(f"as recorded; or for example  {example}")
        self.fields["starts"].setToolTip("Start values of its runs; recorded changes apply on top")
        self._units = {unit: Link(WORDS[unit], lambda unit=unit: self._say(unit=unit)) for unit in UNITS}  # type: ignore[misc]
        self._told = text_label(size="small")
        self._build()
        editor.follow("popups", self)

    def on_change(self, change: Change) -> None:
        """Show the entry as it is now."""
        if change.of("recording", "tracks"):
            self._refresh()

    def _build(self) -> None:
        grid = QGridLayout(self)
        grid.setContentsMargins(16, 10, 12, 12)
        grid.setHorizontalSpacing(10)
        grid.setVerticalSpacing(6)
        f = self.fields
        lines = (
            ("name", (f["name"], None, Link("done", self.close_it, bold=True))),
            ("note", (f["note"], None)),
            ("time", (f["time"], *self._units.values(), None)),
            ("a second", (f["rate"], "runs by", f["run"], None)),
            ("starts with", (f["starts"], None)),
        )
        for number, (label, parts) in enumerate(lines):
            grid.addWidget(text_label(label, size="small"), number, 0)
            grid.addLayout(row(*parts), number, 1)
        grid.addWidget(self._told, len(lines), 1)
        acts = (
            Link("add a variant", self._another_case, bold=True), Link("earlier", partial(self._move, -1), bold=True),
            Link("later", partial(self._move, 1), bold=True), Link("remove", self._remove, bold=True),
        )  # fmt: skip
        acts[0].setToolTip("The same recording with other start values")
        acts[3].setToolTip("Removes it from the project; its file remains")
        grid.addLayout(row(*acts, None), len(lines) + 1, 1)

    @property
    def recording(self) -> Recording | None:
        """The project's entry for the visible recording."""
        return self.editor.now.project.recording(self.editor.now.trace_name)

    def open_it(self) -> None:
        """Edit the visible recording's entry."""
        self._refresh()
        if self.recording is None:
            self.editor.say("Save this recording first: it has no file yet", error=True)
            return
        self.adjustSize()
        parent = self.parentWidget()
        if parent is not None:
            self.move(parent.width() - self.width() - 16, 46)
        self.show()
        self.raise_()
        self.fields["name"].setFocus()
        self.fields["name"].selectAll()

    def _refresh(self) -> None:
        recording = self.recording
        if recording is None:
            self.close_it()
            return
        for name, field in self.fields.items():
            if name == "starts":
                field.show_text(", ".join(f"{key} {format_value(value)}" for key, value in recording.starts.items()))
                continue
            value = getattr(recording, name)
            field.show_text(f"{value:g}" if isinstance(value, float) and value else str(value or ""))
        if not recording.name:
            self.fields["name"].setPlaceholderText(recording.title)
        for unit, link in self._units.items():
            link.set_chosen(unit == recording.unit)
        clock = self.editor.now.trace.clock
        self._told.setText(str(clock) if clock is not None else "")

    def _taken(self, name: str, text: str) -> None:
        text = text.strip()
        if name in ("name", "note"):
            self._edit(**{name: text})
        elif name == "starts":
            try:
                self._say(starts=_starts(text, self.editor.now.project))
            except AvrinError as error:
                self.fields["starts"].mark(True)
                self.editor.say(str(error), error=True)
        else:
            self._say(**{name: text})

    def _another_case(self) -> None:
        """Add the same recording with other start values, to be entered."""
        editor, recording = self.editor, self.recording
        if recording is None:
            return
        number, known = 2, {one.case for one in editor.now.project.traces if one.path == recording.path}
        while (case := f"case {number}") in known:
            number += 1
        made = replace(recording, case=case, name="", note="")
        at = editor.now.project.traces.index(recording) + 1
        traces = (*editor.now.project.traces[:at], made, *editor.now.project.traces[at:])
        editor.do(edit, replace(editor.now.project, traces=traces), f"variant of {recording.title}")
        self._show(made.key)
        self.fields["starts"].setFocus()

    def _move(self, by: int) -> None:
        """Move it up or down in the project's list; the first is shown when the project is opened."""
        editor, recording = self.editor, self.recording
        if recording is None:
            return
        rest = [one for one in editor.now.project.traces if one.key != recording.key]
        at = min(max(0, editor.now.project.traces.index(recording) + by), len(rest))
        rest.insert(at, recording)
        editor.do(edit, replace(editor.now.project, traces=tuple(rest)), f"order of {recording.title}")
        editor.say(f"{recording.title} is number {at + 1} of {len(rest)}")

    def _remove(self) -> None:
        editor, recording = self.editor, self.recording
        if recording is not None:
            self.close_it()
            self._traces.remove(recording.key)
            editor.say(f"{recording.title} was removed from the project.  Ctrl+Z restores it")

    def _show(self, key: str) -> None:
        try:
            self._traces.show(key)
        except AvrinError as error:
            self.editor.say(str(error), error=True)

    def _edit(self, **changes: object) -> None:
        editor, recording = self.editor, self.recording
        if recording is not None:
            changed = replace(recording, **changes)
            traces = tuple(changed if r.key == recording.key else r for r in editor.now.project.traces)
            editor.do(edit, replace(editor.now.project, traces=traces), f"settings of {recording.title}")

    def _say(self, **changes: object) -> None:
        """Change the clock: read the recording with it, and apply it if that succeeds."""
        recording = self.recording
        if recording is None:
            return
        try:
            self._traces.say(recording.key, **changes)
        except AvrinError as error:
            for name in changes:
                if name in self.fields:
                    self.fields[name].mark(True)
            self.editor.say(str(error), error=True)


def _starts(text: str, project: Project) -> dict[str, float | str | bool]:
    """Parse `hull 50, leak yes` to values by name. Raises AvrinError for an unknown variable or a value of the wrong type."""
    known, found = project.all_variables(), dict[str, float | str | bool]()
    for part in filter(None, (one.strip() for one in text.split(","))):
        name, _, value = part.partition(" ")
        variable, value = known.get(name), value.strip().strip('"')
        if variable is None:
            close = nearest(name, known)
            raise AvrinError(f"no variable '{name}'" + (f": did you mean '{close}'?" if close else ""))
        if variable.type == "text":
            found[name] = value
        elif variable.type == "bool" and value.lower() in FLAGS:
            found[name] = FLAGS[value.lower()]
        else:
            found[name] = _number(name, value)
    return found


def _number(name: str, value: str) -> float:
    try:
        number = float(value)
    except ValueError:
        number = math.nan
    if not math.isfinite(number):
        raise AvrinError(f"'{value}' is not a start value for {name}", advice=f"Write for example {name} 50")
    return number
