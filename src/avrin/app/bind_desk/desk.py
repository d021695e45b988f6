"""The Bind desk: the HUD picture, the card of the selection, and the lanes below, connected by ribbons."""

from __future__ import annotations

from functools import cached_property
from pathlib import Path
from typing import TYPE_CHECKING

from msgspec.structs import replace
from PySide6.QtCore import QEvent, QPoint, QPointF, QSettings, Qt, QTimer, Signal
from PySide6.QtGui import QResizeEvent
from PySide6.QtWidgets import QVBoxLayout, QWidget

from avrin.app.bind_desk.binding_drag import BindingDrag
from avrin.app.bind_desk.lanes.scale import HEAD, TimeScale
from avrin.app.bind_desk.lanes.view import LaneView
from avrin.app.bind_desk.picture.hud_view import HudView
from avrin.app.bind_desk.popups.kind_chooser import KindChooser
from avrin.app.bind_desk.ribbons import Ribbon, Ribbons
from avrin.app.bind_desk.ruler import Ruler
from avrin.app.bind_desk.shelf import Shelf
from avrin.app.controls.scroller import BAR_ROOM, Splitter
from avrin.app.controls.theme import EDGE
from avrin.app.services.suggestions import Suggested
from avrin.app.services.workspace import Workspace
from avrin.binding.derived import extracted, free_name
from avrin.binding.event_kinds import event_declared
from avrin.binding.places import RulePlace, with_rule
from avrin.editor.changes import Change
from avrin.editor.edits import edit, seal, set_widget
from avrin.editor.selecting import select_merged, select_variable, select_widget
from avrin.editor.snapshot import sources
from avrin.edits.pictures import in_own_size
from avrin.errors import AvrinError
from avrin.kinds.proportions import own_size
from avrin.offers.offers import free_id
from avrin.onboarding.first_hud import first_hud, with_room
from avrin.project.project import Place, Variable, Widget
from avrin.storage.assets import take_in
from avrin.trace.frames import event_column

if TYPE_CHECKING:
    from avrin.app.bind_desk.card.card import Card
    from avrin.app.bind_desk.footer import Footer
    from avrin.app.bind_desk.popups.action_edit import ActionEdit
    from avrin.app.bind_desk.popups.border_edit import BorderEdit
    from avrin.app.bind_desk.popups.colouring import Colouring
    from avrin.app.bind_desk.popups.group_edit import GroupEdit
    from avrin.app.bind_desk.popups.matching_edit import MatchingEdit
    from avrin.app.bind_desk.popups.place_edit import PlaceEdit
    from avrin.app.bind_desk.popups.roster_edit import RosterEdit
    from avrin.app.bind_desk.popups.sheet_edit import SheetEdit
    from avrin.app.bind_desk.popups.whole_picture import PictureEdit

__all__ = ["BindDesk"]

TOP = 14
LANES_AT_FIRST = 298  # pixels of the lower part at 1280 × 800: the picture is then 768 × 432
SHELF_AT_FIRST = 84  # additional pixels of the lower part while offers are shown
CARD_AT_FIRST = 452
LEAST_CARD = 340
FOOTER = 32
MOST_LOWER, MOST_CARD = 0.52, 0.38  # of a small window: the picture keeps a minimum share


class BindDesk(QWidget):
    """Three parts with movable splitters."""

    clock_wanted = Signal()  # for settings of a recording's time that no menu has
    recording_wanted = Signal()
    completed = Signal()  # everything visible is created

    def __init__(self, workspace: Workspace) -> None:
        super().__init__()
        self._workspace = workspace
        self.editor = editor = workspace.editor
        self._suggestions = workspace.suggestions
        self.scale = TimeScale()
        self._hud_wanted = False  # until offers are known
        self.hud = HudView(editor, workspace.comparison, workspace.extents, workspace.video)
        self._card_place = QWidget()  # transparent until the card exists
        self._card_place.setMinimumWidth(LEAST_CARD)
        self.ruler = Ruler(editor, self.scale)
        self.shelf = Shelf(editor, workspace.suggestions)
        self.lanes = LaneView(editor, workspace.checking, workspace.comparison, workspace.suggestions, self.scale)
        self.drag = BindingDrag(editor, self.hud)
        self._build()
        self.ribbons = Ribbons(self, self._find_ribbons, self.shelf)
        self.chooser = KindChooser(editor, self.hud, self.drag, self)
        self._completing = QTimer(self)
        self._completing.setSingleShot(True)
        self._completing.timeout.connect(self._complete)
        self._connect()

    def _build(self) -> None:
        self.upper = Splitter(Qt.Orientation.Horizontal)
        self.upper.setHandleWidth(EDGE)
        self.upper.addWidget(self.hud)
        self.upper.addWidget(self._card_place)
        self.upper.setStretchFactor(0, 1)
        self.upper.setChildrenCollapsible(False)
        top = QWidget()
        inner = QVBoxLayout(top)
        inner.setContentsMargins(EDGE, TOP, EDGE - BAR_ROOM, 0)
        inner.addWidget(self.upper)
        lower = QWidget()
        column = self._lower = QVBoxLayout(lower)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        column.addWidget(self.ruler)
        column.addWidget(self.shelf)
        column.addWidget(self.lanes, 1)
        self._footer_place = QWidget()
        self._footer_place.setFixedHeight(FOOTER)
        column.addWidget(self._footer_place)
        self.split = Splitter(Qt.Orientation.Vertical)
        self.split.setHandleWidth(12)
        self.split.addWidget(top)
        self.split.addWidget(lower)
        self.split.setStretchFactor(0, 1)  # the picture gets all additional room
        self.split.setStretchFactor(1, 0)
        self.split.setChildrenCollapsible(False)
        whole = QVBoxLayout(self)
        whole.setContentsMargins(0, 0, 0, 0)
        whole.addWidget(self.split)

    def _connect(self) -> None:
        editor = self.editor
        self.lanes.drag_moved.connect(self._drag_moved)
        self.lanes.drag_ended.connect(self._drag_ended)
        self.lanes.drag_cancelled.connect(self._drag_cancelled)
        self.lanes.offered.connect(self.bind_by_key)
        self.shelf.drag_moved.connect(lambda offer, place: self.drag.move_widget(offer.widget, offer.tracks, place))
        self.shelf.drag_ended.connect(lambda one, place: self.drag.drop_offer(one.offer, place))
        self.shelf.drag_cancelled.connect(self.drag.cancel)
        self.shelf.taken.connect(self.take_offer)
        self.shelf.closed.connect(lambda: self.show_offers(False))
        self.hud.first_hud_wanted.connect(self.first_hud)
        self.hud.place_wanted.connect(self.edit_place)
        self.lanes.rule_wanted.connect(self.focus_rules)
        self.lanes.title_wanted.connect(lambda: self.edit_place(title=True))
        editor.follow("bind desk", self)
        self.lanes.verticalScrollBar().valueChanged.connect(self.ribbons.later)
        for splitter in (self.split, self.upper):
            splitter.splitterMoved.connect(self.ribbons.later)
        for part in (self.hud, self.lanes.viewport()):
            part.installEventFilter(self)
        self.scale.set_width(self.width())

    def on_change(self, change: Change) -> None:
        """Offer something for a new project; move the ribbons with what they connect."""
        if change.of("opened"):
            self._begun()
        if change.of("suggestions"):
            self._suggested()
        if change.of("recording", "tracks", "selection"):
            self.ribbons.later()

    @cached_property
    def card(self) -> Card:
        """The card of the selection, created after picture and lanes are visible."""
        from avrin.app.bind_desk.card.card import Card  # late: 16 ms

        work = self._workspace
        card = Card(self.editor, work.checking, work.extents, work.suggestions, work.traces)
        card.setMinimumWidth(LEAST_CARD)
        card.clock_wanted.connect(self.clock_wanted)
        card.roster_wanted.connect(lambda name: self.roster_edit.open_for(name))  # noqa: PLW0108  (made when first wanted)
        card.matching_wanted.connect(lambda: self.matching_edit.open_it())  # noqa: PLW0108
        card.group_wanted.connect(lambda ident: self.group_edit.open_for(ident))  # noqa: PLW0108
        card.parts_wanted.connect(self._tell_parts)
        card.colour_wanted.connect(lambda wish: self.colouring.open_for(wish))  # noqa: PLW0108
        card.verticalScrollBar().valueChanged.connect(self.ribbons.later)
        card.installEventFilter(self)
        self.upper.replaceWidget(1, card)
        self._card_place.deleteLater()
        self.upper.setStretchFactor(1, 0)
        self.ribbons.later()
        return card

    @cached_property
    def footer(self) -> Footer:
        """The footer below the lanes, created with the card."""
        from avrin.app.bind_desk.footer import Footer  # late: 2 ms

        footer = Footer(self.editor, self._workspace.files, self._workspace.traces)
        footer.setFixedHeight(FOOTER)
        footer.offers_wanted.connect(lambda: self.show_offers(self.shelf.isHidden()))
        footer.roster_wanted.connect(lambda: self.roster_edit.open_for(""))
        footer.recording_wanted.connect(self.recording_wanted)
        footer.find_changed.connect(self.lanes.show_only)
        footer.finder.exited.connect(self._leave_finder)
        footer.widget_wanted.connect(self.add_widget)
        footer.variable_wanted.connect(self.add_variable)
        footer.derived_wanted.connect(self.add_derived)
        footer.action_wanted.connect(self.edit_action)
        footer.set_offers(not self.shelf.isHidden())
        self._lower.replaceWidget(self._footer_place, footer)
        self._footer_place.deleteLater()
        before: QWidget = self.lanes
        for part in footer.findChildren(QWidget):
            if part.window() is self.window() and part.focusPolicy() & Qt.FocusPolicy.TabFocus:
                QWidget.setTabOrder(before, part)
                before = part
        return footer

    @property
    def is_whole(self) -> bool:
        """Whether the card and the footer exist."""
        return "card" in vars(self) and "footer" in vars(self)

    def _complete(self) -> None:
        """Create the card and the footer."""
        self.footer.show()
        self.card.show()
        self.completed.emit()

    def focus_rules(self) -> None:
        """Focus the first rule."""
        self.card.focus_first()

    def edit_action(self, label: str) -> None:
        """Edit an action by label; "" creates one."""
        self.action_edit.open_for(label)

    @cached_property
    def action_edit(self) -> ActionEdit:
        """The action editor, created on first use."""
        from avrin.app.bind_desk.popups.action_edit import ActionEdit  # late: 7 ms

        popup = ActionEdit(self.editor, self)
        popup.kept.connect(self.hud.setFocus)  # so that its key acts at once
        return popup

    def edit_place(self, *, title: bool = False) -> None:
        """Edit the selected widget's position, or its title."""
        chosen = self.editor.now.chosen
        if len(chosen) == 1:
            self.place_edit.open_for(chosen[0], title=title)

    @cached_property
    def group_edit(self) -> GroupEdit:
        """The group editor, created on first use."""
        from avrin.app.bind_desk.popups.group_edit import GroupEdit  # late: 2 ms

        return GroupEdit(self.editor, self)

    def _tell_parts(self, parts: str, ident: str) -> None:
        """Edit parts of a widget's picture: its border or its cells."""
        edit: PictureEdit = self.border_edit if parts == "border" else self.sheet_edit
        edit.open_for(ident)

    @cached_property
    def border_edit(self) -> BorderEdit:
        """The border editor of nine-slice pictures, created on first use."""
        from avrin.app.bind_desk.popups.border_edit import BorderEdit  # late: 1 ms

        return BorderEdit(self.editor, self.hud.box_of, self)

    @cached_property
    def sheet_edit(self) -> SheetEdit:
        """The editor of glyph sheets, created on first use."""
        from avrin.app.bind_desk.popups.sheet_edit import SheetEdit  # late: 1 ms

        return SheetEdit(self.editor, self.hud.box_of, self)

    @cached_property
    def colouring(self) -> Colouring:
        """The colour chooser, created on first use."""
        from avrin.app.bind_desk.popups.colouring import Colouring  # late: 5 ms

        return Colouring(self.editor, self.hud, self)

    @cached_property
    def place_edit(self) -> PlaceEdit:
        """The position editor, created on first use."""
        from avrin.app.bind_desk.popups.place_edit import PlaceEdit  # late: 2 ms

        return PlaceEdit(self.editor, self.hud, self)

    @cached_property
    def roster_edit(self) -> RosterEdit:
        """The roster editor, created on first use."""
        from avrin.app.bind_desk.popups.roster_edit import RosterEdit  # late: 1 ms

        return RosterEdit(self.editor, self)

    @cached_property
    def matching_edit(self) -> MatchingEdit:
        """The editor of a recording's names, created on first use."""
        from avrin.app.bind_desk.popups.matching_edit import MatchingEdit  # late: 10 ms

        return MatchingEdit(self.editor, self)

    def deselect(self) -> None:
        """Select nothing."""
        self.editor.do(select_widget, "")

    # -- sizes ------------------------------------------------------------------------------------------------------

    @property
    def busy(self) -> bool:
        """Whether anything on it is being computed or waits to be painted."""
        strip = self.card.ladder if self.is_whole else None
        return not self.is_whole or self.lanes.busy or self.ribbons.busy or (strip is not None and strip.busy)

    def first_sizes(self) -> None:
        """Set the initial splitter positions."""
        lower = LANES_AT_FIRST + (SHELF_AT_FIRST if self.shelf.isVisibleTo(self) else 0)
        lower = min(lower, round(self.height() * MOST_LOWER))
        card = min(CARD_AT_FIRST, round(self.width() * MOST_CARD))
        self.split.setSizes([self.height() - lower - 12, lower])
        self.upper.setSizes([self.width() - card - 3 * EDGE, card + BAR_ROOM])

    def remember(self, settings: QSettings) -> None:
        """Save the splitter positions for the next start."""
        settings.setValue("bind/split", self.split.saveState())
        settings.setValue("bind/upper", self.upper.saveState())

    def recall(self, settings: QSettings) -> None:
        """Restore saved splitter positions, if any."""
        for name, split in (("bind/split", self.split), ("bind/upper", self.upper)):
            state = settings.value(name)
            if state is not None:
                split.restoreState(state)

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self.ribbons.resize(self.size())
        self.ribbons.raise_()
        self.ribbons.later()
        self.scale.set_width(self.width())

    def eventFilter(self, watched: object, event: QEvent) -> bool:
        if event.type() in (QEvent.Type.Resize, QEvent.Type.LayoutRequest):
            self.ribbons.later()
        elif watched is self.hud and event.type() == QEvent.Type.MouseButtonPress:
            self.chooser.hide()
        elif event.type() == QEvent.Type.Paint and not self.is_whole:
            self._completing.start(0)  # after all pending events, user input first
        return False

    # -- ribbons ----------------------------------------------------------------------------------------------------

    def _find_ribbons(self) -> list[Ribbon]:
        """Return ribbons from each chip of the selected widget to its variable's lane, through the gutters."""
        chosen = self.editor.now.widget
        if chosen is None or "card" not in vars(self):
            return []
        card = self.card.viewport()
        left = card.mapTo(self, QPoint(0, 0))
        bottom = self.upper.mapTo(self, QPoint(0, self.upper.height())).y()
        lanes = self.lanes.viewport()
        lanes_top = lanes.mapTo(self, QPoint(0, 0)).y()
        found: list[Ribbon] = []
        for name in sources(chosen)[:4]:
            chip, lane = self.card.chip_point(name), self.lanes.lane_rect(name)
            if chip is None or lane is None or not 0 <= chip.y() <= card.height():
                continue
            y = lanes_top + lane.center().y()
            if not lanes_top <= y <= lanes_top + lanes.height():
                continue
            shift = 3.0 * len(found)
            gutter, level, head = left.x() - 8 - shift, bottom + 6.5 - shift * 0.8, HEAD + 3.0 + shift
            at = float(left.y() + chip.y())
            found.append([
                QPointF(left.x() - 3, at), QPointF(gutter, at), QPointF(gutter, level), QPointF(head, level),
                QPointF(head, y), QPointF(HEAD - 6, y),
            ])  # fmt: skip
        return found

    # -- binding ----------------------------------------------------------------------------------------------------

    def _drag_moved(self, name: str, place: QPoint) -> None:
        self.chooser.hide()
        self.ribbons.carry(name, self.mapFromGlobal(place))
        self.drag.move(name, place)

    def _drag_ended(self, name: str, place: QPoint) -> None:
        self.ribbons.carry("", None)
        self.drag.drop(name, place)

    def _drag_cancelled(self) -> None:
        self.ribbons.carry("", None)
        self.drag.cancel()

    def bind_by_key(self, name: str) -> None:
        """Insert a widget for a variable in a free position; Alt and the arrow keys move it."""
        self.drag.put(name)
        self.hud.setFocus()

    def take_offer(self, offer: Suggested) -> None:
        """Insert an offer at its usual position, or in the centre of a full screen."""
        self.drag.add(replace(offer.offer, widget=with_room(self.editor.now.project, offer.offer.widget)))

    def show_offers(self, shown: bool) -> None:
        """Show or hide the shelf of offers."""
        if shown is not self.shelf.isVisibleTo(self):
            upper, lower = self.split.sizes()
            by = SHELF_AT_FIRST if shown else -SHELF_AT_FIRST
            self.shelf.setVisible(shown)
            self.split.setSizes([upper - by, lower + by])
        if "footer" in vars(self):
            self.footer.set_offers(shown)
        self.ribbons.later()

    def _suggested(self) -> None:
        if self._hud_wanted:
            self.first_hud()

    def _begun(self) -> None:
        """Show offers if the opened project has no widgets."""
        self._hud_wanted = False
        self.chooser.hide()
        if "footer" in vars(self):
            self.footer.finder.clear()
        self.show_offers(not self.editor.now.project.widgets)

    def first_hud(self) -> None:
        """Insert the six best offers in the corners, one undo step, as soon as they are known."""
        editor = self.editor
        self._hud_wanted = self._suggestions.busy
        if self._hud_wanted:
            editor.say("Analysing the recording …")
            return
        if self._suggestions.failure is not None:
            editor.say(f"There are no offers: {self._suggestions.failure}", error=True)
            return
        offers = [one.offer for one in self._suggestions.offers]
        made = first_hud(editor.now.project, editor.now.trace, offers=offers)
        count = len(made.widgets) - len(editor.now.project.widgets)
        if not count:
            editor.say("There are no further offers for this recording")
            return
        editor.do(edit, made, "first HUD" if count > 1 else f"add {made.widgets[-1].title}")
        editor.do(select_merged, made.widgets[-count].id)
        editor.say(f"Placed {count} widgets.  Ctrl+Z undoes it")

    def add_widget(self, kind: str) -> None:
        """Insert a widget of a kind in a free position, without bindings, and focus its first rule."""
        editor = self.editor
        ident = free_id(kind, editor.now.project)
        width, height = editor.now.project.reference
        place = Place(size=(width * 0.2, height * 0.06))
        editor.do(set_widget, with_room(editor.now.project, Widget(id=ident, kind=kind, place=place)), f"new {kind}")
        editor.do(select_widget, ident)
        self.card.focus_first()

    def add_picture(self, file: Path) -> None:
        """Insert a picture widget for a file. Raises AvrinError if the file cannot be copied."""
        editor = self.editor
        if editor.now.path is None:
            raise AvrinError("the project has no folder for pictures yet", advice="Save it first")
        asset = take_in(file, editor.now.folder)
        ident = free_id("picture", editor.now.project)
        plain = Widget(id=ident, kind="picture", options={"asset": asset}, place=Place(size=(120.0, 120.0)))
        widget = in_own_size(editor.now.project, plain, own_size(str(editor.now.folder / asset)))
        editor.do(seal)
        editor.do(set_widget, with_room(editor.now.project, widget), f"picture {file.name}")
        editor.do(select_widget, ident)

    def has_columns(self) -> bool:
        """Return whether the selected widget has columns that can be fitted."""
        widget = self.editor.now.bound.widgets.get(self.editor.now.selection.widget)
        return widget is not None and widget.kind.has_columns and bool(widget.widget.options.get("columns"))

    def fit_columns(self) -> None:
        """Fit the selected table's columns to their texts over all recordings."""
        from avrin.app.bind_desk.card.option_rules import fit_columns  # late: 8 ms

        fit_columns(self.editor, self.editor.now.selection.widget, self._workspace.checking.traces)

    def add_variable(self) -> None:
        """Declare a variable, with its name edited in its lane."""
        editor = self.editor
        taken, number = {*editor.now.project.all_variables(), *editor.now.trace.columns}, 1
        while (name := f"value_{number}") in taken:
            number += 1
        variable = Variable(name=name, type="float", start=0, low=0, high=100)
        project = editor.now.project
        editor.do(edit, replace(project, variables=(*project.variables, variable)), "add variable")
        editor.do(select_variable, name)
        self.lanes.edit(name)

    def add_derived(self) -> None:
        """A derived value, whose rule is written on the card."""
        editor = self.editor
        name = free_name(editor.now.project)
        editor.do(seal)
        editor.do(edit, with_rule(editor.now.project, RulePlace("derived", name), "0"), "add derived value")
        editor.do(select_variable, name)
        self.card.focus_first()
        self.card.rows[0].edit.selectAll()

    def add_event(self) -> None:
        """Declare an event, with its name edited on the card."""
        editor = self.editor
        taken, number = {*(one.name for one in editor.now.project.events), *editor.now.trace.event_kinds}, 1
        while (name := f"event_{number}") in taken:
            number += 1
        editor.do(seal)
        editor.do(edit, event_declared(editor.now.project, editor.now.recorded, name), "add event")
        editor.do(select_variable, event_column(name))
        if self.card.event_lines is not None:
            self.card.event_lines.name.setFocus()
            self.card.event_lines.name.selectAll()

    def extract(self) -> None:
        """Extract the marked part of a rule into a derived value, everywhere it occurs."""
        editor = self.editor
        row = next((row for row in self.card.rows if row.edit.hasFocus()), None)
        if row is None or not row.edit.textCursor().hasSelection():
            editor.say("Select a part of a rule first")
            return
        name = free_name(editor.now.project)
        try:
            made = extracted(editor.now.project, row.place, *row.edit.marked, name)
        except AvrinError as error:
            editor.say(str(error), error=True)
            return
        editor.do(seal)
        editor.do(edit, made, f"derived value {name}")
        editor.do(select_variable, name)
        self.card.name_derived()
        editor.say(f"{name} now replaces that expression.  Give it a name")

    def find_lane(self) -> None:
        """Focus the field that filters lanes."""
        self.footer.finder.setFocus()
        self.footer.finder.selectAll()

    def _leave_finder(self) -> None:
        """Leave the filter field on Escape and Enter; the filter stays until the field is empty."""
        self.lanes.setFocus()
