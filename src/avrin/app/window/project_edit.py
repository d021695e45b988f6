"""Edit the project's settings in a popup: title, reference size, placeholder, device."""

from __future__ import annotations

from typing import get_args

from msgspec.structs import replace
from PySide6.QtCore import QPoint, Qt
from PySide6.QtWidgets import QGridLayout, QWidget

from avrin.app.controls.choice import Choice
from avrin.app.controls.field import Field
from avrin.app.controls.labels import text_label
from avrin.app.controls.link import Link
from avrin.app.controls.number_field import NumberField
from avrin.app.controls.popup import Popup
from avrin.app.services.editor import Editor
from avrin.binding.places import RulePlace
from avrin.editor.changes import Change
from avrin.editor.edits import edit, seal, set_rule
from avrin.edits.typed import NumberInput
from avrin.project.project import Fit

__all__ = ["ProjectEdit"]

DEVICE = RulePlace("project", "device")
NOBODY = "not told apart"
LARGEST = 16_384  # pixels
REFERENCE_SIDE = NumberInput(f"a side of 1 to {LARGEST:,} pixels", "1920", low=1, high=LARGEST, whole=True)
ANGLE = NumberInput("an angle of 0 to 120 minutes of arc", "16", low=0, high=120)
LONGEST = {"title": 80, "placeholder": 40}
FITS: dict[str, str] = {
    "height": "with the screen's height", "width": "with its width", "smaller": "with the smaller of both",
    "none": "not at all",
}  # fmt: skip


class ProjectEdit(Popup):
    """Each field is one edit."""

    def __init__(self, editor: Editor, parent: QWidget) -> None:
        super().__init__(parent)
        self.editor = editor
        self.title = Field("title of the project", 190)
        self.wide, self.high = (
            NumberField(f"reference {side}", 60, REFERENCE_SIDE, editor.show_error) for side in ("width", "height")
        )
        self.placeholder = Field("placeholder", 90)
        self.fit = Choice("widgets scale", [FITS[fit] for fit in get_args(Fit)])
        self.device = Field("device", 190)
        self.device.setPlaceholderText('a rule, such as device, or "gamepad"')
        self.device.setToolTip("The input device as a text: prompts show its keys")
        self.device.taken.connect(self._held)
        self.players = Choice("players", [NOBODY])
        self.players.setToolTip("A roster whose slots are players: rules know the viewer's slot as me")
        self.players.taken.connect(
            lambda name: self._edit_project("players", players="" if name == NOBODY else str(name))
        )
        self.legible = NumberField("legible from", 60, ANGLE, editor.show_error)
        self.legible.setToolTip(
            "Smallest height of a capital letter in minutes of arc, on screens with a viewing distance"
        )
        self.legible.entered.connect(self._read_from)
        self.title.taken.connect(lambda text: self._set_field("title", text))
        self.placeholder.taken.connect(lambda text: self._set_field("placeholder", text))
        for field in (self.wide, self.high):
            field.entered.connect(self._sized)
        self.fit.taken.connect(self._fitted)
        grid = QGridLayout(self)
        grid.setContentsMargins(16, 10, 12, 12)
        grid.setHorizontalSpacing(10)
        grid.setVerticalSpacing(6)
        lines: tuple[tuple[str, QWidget, QWidget | None], ...] = (
            ("name", self.title, None), ("designed for", self.wide, self.high), ("widgets scale", self.fit, None),
            ("missing is", self.placeholder, None), ("device is", self.device, None),
            ("players are", self.players, None), ("legible, arc min", self.legible, None),
        )  # fmt: skip
        for at, (said, first, second) in enumerate(lines):
            grid.addWidget(text_label(said, size="small"), at, 0)
            wide = 2 if second is None else 1
            grid.addWidget(first, at, 1, 1, wide, Qt.AlignmentFlag.AlignLeft)
            if second is not None:
                grid.addWidget(second, at, 2, Qt.AlignmentFlag.AlignLeft)
        self.problem = text_label("", "critical", "small", wrap=True)
        self.problem.hide()
        grid.addWidget(self.problem, len(lines) + 1, 0, 1, 3)
        grid.addWidget(Link("done", self.close_it, bold=True), len(lines), 2, Qt.AlignmentFlag.AlignRight)
        for part in (self.title, self.wide, self.high, self.placeholder, self.device, self.legible):
            part.exited.connect(self.setFocus)
        editor.follow("popups", self)

    def on_change(self, change: Change) -> None:
        """Show the project as it is now."""
        if change.of("tracks"):
            self._show()

    def open_under(self, link: QWidget) -> None:
        """Open below the window's title."""
        self._show()
        self.adjustSize()
        parent = self.parentWidget()
        assert parent is not None
        self.move(link.mapTo(parent, QPoint(4, link.height() + 6)))
        self.show()
        self.raise_()
        self.title.setFocus()
        self.title.selectAll()

    def _show(self) -> None:
        project = self.editor.now.project
        self.title.show_text(project.title)
        self.wide.show_text(str(project.reference[0]))
        self.high.show_text(str(project.reference[1]))
        self.placeholder.show_text(project.placeholder)
        self.fit.show_value(FITS[project.fit])
        self.device.show_text(project.device)
        known = [roster.name for roster in project.rosters]
        self.players.offer([NOBODY, *known, *([project.players] if project.players not in ("", *known) else [])])
        self.players.show_value(project.players or NOBODY)
        self.legible.show_text(f"{project.legible:g}")
        error = self.editor.now.bound.errors.get(DEVICE)
        self.device.mark(error is not None)
        self.problem.setVisible(error is not None)
        self.problem.setText(str(error) if error is not None else "")
        self.adjustSize()

    def _set_field(self, what: str, text: str) -> None:
        plain = " ".join(text.split())
        if len(plain) > LONGEST[what] or (what == "title" and not plain):
            field = self.title if what == "title" else self.placeholder
            field.mark(True)
            self.editor.say(f"A {what} has 1 to {LONGEST[what]} letters", error=True)
            return
        self._edit_project(what, **{what: plain})

    def _read_from(self, number: float) -> None:
        self._edit_project("legible size", legible=number)

    def _held(self, text: str) -> None:
        self.editor.do(seal)
        self.editor.do(set_rule, DEVICE, text.strip())

    def _sized(self, _number: float) -> None:
        wide, high = self.wide.read(), self.high.read()
        if wide is not None and high is not None:
            self._edit_project("reference", reference=(int(wide), int(high)))

    def _fitted(self, choice: object) -> None:
        self._edit_project("fit", fit=next(fit for fit, words in FITS.items() if words == choice))

    def _edit_project(self, what: str, **fields: object) -> None:
        self.editor.do(seal)
        self.editor.do(edit, replace(self.editor.now.project, **fields), f"{what} of the project")
