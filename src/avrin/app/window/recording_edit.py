"""What is said of a recording, edited in place under the header: its name and note, and how it tells the time."""

from __future__ import annotations

from msgspec.structs import replace
from PySide6.QtWidgets import QGridLayout, QWidget

from avrin.app.controls.field import Field
from avrin.app.controls.inked import inked
from avrin.app.controls.link import Link
from avrin.app.controls.popup import Popup, row
from avrin.app.session.session import Session
from avrin.model import AvrinError, Recording

__all__ = ["TraceEdit"]

UNITS = ("", "s", "ms", "us", "frames")
WORDS = {"": "guess", "s": "seconds", "ms": "ms", "us": "µs", "frames": "frames"}


class TraceEdit(Popup):
    """Each field is an edit of the project; what it says of the time is tried on the recording at once."""

    def __init__(self, session: Session, parent: QWidget) -> None:
        super().__init__(parent)
        self.session = session
        self.fields = {
            "name": Field("name", 180), "note": Field("note", 330), "time": Field("time column", 110),
            "rate": Field("frames a second", 60), "run": Field("run column", 110),
        }  # fmt: skip
        for name, field in self.fields.items():
            field.taken.connect(lambda text, name=name: self._taken(name, text))
            field.left.connect(self.setFocus)
        self.fields["time"].setPlaceholderText("guessed")
        self.fields["run"].setPlaceholderText("guessed")
        self.fields["rate"].setPlaceholderText("60")
        self._units = {unit: Link(WORDS[unit], lambda unit=unit: self._say(unit=unit)) for unit in UNITS}  # type: ignore[misc]
        self._told = inked(size="small")
        self._build()
        for signal in (session.project_changed, session.trace_changed):
            signal.connect(self._refresh)

    def _build(self) -> None:
        grid = QGridLayout(self)
        grid.setContentsMargins(16, 10, 12, 12)
        grid.setHorizontalSpacing(10)
        grid.setVerticalSpacing(6)
        f = self.fields
        lines = (
            ("called", (f["name"], None, Link("done", self.close_it, bold=True))),
            ("note", (f["note"], None)),
            ("time", (f["time"], *self._units.values(), None)),
            ("a second", (f["rate"], "runs by", f["run"], None)),
        )
        for number, (label, parts) in enumerate(lines):
            grid.addWidget(inked(label, size="small"), number, 0)
            grid.addLayout(row(*parts), number, 1)
        grid.addWidget(self._told, len(lines), 1)

    @property
    def recording(self) -> Recording | None:
        """What the project says of the recording that is looked at."""
        return self.session.project.recording(self.session.trace_name)

    def open_it(self) -> None:
        """Edit what is said of the present recording."""
        self._refresh()
        if self.recording is None:
            self.session.said.emit("This recording lies in no file yet: keep it first", True)
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
            value = getattr(recording, name)
            field.show_text(f"{value:g}" if isinstance(value, float) and value else str(value or ""))
        if not recording.name:
            self.fields["name"].setPlaceholderText(recording.title)
        for unit, link in self._units.items():
            link.set_chosen(unit == recording.unit)
        clock = self.session.trace.clock
        self._told.setText(str(clock) if clock is not None else "")

    def _taken(self, name: str, text: str) -> None:
        text = text.strip()
        if name in ("name", "note"):
            self._edit(**{name: text})
        elif name != "rate":
            self._say(**{name: text})
        else:
            try:
                rate = float(text or 0)
                if not 0 <= rate <= 100_000:
                    raise ValueError(text)
            except ValueError:
                self.fields["rate"].mark(True)
                self.session.said.emit(f"'{text}' is no number of frames a second", True)
                return
            self._say(rate=rate)

    def _edit(self, **changes: object) -> None:
        session, recording = self.session, self.recording
        if recording is not None:
            changed = replace(recording, **changes)
            traces = tuple(changed if r.key == recording.key else r for r in session.project.traces)
            session.edit(replace(session.project, traces=traces), f"what is said of {recording.title}")
            session.view_changed.emit()

    def _say(self, **changes: object) -> None:
        """How the recording tells the time: read it so, and keep it if it can be read so."""
        recording = self.recording
        if recording is None:
            return
        try:
            self.session.files.say(recording.key, **changes)
        except AvrinError as error:
            for name in changes:
                if name in self.fields:
                    self.fields[name].mark(True)
            self.session.said.emit(str(error), True)
