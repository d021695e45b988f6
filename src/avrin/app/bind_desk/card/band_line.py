"""A band on the card: its colour, name and limit, with further commands in a menu."""

from __future__ import annotations

from functools import partial

from PySide6.QtCore import QPoint, Signal
from PySide6.QtWidgets import QHBoxLayout, QLabel, QMenu, QVBoxLayout, QWidget

from avrin.app.bind_desk.card.colour_wish import ColourWish
from avrin.app.bind_desk.card.rule_row import LABELS, RuleRow
from avrin.app.controls.field import Field
from avrin.app.controls.link import Link
from avrin.app.controls.menu import new_menu
from avrin.app.controls.swatch import Swatch
from avrin.app.services.editor import Editor
from avrin.binding.places import BAND_RULES, RulePlace
from avrin.editor.edits import edit, seal, set_widget
from avrin.edits.bands import (
    band_coloured,
    band_first,
    band_part,
    band_removed,
    band_renamed,
    band_sticky,
    band_waiting,
)
from avrin.errors import AvrinError
from avrin.project.numbers import rule_number
from avrin.project.project import Band, Widget

__all__ = ["BandLine"]

NAME = 74
FLASHES = {"no flash": None, "flash twice a second": "0.5s", "flash once a second": "1s"}


class BandLine(QWidget):
    """rows: its rules, which the card updates."""

    colour_wanted = Signal(object)  # a ColourWish

    def __init__(self, editor: Editor, ident: str, band: Band) -> None:
        super().__init__()
        self.editor = editor
        self.ident = ident
        self.band = band
        self.rows: list[RuleRow] = []
        whole = QVBoxLayout(self)
        whole.setContentsMargins(LABELS - 4, 0, 0, 0)
        whole.setSpacing(4)
        row, waits = QHBoxLayout(), QHBoxLayout()
        for line in (row, waits):
            line.setSpacing(6)
            whole.addLayout(line)
        self.swatch = Swatch(f"colour of {band.name}", self._wish, 14)
        row.addWidget(self.swatch)
        self.name = Field(f"name of {band.name}", NAME)
        self.name.taken.connect(self._rename)
        self.name.exited.connect(self.setFocus)
        row.addWidget(self.name)
        for field in BAND_RULES:
            if getattr(band, field):
                part = RuleRow(editor, RulePlace("widget", ident, "bands", band.name, field), field, chips=False)
                part.layout().setColumnMinimumWidth(2, 0)  # type: ignore[union-attr]
                part.findChild(QLabel).setFixedWidth(38)  # type: ignore[union-attr]
                self.rows.append(part)
                (waits if field == "held" and band.back else row).addWidget(part, 1)  # three do not fit side by side
        self.more = Link("…", lambda: self.menu().popup(self.more.mapToGlobal(QPoint(0, self.more.height()))))
        self.more.setAccessibleName(f"more of {band.name}")
        row.addWidget(self.more)
        waits.setContentsMargins(self.swatch.minimumWidth() + NAME + 12, 0, self.more.sizeHint().width() + 6, 0)
        self.refresh()

    @property
    def _widget(self) -> Widget:
        return self.editor.now.project.widget(self.ident)

    @property
    def _look(self) -> dict[str, object]:
        bands = self._widget.look.get("bands")
        own = bands.get(self.band.name) if isinstance(bands, dict) else None
        return own if isinstance(own, dict) else {}

    def refresh(self) -> None:
        """Show the current state."""
        if any(band.name == self.band.name for band in self._widget.bands):
            self.name.show_text(self.band.name)
            self.swatch.show_colour(str(self._look.get(band_part(self._widget), "")))

    def menu(self) -> QMenu:
        """Return the menu of further commands."""
        menu, band = new_menu(self), next(one for one in self._widget.bands if one.name == self.band.name)
        if band.back:
            menu.addAction("Left at its limit", partial(self._edit_band, "stickiness", band_sticky, ""))
        elif band.below or band.above:
            menu.addAction("Left beyond its limit", partial(self._edit_band, "stickiness", band_sticky, _later(band)))
        if band.held:
            menu.addAction("Entered at once", partial(self._edit_band, "wait", band_waiting, ""))
        else:
            menu.addAction("Entered after it has lasted", partial(self._edit_band, "wait", band_waiting, "300ms"))
        for said, period in FLASHES.items():
            if period != self._look.get("flash"):
                menu.addAction(said.capitalize(), partial(self._edit_band, "flash", band_coloured, "flash", period))
        if self._widget.bands[0].name != band.name:
            menu.addAction("Move up", partial(self._edit_band, "order", band_first))
        menu.addSeparator()
        menu.addAction("Remove", partial(self._edit_band, "removal", band_removed))
        return menu

    def _edit_band(self, what: str, change: object, *more: object) -> None:
        widget = change(self._widget, self.band.name, *more)  # type: ignore[operator]
        self.editor.do(seal)
        self.editor.do(set_widget, widget, f"{what} of band {self.band.name}")

    def _wish(self) -> None:
        name, part = self.band.name, band_part(self._widget)

        def made(widget: Widget, colour: str) -> Widget:
            return band_coloured(widget, name, part, colour or None)

        self.colour_wanted.emit(ColourWish(self.swatch, self.ident, f"band {name}", self.swatch.colour, made))

    def _rename(self, text: str) -> None:
        editor = self.editor
        try:
            made = band_renamed(editor.now.project, self.ident, self.band.name, text)
        except AvrinError as error:
            self.name.mark(True)
            editor.say(str(error), error=True)
            return
        editor.do(seal)
        editor.do(edit, made, f"name of band {self.band.name}")


def _later(band: Band) -> str:
    """Return a `back` limit slightly beyond a constant limit; the same rule for any other."""
    limit = band.below or band.above
    try:
        number = float(limit.removesuffix("%"))
    except ValueError:
        return limit
    step = 5.0 if limit.endswith("%") else abs(number) * 0.1 or 1.0
    found = number + step if band.below else number - step
    return rule_number(round(found, 9)) + ("%" if limit.endswith("%") else "")
