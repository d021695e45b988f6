"""Edit the visible plate and screen in popups below the header."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from typing import get_args

from PySide6.QtCore import QPoint, Qt, Signal
from PySide6.QtWidgets import QGridLayout, QWidget

from avrin.app.bind_desk.picture.hud_view import HudView
from avrin.app.bind_desk.picture.zones import Zones
from avrin.app.controls.choice import Choice
from avrin.app.controls.field import Field
from avrin.app.controls.labels import text_label
from avrin.app.controls.link import Link
from avrin.app.controls.number_field import NumberField
from avrin.app.controls.popup import Popup, row
from avrin.app.services.editor import Editor
from avrin.app.services.files import Files
from avrin.app.services.video_decoder import VideoDecoder
from avrin.app.window.film_strip import FilmStrip
from avrin.binding.places import RulePlace
from avrin.editor.changes import Change
from avrin.editor.edits import edit, seal, set_rule
from avrin.editor.viewing import show_on, show_over
from avrin.edits.scenery import (
    SPLITS,
    film_of_recording,
    film_paced,
    film_timed,
    plate_called,
    plate_proportioned,
    plate_removed,
    screen_called,
    screen_removed,
    screen_seen,
    screen_sized,
    screen_split,
    split_of,
    view_changed,
)
from avrin.edits.typed import PIXELS, SIDE, NumberInput
from avrin.errors import AvrinError
from avrin.project.numbers import counted
from avrin.project.project import Plate, Project, Proportions, Region, Screen, ScreenPart

__all__ = ["PlateEdit", "ScreenEdit"]

ANY = "any recording"
FILM_TIME = NumberInput("a number of seconds", "-12.5", unit="s", empty=0)
FILM_RATE = NumberInput("a number of pictures per second", "30", empty=0)
SHARE = NumberInput("a share of a side", "5", unit="%")
SEEN = NumberInput("a number", "2.5", unit="%", empty=0)
SLOT = NumberInput("a slot", "0", low=0, whole=True)
MOST_VIEWS = 4  # parts of a screen with a row each


class _Edit(Popup):
    """A popup below the control that opened it."""

    def __init__(self, editor: Editor, parent: QWidget) -> None:
        super().__init__(parent)
        self.editor = editor
        self.grid = QGridLayout(self)
        self.grid.setContentsMargins(16, 10, 12, 12)
        self.grid.setHorizontalSpacing(10)
        self.grid.setVerticalSpacing(6)
        editor.follow("popups", self)

    def on_change(self, change: Change) -> None:
        """Show it as it is now."""
        if change.of("view", "tracks"):
            self.show_it()

    def line(self, label: str, *parts: QWidget) -> list[QWidget]:
        """Add a row to the popup; return its widgets."""
        at, name = self.grid.rowCount(), text_label(label, size="small")
        self.grid.addWidget(name, at, 0)
        for column, part in enumerate(parts, start=1):
            self.grid.addWidget(part, at, column, Qt.AlignmentFlag.AlignLeft)
        return [name, *parts]

    def show_it(self) -> None:
        """Show the current state."""

    def open_under(self, link: QWidget) -> None:
        """Edit the visible plate or screen."""
        self.show_it()
        parent = self.parentWidget()
        assert parent is not None
        self.adjustSize()
        self.move(link.mapTo(parent, QPoint(link.width() - self.width(), link.height() + 4)))
        self.fit()
        self.show()
        self.raise_()

    def fit(self) -> None:
        """Resize to the content, within the window."""
        parent = self.parentWidget()
        assert parent is not None
        self.adjustSize()
        self.move(max(8, min(self.x(), parent.width() - self.width() - 8)), self.y())

    def taken(self, field: Field, change: Callable[[], Project], what: str) -> bool:
        """Make an edit; mark the field if its text is invalid."""
        try:
            project = change()
        except AvrinError as error:
            field.mark(True)
            self.editor.say(str(error), error=True)
            return False
        self.editor.do(seal)
        self.editor.do(edit, project, what)
        return True


class PlateEdit(_Edit):
    """While it is open, zones are edited in the picture."""

    def __init__(self, editor: Editor, files: Files, video: VideoDecoder, hud: HudView, parent: QWidget) -> None:
        super().__init__(editor, parent)
        self._files, self._video = files, video
        self._hud = hud
        self.name = Field("name of the plate", 150)
        self.name.taken.connect(self._rename)
        self.name.exited.connect(self.setFocus)
        self._zones = text_label("", size="small")
        self._drawn = Zones(editor, self._chosen)
        self.zone = Field("name of the zone", 150)
        self.zone.setPlaceholderText("name of the zone")
        self.zone.taken.connect(self._drawn.call)
        self.zone.exited.connect(self._hud.setFocus)
        self.box = [
            NumberField(f"{side} of the zone", 52, PIXELS, editor.show_error)
            for side in ("left", "top", "width", "height")
        ]
        for at, field in enumerate(self.box):
            field.entered.connect(partial(self._boxed, at))
            field.exited.connect(self._hud.setFocus)
        self.follows = {axis: Field(f"{axis} of the position the zone follows", 104) for axis in "xy"}
        for axis, rule_field in self.follows.items():
            rule_field.setPlaceholderText("fixed")
            rule_field.setToolTip(
                f"A rule, such as boat_{axis}, in reference pixels; or drag a position from its lane onto the zone"
            )
            rule_field.taken.connect(partial(self._drawn.follow, axis))
            rule_field.exited.connect(self._hud.setFocus)
        moves = QWidget()
        moves.setLayout(row("follows", self.follows["x"], "and", self.follows["y"], None))
        self._moves = moves
        numbers = QWidget()
        numbers.setLayout(row(self.box[0], self.box[1], "size", self.box[2], self.box[3], None))
        self._numbers = numbers
        self.when = Field("shown while", 236)
        self.when.setPlaceholderText("when chosen")
        self.when.setToolTip('A rule, such as map == "reef": the recording then selects the plate')
        self.when.taken.connect(self._shown)
        self.when.exited.connect(self.setFocus)
        self.proportions = Choice("proportions of the plate", get_args(Proportions))
        self.proportions.setToolTip(
            "On a screen of another shape: keep its own inside it, cover the screen, its own pixels, or stretch it"
        )
        self.proportions.taken.connect(self._proportioned)
        self._make_film_parts()
        self.line("name", self.name)
        self.line("shown while", self.when)
        self.line("proportions", self.proportions)
        self._film_lines = [
            *self.line("the film", self.film), *self.line("", self._moment), *self.line("pictures per second", self.rate)
        ]  # fmt: skip
        self.line("zones", self._zones)
        self.line("", self.zone)
        self.line("", numbers)
        self.line("", moves)
        self.line("", Link("remove it", self._remove, bold=True), Link("done", self.close_it, bold=True))

    def _make_film_parts(self) -> None:
        self.film = FilmStrip(self.editor, self._video)
        self.recording = Choice("recording of the film", [ANY])
        self.recording.taken.connect(self._made_with)
        self.offset = NumberField("film time at the start of the recording", 70, FILM_TIME, self.editor.show_error)
        self.offset.entered.connect(partial(self._filmed, self.offset, film_timed, "start of the film"))
        self.rate = NumberField("pictures per second", 60, FILM_RATE, self.editor.show_error)
        self.rate.setPlaceholderText("30")
        self.rate.entered.connect(partial(self._filmed, self.rate, film_paced, "pace of"))
        for field in (self.offset, self.rate):
            field.exited.connect(self.film.setFocus)
        self._moment = QWidget()
        self._moment.setLayout(row(self.offset, "s of it at the start of", self.recording, None))

    def open_under(self, link: QWidget) -> None:
        if self.editor.now.plate is not None:
            super().open_under(link)
            self._drawn.chosen = None
            self._hud.edit_zones(self._drawn)

    def close_it(self) -> None:
        super().close_it()
        self._hud.edit_zones(None)
        self._hud.setFocus()

    def show_it(self) -> None:
        plate = self.editor.now.plate
        if plate is None:
            if self.isVisible():
                self.close_it()
            return
        self.name.show_text(plate.name)
        self.when.show_text(plate.when)
        self.when.mark(RulePlace("plate", plate.name, "when") in self.editor.now.bound.errors)
        self.proportions.show_value(plate.proportions)
        self._show_film(plate)
        count = len(plate.keep_clear)
        zones = counted(count, "zone") if count else "nothing yet"
        self._zones.setText(f"{zones}: drag in the picture to draw one,\npress one to move it, Delete removes it")
        self._chosen()

    def _show_film(self, plate: Plate) -> None:
        numbered = "#" in plate.film
        for part in self._film_lines:
            part.setVisible(bool(plate.film))
        for part in self._film_lines[-2:]:
            part.setVisible(numbered)
        if not plate.film:
            return
        keys = {one.key: self.editor.now.project.recording_name(one.key) for one in self.editor.now.project.traces}
        self._keys = {ANY: "", **{name: key for key, name in keys.items()}}
        if plate.trace and plate.trace not in keys:
            self._keys[f"{plate.trace}, which was removed"] = plate.trace
        self.recording.offer(list(self._keys))
        self.recording.show_value(next(name for name, key in self._keys.items() if key == plate.trace))
        self.offset.show_text(f"{plate.offset:g}")
        self.rate.show_text(f"{plate.rate:g}" if plate.rate else "")
        self.film.setEnabled(self.film.belongs)
        self.film.update()

    def _proportioned(self, proportions: Proportions) -> None:
        editor = self.editor
        editor.do(seal)
        made = plate_proportioned(editor.now.project, self._name, proportions)
        editor.do(edit, made, f"proportions of {self._name}")

    def _made_with(self, name: object) -> None:
        editor = self.editor
        editor.do(seal)
        made = film_of_recording(editor.now.project, self._name, self._keys[str(name)])
        editor.do(edit, made, f"recording of the film {self._name}")

    def _filmed(self, field: Field, change: Callable[[Project, str, float], Project], what: str, number: float) -> None:
        """Apply a number of the film."""
        self.taken(field, lambda: change(self.editor.now.project, self._name, number), f"{what} {self._name}")

    def _chosen(self) -> None:
        """Enable naming for the selected zone."""
        zone = self._drawn.zone
        for part in (self.zone, self._numbers, self._moves):
            part.setVisible(zone is not None)
        if zone is not None:
            self.zone.show_text(zone.name)
            for axis, rule in self.follows.items():
                rule.show_text(getattr(zone, axis))
                place = RulePlace("plate", self._name, "zones", str(self._drawn.chosen), axis)
                rule.mark(place in self.editor.now.bound.errors)
            for field, number in zip(self.box, zone.box, strict=True):
                field.show_text(f"{number:g}")
        self.fit()

    def _boxed(self, at: int, number: float) -> None:
        """Apply one of the selected zone's four numbers."""
        zone = self._drawn.zone
        if zone is not None:
            x, y, wide, high = (number if i == at else side for i, side in enumerate(zone.box))
            self._drawn.place((x, y, wide, high))

    def _rename(self, text: str) -> None:
        editor = self.editor
        assert editor.now.plate is not None
        at = [plate.name for plate in editor.now.project.plates].index(editor.now.plate.name)
        if self.taken(self.name, lambda: plate_called(editor.now.project, self._name, text), f"name of {self._name}"):
            editor.do(show_over, editor.now.project.plates[at])

    def _shown(self, text: str) -> None:
        """Set the rule by which the plate is shown; recorded names it uses are declared."""
        editor, place = self.editor, RulePlace("plate", self._name, "when")
        editor.do(seal)
        editor.do(set_rule, place, text.strip())
        error = editor.now.bound.errors.get(place)
        if error is not None:
            editor.say(str(error), error=True)

    @property
    def _name(self) -> str:
        return self.editor.now.plate.name if self.editor.now.plate is not None else ""

    def _remove(self) -> None:
        editor, name = self.editor, self._name
        self.close_it()
        editor.do(edit, plate_removed(editor.now.project, name), f"removal of plate {name}")
        editor.say(f"Removed plate {name}; its picture stays in the folder.  Ctrl+Z restores it")


class _ViewLine(QWidget):
    """A part of a split screen: its name, its player's slot, its box in percent. said: typed text, by field."""

    reported = Signal(int, str, str)
    exited = Signal()

    def __init__(self, number: int) -> None:
        super().__init__()
        self.fields = {
            "name": Field(f"name of part {number + 1}", 104), "slot": Field(f"slot of part {number + 1}", 40),
            "box": Field(f"left, top, width and height of part {number + 1}, percent", 118),
        }  # fmt: skip
        for what, field in self.fields.items():
            field.taken.connect(partial(self.reported.emit, number, what))
            field.exited.connect(self.exited)
        self.setLayout(row(self.fields["name"], "slot", self.fields["slot"], "at", self.fields["box"], "%", None))

    def show_view(self, view: Region) -> None:
        """Show the current state."""
        self.fields["name"].show_text(view.name)
        self.fields["slot"].show_text(str(view.slot))
        self.fields["box"].show_text(", ".join(f"{share * 100:g}" for share in view.box))


def _as_view(what: str, text: str) -> object:
    """Parse a field of a part. Raises AvrinError."""
    if what == "name":
        return " ".join(text.split())
    if what == "slot":
        return int(SLOT.parse(text))
    try:
        shares = [float(word) / 100 for word in text.replace("%", "").split(",")]
    except ValueError:
        shares = []
    if len(shares) != 4:
        raise AvrinError(
            f"'{text}' is not an area of a screen", advice="Write left, top, width and height, as 0, 0, 50, 100"
        )
    return tuple(shares)


class ScreenEdit(_Edit):
    """Each field is one edit."""

    def __init__(self, editor: Editor, parent: QWidget) -> None:
        super().__init__(editor, parent)
        self.name = Field("name of the screen", 130)
        self.wide, self.high = (NumberField(side, 60, SIDE, editor.show_error) for side in ("width", "height"))
        self.safe = NumberField("safe margin, percent", 60, SHARE, editor.show_error)
        self.name.taken.connect(self._rename)
        for field in (self.wide, self.high):
            field.entered.connect(partial(self._sized, field))
        self.safe.entered.connect(self._edged)
        self.seen = {
            what: NumberField(f"{what} of the screen", 60, SEEN, editor.show_error)
            for what in ("scale", "inches", "metres")
        }
        self.seen["scale"].setToolTip("The player's HUD scale, applied at each widget's anchor")
        self.seen["metres"].setToolTip("Viewing distance: together with the inches it determines what is legible")
        for what, field in self.seen.items():
            field.entered.connect(partial(self._looked_at, what))
        for part in (self.name, self.wide, self.high, self.safe, *self.seen.values()):
            part.exited.connect(self.setFocus)
        self.line("name", self.name)
        self.line("pixels wide", self.wide)
        self.line("pixels high", self.high)
        self.line("safe margin, %", self.safe)
        self.line("player's size, %", self.seen["scale"])
        self.line("inches, diagonal", self.seen["inches"])
        self.line("viewing distance, m", self.seen["metres"])
        self.split = Choice("how the screen is split", [*SPLITS])
        self.split.taken.connect(self._split)
        self.line("for players", self.split)
        self.views = [_ViewLine(number) for number in range(MOST_VIEWS)]
        self._view_lines = [self.line("", view) for view in self.views]
        for view in self.views:
            view.reported.connect(self._set_view)
            view.exited.connect(self.setFocus)
        self.line("", Link("remove it", self._remove, bold=True), Link("done", self.close_it, bold=True))

    def show_it(self) -> None:
        screen = self.edited
        self.name.show_text(screen.name)
        self.wide.show_text(str(screen.size[0]))
        self.high.show_text(str(screen.size[1]))
        self.safe.show_text(f"{screen.safe * 100:g}")
        self.seen["scale"].show_text(f"{screen.scale * 100:g}")
        for what in ("inches", "metres"):
            number = getattr(screen, what)
            self.seen[what].show_text(f"{number:g}" if number else "")
        how = split_of(screen)
        self.split.offer([*SPLITS, *([how] if how not in SPLITS else [])])
        self.split.show_value(how)
        for number, (view, parts) in enumerate(zip(self.views, self._view_lines, strict=True)):
            there = number < len(screen.views)
            for part in parts:
                part.setVisible(there)
            if there:
                view.show_view(screen.views[number])
        self.fit()

    @property
    def edited(self) -> Screen:
        """The visible screen, or the one a visible part belongs to."""
        shown = self.editor.now.view.screen
        name = shown.of if isinstance(shown, ScreenPart) else shown.name
        return next((one for one in self.editor.now.project.screens if one.name == name), shown)

    def _split(self, how: object) -> None:
        editor, name = self.editor, self.edited.name
        if str(how) in SPLITS:
            editor.do(seal)
            editor.do(edit, screen_split(editor.now.project, name, str(how)), f"split of screen {name}")

    def _set_view(self, number: int, what: str, text: str) -> None:
        """Apply a part's name, slot or box."""
        editor, name = self.editor, self.edited.name

        def made() -> Project:
            return view_changed(editor.now.project, name, number, **{what: _as_view(what, text)})

        self.taken(self.views[number].fields[what], made, f"{what} of a part of {name}")

    def _rename(self, text: str) -> None:
        editor = self.editor
        name = self.edited.name
        at = [one.name for one in editor.now.project.screens].index(name)
        if self.taken(self.name, lambda: screen_called(editor.now.project, name, text), f"name of screen {name}"):
            renamed = editor.now.project.screens[at]
            editor.do(show_on, next(iter(renamed.parts), renamed))

    def _sized(self, field: Field, _number: float) -> None:
        project, name, wide, high = self.editor.now.project, self.edited.name, self.wide.read(), self.high.read()
        if wide is not None and high is not None:
            size = (int(wide), int(high))
            self.taken(field, lambda: screen_sized(project, name, size), f"size of screen {name}")

    def _edged(self, percent: float) -> None:
        project, name = self.editor.now.project, self.edited.name
        self.taken(self.safe, lambda: screen_sized(project, name, safe=percent / 100), f"edge of screen {name}")

    def _looked_at(self, what: str, number: float) -> None:
        project, name = self.editor.now.project, self.edited.name
        value = number / 100 if what == "scale" else number
        self.taken(self.seen[what], lambda: screen_seen(project, name, what, value), f"{what} of screen {name}")

    def _remove(self) -> None:
        editor, name = self.editor, self.edited.name
        self.close_it()
        editor.do(edit, screen_removed(editor.now.project, name), f"removal of screen {name}")
        editor.say(f"Removed screen {name}.  Ctrl+Z restores it")
