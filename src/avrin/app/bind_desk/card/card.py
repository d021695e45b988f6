"""The card of the selection: a widget's inputs, bands and ladder, or a variable's declaration and users."""

from __future__ import annotations

from collections.abc import Sequence
from functools import partial
from typing import TYPE_CHECKING

from PySide6.QtCore import QPoint, Qt, Signal
from PySide6.QtGui import QResizeEvent
from PySide6.QtWidgets import QLabel, QScrollArea, QVBoxLayout, QWidget

from avrin.app.bind_desk.card.band_line import BandLine
from avrin.app.bind_desk.card.band_strip import BandStrip
from avrin.app.bind_desk.card.belongs import Belongs
from avrin.app.bind_desk.card.derived_lines import DerivedLines
from avrin.app.bind_desk.card.event_lines import EventLines
from avrin.app.bind_desk.card.fade import Fade
from avrin.app.bind_desk.card.fields import StructFields
from avrin.app.bind_desk.card.happening_line import HappeningLine
from avrin.app.bind_desk.card.head import Head
from avrin.app.bind_desk.card.ladder_strip import LadderStrip
from avrin.app.bind_desk.card.line import Line
from avrin.app.bind_desk.card.missing_line import MissingLine
from avrin.app.bind_desk.card.option_rules import additions, option_lines
from avrin.app.bind_desk.card.rule_row import RuleRow
from avrin.app.bind_desk.card.several import Several
from avrin.app.bind_desk.card.transitions import Transitions
from avrin.app.controls.choice import Choice
from avrin.app.controls.labels import text_label
from avrin.app.controls.link import Link
from avrin.app.controls.scroller import BAR_ROOM, thin_bars
from avrin.app.services.checking import Checking
from avrin.app.services.editor import Editor
from avrin.app.services.extents import Extents
from avrin.app.services.suggestions import Suggestions
from avrin.app.services.traces import Traces
from avrin.binding.bound import BoundWidget
from avrin.binding.places import RulePlace
from avrin.editor.changes import Change
from avrin.editor.edits import seal, set_rule, set_widget
from avrin.editor.facts import facts
from avrin.editor.playback import go_to
from avrin.editor.selecting import select_variable, select_widget
from avrin.edits.bands import BY_BAND, conditioned
from avrin.edits.scalar_fields import scalar_fields
from avrin.kinds.kind import Input
from avrin.kinds.transitions import popping_rule
from avrin.render.values import clock
from avrin.trace.frames import event_column

if TYPE_CHECKING:
    from avrin.app.bind_desk.card.recorded import Recorded

__all__ = ["Card"]


OUTSIDE = "outside all bands"
VARIABLE_HINTS = (
    "Drag it from its lane onto the picture to show it there, or press Enter on the lane.",
    "Drag its value in the lane to pin it (P pins the current value), and watch every widget follow.",
    "Edit its declaration in the lane with Ctrl+E or a double click.",
)
DERIVED_HINTS = (
    VARIABLE_HINTS[0],
    "Select a part of any rule and press Ctrl+Shift+E to make it a derived value, wherever it occurs.",
)
EVENT_HINTS = ('Rules can use it as event("name"), events("name") and last("name", "argument").',)


class Card(QScrollArea):
    """Rebuilt when the selection changes; otherwise only its values and texts are updated."""

    clock_wanted = Signal()  # for settings of a recording's time that no menu has
    roster_wanted = Signal(str)  # to edit one by name
    group_wanted = Signal(str)  # to edit one by id
    colour_wanted = Signal(object)  # a ColourWish
    parts_wanted = Signal(str, str)  # of a picture: "border" or "cells", and the widget's id
    matching_wanted = Signal()  # to map a recording's names

    def __init__(
        self, editor: Editor, checking: Checking, extents: Extents, suggestions: Suggestions, traces: Traces
    ) -> None:
        super().__init__()
        self._checking, self._extents, self._suggestions, self._traces = checking, extents, suggestions, traces
        self.setFocusPolicy(Qt.FocusPolicy.NoFocus)  # its fields take the focus
        self.editor = editor
        self.recorded: Recorded | None = None
        self.setWidgetResizable(True)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        thin_bars(self)
        self.setAccessibleName("Card of the selection")
        self.rows: list[RuleRow] = []
        self._shape: tuple[object, ...] = ()
        self._head: Head | None = None
        self.bands: BandStrip | None = None
        self._structs: list[StructFields] = []
        self.band_lines: list[BandLine] = []
        self._grows: Line | None = None
        self._missing: MissingLine | None = None
        self._belongs: Belongs | None = None
        self._passing: Transitions | None = None
        self._look_of = ("", "")
        self._derived: DerivedLines | None = None
        self.event_lines: EventLines | None = None
        self._facts: dict[str, QLabel] = {}  # of the selected variable or event
        self._deriving = ""  # the event whose fields for rules are shown although it has no rule
        self.ladder: LadderStrip | None = None
        self._fade = Fade(self)
        bar = self.verticalScrollBar()
        bar.rangeChanged.connect(self._make_room)
        bar.valueChanged.connect(self._fade.place)
        bar.rangeChanged.connect(self._fade.place)
        editor.follow("card", self)
        self.rebuild()

    # -- content ----------------------------------------------------------------------------------------------------

    def on_change(self, change: Change) -> None:
        """Rebuild, or refresh what is there."""
        if change.of("recording", "selection"):
            self.rebuild()
        elif change.of("tracks"):
            self._project_changed()
        elif change.of("figures"):
            self.refresh()
        if change.of("extent"):
            self._show_extent()
        if change.of("suggestions"):
            self._suggested()

    def _project_changed(self) -> None:
        if self._wanted_shape() != self._shape:
            self.rebuild()
            return
        for row in self.rows:
            row.show_text()
        if self.event_lines is not None:  # its rules decide how often it happens
            for label, text in facts(self.editor.now, self.editor.now.selection.variable):
                if label in self._facts:
                    self._facts[label].setText(text)
        for part in self._structs:
            part.refresh()
        for line in self.band_lines:
            line.refresh()
        if self._missing is not None:
            self._missing.refresh()
        if self._belongs is not None:
            self._belongs.refresh()
        if self._passing is not None:
            self._passing.refresh()
        self.refresh()
        if self.ladder is not None:
            self.ladder.outdated()

    def _suggested(self) -> None:
        """Update the suggestion of a run column."""
        if self.recorded is not None and self._wanted_shape() != self._shape:
            self.rebuild()

    def _make_room(self, _least: int, most: int) -> None:
        """Put the scroll bar into the margin instead of beside it."""
        body = self.widget()
        if body is not None and (layout := body.layout()) is not None:
            layout.setContentsMargins(0, 0, BAR_ROOM - (8 if most else 0), 0)

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self._fade.place()

    def _wanted_shape(self) -> tuple[object, ...]:
        """Return what determines the card's rows; other edits keep its fields, and the caret in them."""
        chosen, several = self.editor.now.widget, self.editor.now.chosen
        if len(several) > 1:
            return several
        if chosen is None:
            return (
                self.editor.now.selection.variable,
                self.editor.now.variable(self.editor.now.selection.variable),
                self._event_shape(),
                tuple(self._users()),
                self.editor.now.pins.get(self.editor.now.selection.variable),
                () if self.editor.now.selection.variable else self._recorded_shape(),
            )
        widget = chosen.widget
        editing = next((row.place.input for row in self.rows if row.edit.hasFocus()), "")
        inputs = {i.name for i in chosen.kind.all_inputs() if i.name in widget.inputs or i.needed}
        if self._shape and self._shape[0] == widget.id and editing:
            inputs.add(editing)  # a field just emptied keeps the caret
        bands = tuple(
            (b.name, bool(b.below), bool(b.above), bool(b.when), bool(b.back), bool(b.held)) for b in widget.bands
        )
        rules = tuple(chosen.kind.rules(widget.options))
        return (
            widget.id,
            widget.kind,
            frozenset(inputs),
            bands,
            rules,
            tuple(one.title for one in additions(self.editor, chosen)),
            tuple(leaf.path for leaf in scalar_fields(chosen.kind.options, widget.options, _keyed(chosen))),
            widget.pop is not None
            or (
                self._shape[:1] == (widget.id,) and any(r.place.part == "pop" and r.edit.hasFocus() for r in self.rows)
            ),
        )

    def _event_shape(self) -> tuple[object, ...]:
        """Return what determines the fields of the selected event: all but its rules, whose fields keep the caret."""
        now = self.editor.now
        event = next((e for e in now.project.events if event_column(e.name) == now.selection.variable), None)
        if event is None:
            return ()
        derives = bool(event.when or event.values) or self._deriving == event.name
        return (tuple(event.args.items()), event.over, event.note, derives)

    def _recorded_shape(self) -> tuple[object, ...]:
        """Return what determines the section about the recording."""
        project = self.editor.now.project
        return (
            project.variables,
            project.rosters,
            project.traces,
            len(project.widgets),
            self.editor.now.trace_name,
            self._suggestions.runs,
        )

    def _users(self) -> list[str]:
        return self.editor.now.users(self.editor.now.selection.variable)

    def rebuild(self) -> None:
        """Rebuild the card for the selection."""
        self._shape = self._wanted_shape()
        self.rows, self.bands, self.ladder, self._head, self._grows = [], None, None, None, None
        self._structs, self.recorded, self._missing, self.band_lines, self._belongs = [], None, None, [], None
        self._derived, self.event_lines, self._passing, self._facts = None, None, None, {}
        body = QWidget()
        column = QVBoxLayout(body)
        column.setContentsMargins(0, 0, BAR_ROOM, 0)
        column.setSpacing(8)
        chosen = self.editor.now.widget
        if len(self.editor.now.chosen) > 1:
            self._build_several(column)
        elif chosen is not None:
            self._build_widget(column, chosen)
        elif self.editor.now.selection.variable:
            self._build_variable(column, self.editor.now.selection.variable)
        else:
            self._build_nothing(column)
        column.addStretch(1)
        body.setAutoFillBackground(False)
        if (old := self.takeWidget()) is not None:  # the request may come from one of its fields, during a key event
            old.hide()
            old.deleteLater()
        self.setWidget(body)
        self.refresh()

    def _build_widget(self, column: QVBoxLayout, chosen: BoundWidget) -> None:
        widget = chosen.widget
        self._head = Head(self.editor)
        column.addWidget(self._head)
        wanted = self._shape[2]
        assert isinstance(wanted, frozenset)
        others = []
        for info in chosen.kind.all_inputs():
            if info.name in wanted:
                place = RulePlace("widget", widget.id, "inputs", info.name)
                row = RuleRow(self.editor, place, info.name, template=info.kind == "template")
                row.chosen.connect(self.editor.doing(select_variable))
                row.setToolTip(info.help)
                self.rows.append(row)
                column.addWidget(row)
            else:
                others.append(info)
        for line_of, rule_row in option_lines(self.editor, chosen, self._checking.traces):
            if rule_row is not None:
                self.rows.append(rule_row)
            column.addWidget(line_of)
        if chosen.level is not None:
            line = Line("bands")
            self.bands = BandStrip(self.editor)
            self.bands.name_wanted.connect(self._name_band)
            line.row.addWidget(self.bands, 1)
            column.addWidget(line)
        line = Line("ladder")
        self.ladder = LadderStrip(self.editor)
        line.row.addWidget(self.ladder, 1)
        column.addWidget(line)
        self._build_bands(column, chosen)
        self._grows = Line("grows")
        self._grows.row.addSpacing(-7)  # a link has padding around its text
        self._grows.row.addWidget(Link("", self._go_to_largest, bold=True))
        self._grows.row.addStretch(1)
        self._grows.setToolTip("Its largest extent in this recording; press to go there")
        column.addWidget(self._grows)
        self._show_extent()
        self._build_fields(column, chosen)
        self._build_rest(column, chosen, others)

    def _build_fields(self, column: QVBoxLayout, chosen: BoundWidget) -> None:
        """Add the kind's options and the look: outside all bands, or in one."""
        widget = chosen.widget
        self._structs = [
            StructFields(
                self.editor, widget.id, "options", chosen.kind.options, chosen.kind.rule_options, _keyed(chosen)
            ),
            StructFields(self.editor, widget.id, "look", chosen.kind.look, band=self._look_in(chosen)),
        ]
        for name, part in zip(("options", "look"), self._structs, strict=True):
            if len(part):
                line = Line(name)
                part.colour_wanted.connect(self.colour_wanted)
                part.parts_wanted.connect(lambda parts: self.parts_wanted.emit(parts, widget.id))
                if name == "look" and widget.bands:
                    whole = QVBoxLayout()
                    whole.setSpacing(4)
                    whole.addWidget(self._band_choice(chosen))
                    whole.addWidget(part)
                    line.row.addLayout(whole, 1)
                else:
                    line.row.addWidget(part, 1)
                column.addWidget(line)

    def _look_in(self, chosen: BoundWidget) -> str:
        """Return the band whose look is shown, "" for outside all; retained while the widget is selected."""
        ident, band = self._look_of
        return band if ident == chosen.widget.id and any(b.name == band for b in chosen.widget.bands) else ""

    def _band_choice(self, chosen: BoundWidget) -> Choice:
        """Return the choice between the look outside all bands and its overrides in each."""
        words = {OUTSIDE: "", **{f"when {band.name}": band.name for band in chosen.widget.bands}}
        choice = Choice("band whose look is shown", list(words))
        choice.show_value(next(word for word, band in words.items() if band == self._look_in(chosen)))
        choice.taken.connect(lambda word: self._show_look(chosen.widget.id, words[str(word)]))
        return choice

    def _show_look(self, ident: str, band: str) -> None:
        self._look_of = (ident, band)
        self.rebuild()

    def _build_rest(self, column: QVBoxLayout, chosen: BoundWidget, others: list[Input]) -> None:
        """Add the placeholder for a missing value, and the inputs that can be added."""
        if chosen.kind.main_inputs():
            line = Line("missing", level=True)
            line.setToolTip("What it shows while its value is missing")
            self._missing = MissingLine(self.editor, chosen.widget.id)
            line.row.addSpacing(-7)  # a choice has padding around its text
            line.row.addWidget(self._missing, 1)
            column.addWidget(line)
        self._passing = Transitions(self.editor, chosen.widget.id)
        self._passing.chosen.connect(self.editor.doing(select_variable))
        if self._passing.row is not None:
            self.rows.append(self._passing.row)
        column.addWidget(self._passing)
        self._belongs = Belongs(self.editor, chosen.widget.id)
        self._belongs.group_wanted.connect(self.group_wanted)
        column.addWidget(self._belongs)
        if others or chosen.widget.pop is None:
            line = Line()
            for info in others:
                link = Link(f"+ {info.name}", partial(self._add_input, info), bold=True)
                link.setToolTip(info.help)
                line.row.addWidget(link)
            if chosen.widget.pop is None:
                link = Link("+ pop", self._add_pop, bold=True)
                link.setToolTip("It pops in size whenever a rule turns true")
                line.row.addWidget(link)
            line.row.addStretch(1)
            column.addWidget(line)

    def _add_pop(self) -> None:
        """Add a pop when the main value changes, and focus its rule."""
        chosen = self.editor.now.widget
        assert chosen is not None
        place = RulePlace("widget", chosen.widget.id, "pop", "when")
        self.editor.do(seal)
        self.editor.do(set_rule, place, popping_rule(chosen.kind, chosen.widget.inputs, chosen.inputs))
        self.editor.do(seal)
        for row in self.rows:
            if row.place == place:
                row.edit.setFocus()
                row.edit.selectAll()

    def _show_extent(self) -> None:
        """Show the extent of a growing widget, once known."""
        chosen, found = self.editor.now.widget, self._extents.largest
        if self._grows is None or chosen is None:
            return
        self._grows.setVisible(found is not None and found.grows)
        if found is not None and found.grows:
            most, (width, height) = found.most, chosen.widget.place.size
            when = clock(float(self.editor.now.trace.axis[found.frame]))
            text = f"to {most.width:.0f} × {most.height:.0f} at {when}, over a box of {width:.0f} × {height:.0f}"
            link = self._grows.findChild(Link)
            assert isinstance(link, Link)
            link.set_text(text)

    def _go_to_largest(self) -> None:
        found = self._extents.largest
        if found is not None:
            self.editor.do(go_to, found.frame)

    def _build_bands(self, column: QVBoxLayout, chosen: BoundWidget) -> None:
        """Add its bands, each with colour, name and limits, and commands to add more."""
        for band in chosen.widget.bands:
            part = BandLine(self.editor, chosen.widget.id, band)
            part.colour_wanted.connect(self.colour_wanted)
            self.rows += part.rows
            self.band_lines.append(part)
            column.addWidget(part)
        line = Line("" if chosen.level is not None or chosen.widget.bands else "bands", level=True)
        line.row.addSpacing(-7)
        if self.bands is not None:
            more = Link("+ band", self.bands.split_now, bold=True)
            more.setToolTip("Adds a band at the current level; press the strip to add one there")
            line.row.addWidget(more)
        condition = Link("+ band with a condition", self._add_condition, bold=True)
        condition.setToolTip("A band that is on while a rule is true; the first matching band wins")
        line.row.addWidget(condition)
        line.row.addStretch(1)
        column.addWidget(line)

    def _name_band(self, name: str) -> None:
        for line in self.band_lines:
            if line.band.name == name:
                line.name.setFocus()
                line.name.selectAll()
                self.ensureWidgetVisible(line)

    def _add_condition(self) -> None:
        chosen = self.editor.now.widget
        assert chosen is not None
        self.editor.do(seal)
        self.editor.do(set_widget, conditioned(chosen.widget), f"add band to {chosen.widget.title}")
        first = next((row for row in self.rows if row.place.part == "bands"), None)
        if first is not None:
            first.edit.setFocus()
            first.edit.selectAll()

    def name_derived(self) -> None:
        """Focus the name of the visible derived value."""
        if self._derived is not None:
            self._derived.name.setFocus()
            self._derived.name.selectAll()

    def _build_derived(self, column: QVBoxLayout, name: str) -> None:
        """Add a derived value's name, rule and note."""
        lines = self._derived = DerivedLines(self.editor, name)
        self.rows.append(lines.rule)
        lines.rule.chosen.connect(self.editor.doing(select_variable))
        column.addWidget(lines)

    def _build_event(self, column: QVBoxLayout, name: str) -> None:
        """Add an event's fields."""
        lines = self.event_lines = EventLines(self.editor, name, derives=name == self._deriving)
        if lines.derives:
            self._deriving = name  # a rule that is emptied keeps its field
        lines.rules_wanted.connect(lambda: self._derive(name))
        self.rows += lines.rows
        for row in lines.rows:
            row.chosen.connect(self.editor.doing(select_variable))
        column.addWidget(lines)

    def _derive(self, name: str) -> None:
        """Show the fields for an event's rules."""
        self._deriving = name
        self.rebuild()
        self.rows[0].edit.setFocus()

    def _build_variable(self, column: QVBoxLayout, name: str) -> None:
        self._head = Head(self.editor)
        column.addWidget(self._head)
        if self.editor.now.is_derived(name):
            self._build_derived(column, name)
        elif name.endswith("()"):
            self._build_event(column, name.removesuffix("()"))
        for label, text in facts(self.editor.now, name):
            line = Line(label)
            self._facts[label] = text_label(text, "ink", wrap=True)
            line.row.addWidget(self._facts[label], 1)
            column.addWidget(line)
        if not name.endswith("()"):
            column.addWidget(HappeningLine(self.editor, name))
        line = Line("feeds", level=True)
        if self._users():
            line.row.addSpacing(-7)  # a link has padding around its text
        for ident in self._users():
            title = self.editor.now.bound.widgets[ident].widget.title
            line.row.addWidget(Link(title, lambda ident=ident: self.editor.do(select_widget, ident), bold=True))  # type: ignore[misc]
        if not self._users():
            line.row.addWidget(text_label("nothing yet", wrap=True))
        line.row.addStretch(1)
        column.addWidget(line)
        event = name.endswith("()")
        column.addSpacing(4)
        hints = EVENT_HINTS if event else DERIVED_HINTS if self.editor.now.is_derived(name) else VARIABLE_HINTS
        for hint in hints:
            column.addWidget(text_label(hint, wrap=True))

    def _build_several(self, column: QVBoxLayout) -> None:
        several = Several(self.editor)
        several.one_wanted.connect(self.editor.doing(select_widget))
        column.addWidget(several)

    def _build_nothing(self, column: QVBoxLayout) -> None:
        from avrin.app.bind_desk.card.recorded import Recorded  # late: 3 ms

        self.recorded = Recorded(self.editor, self._suggestions, self._traces)
        self.recorded.clock_wanted.connect(self.clock_wanted)
        self.recorded.roster_wanted.connect(self.roster_wanted)
        self.recorded.matching_wanted.connect(self.matching_wanted)
        column.addWidget(self.recorded)

    def _add_input(self, info: Input) -> None:
        """Bind an input to its default, or to text to be replaced: an empty rule would be removed."""
        chosen, name = self.editor.now.widget, info.name
        assert chosen is not None
        text = info.default or ("…" if info.kind == "template" else '"…"')
        self.editor.do(set_rule, RulePlace("widget", chosen.widget.id, "inputs", name), text)
        self.editor.do(seal)
        for row in self.rows:
            if row.place.input == name:
                row.edit.setFocus()
                row.edit.selectAll()

    # -- values -----------------------------------------------------------------------------------------------------

    def refresh(self) -> None:
        """Update for the playhead."""
        chosen = self.editor.now.widget
        if self._head is not None:
            self._head.update()
        if chosen is None:
            if self._derived is not None:
                self._derived.refresh()
            if self.event_lines is not None:
                self.event_lines.refresh()
            return
        for row in self.rows:
            if row.place.input:
                row.show_values(chosen.inputs.get(row.place.input))
            elif row.place.part == "pop":
                row.show_values(chosen.columns.get("pop"))
        if self.bands is not None:
            self.bands.update()

    def chip_point(self, name: str) -> QPoint | None:
        """Return where a variable's ribbon starts, in the card's viewport; None if no chip shows it."""
        for row in self.rows:
            found = row.chip_left(name)
            if found is not None:
                return row.mapTo(self.viewport(), found)
        return None

    def focus_first(self) -> None:
        """Focus the first rule."""
        if self.rows:
            self.rows[0].edit.setFocus()


def _keyed(chosen: BoundWidget) -> dict[str, Sequence[str]]:
    """Return the names for which a widget's options have an entry each."""
    bands = tuple(band.name for band in chosen.widget.bands)
    return {name: (*keys, *(bands if name == BY_BAND else ())) for name, keys in chosen.kind.keyed.items()}
