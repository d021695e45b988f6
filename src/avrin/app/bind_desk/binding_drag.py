"""Bind by dragging: a variable dropped on the picture becomes a widget, or feeds the widget it lands on."""

from __future__ import annotations

import functools
from typing import TYPE_CHECKING

from msgspec.structs import replace
from PySide6.QtCore import QObject, QPoint, QPointF, Signal
from PySide6.QtGui import QAction

from avrin.app.bind_desk.picture.hud_view import HudView
from avrin.app.controls.menu import new_menu
from avrin.app.services.editor import Editor
from avrin.binding.binding import bind
from avrin.binding.bound import BoundWidget
from avrin.binding.tracks import Tracks
from avrin.editor.edits import edit, seal, set_widget
from avrin.editor.selecting import select_merged, select_widget
from avrin.kinds.subject import Offer
from avrin.offers.drop_results import Dropped, dropped, position_pair
from avrin.offers.offers import free_id, offers, offers_of_all, placed_at
from avrin.onboarding.first_hud import with_room
from avrin.onboarding.sizing import sized
from avrin.project.project import Project, Variable, Widget
from avrin.trace.declare import guess
from avrin.trace.frames import KIND_OF, Trace

if TYPE_CHECKING:
    from avrin.app.bind_desk.picture.zones import Zones

__all__ = ["BindingDrag"]


class BindingDrag(QObject):
    """Follows a drag over the picture, and makes the edit when it ends there."""

    offered = Signal(list, int)  # widgets to choose from, and the index of the inserted one

    def __init__(self, editor: Editor, hud: HudView) -> None:
        super().__init__(hud)
        self.editor = editor
        self.hud = hud
        self._name = ""
        self._base: Project | None = None
        self._coming: tuple[BoundWidget, Tracks] | None = None

    def variable(self, name: str) -> Variable | None:
        """Return a declaration: the project's, or a guess for an undeclared column or a derived value."""
        editor = self.editor
        if editor.now.is_derived(name):
            seen = self._with_derived(name)
            return guess(seen, name) if seen is not None else None
        return editor.now.variable(name) or editor.now.undeclared(name)

    def _with_derived(self, name: str) -> Trace | None:
        """Return the recording with a derived value as an additional column; None if its rule is invalid."""
        trace, column = self.editor.now.trace, self.editor.now.column(name)
        if column is None:
            return None
        return Trace(trace.name, trace.t, trace.run, {**trace.columns, name: column}, trace.events, trace.clock)

    def _is_of_all(self, name: str) -> bool:
        """Return whether a name is a roster or an event rather than a single value."""
        return name.endswith(("[]", "()"))

    def _offers(self, name: str) -> tuple[Project, list[Widget]]:
        """Return the project with a name declared, and widgets for it, best first."""
        editor = self.editor
        if self._is_of_all(name):
            base, roster = editor.now.project, name.removesuffix("[]")
            if name.endswith("[]") and all(one.name != roster for one in base.rosters):
                base = editor.now.declared(
                    next(one for one in editor.now.trace.columns if one.startswith(f"{roster}["))
                )
            return base, self._sized(base, offers_of_all(name, base, editor.now.trace))
        if not editor.now.is_derived(name):
            base = editor.now.declared(name)
            return base, self._sized(base, offers(name, base, editor.now.trace))
        seen, project = self._with_derived(name), editor.now.project
        assert seen is not None  # `variable` found it
        posing = replace(
            project, variables=(*project.variables, guess(seen, name)),
            derived=tuple(one for one in project.derived if one.name != name),
        )  # fmt: skip
        return project, offers(name, posing, seen)

    def _sized(self, base: Project, offered: list[Widget]) -> list[Widget]:
        """Size the first offer, which is inserted at once, for its recorded values."""
        editor = self.editor
        first = [sized(base, one, editor.now.trace, editor.now.bound, editor.now.folder) for one in offered[:1]]
        return [*first, *offered[1:]]

    # -- during the drag --------------------------------------------------------------------------------------------

    def move(self, name: str, place: QPoint) -> None:
        """Preview a drop at a global position."""
        if name != self._name:
            self._begin(name)
        point = QPointF(self.hud.mapFromGlobal(place))
        if not self.hud.seen_rect().contains(point):
            self.hud.show_coming(None)
            return
        target = self.hud.any_at(point) if self.hud.zones is None else ""
        if target or self._coming is None or self.hud.zones is not None:
            self.hud.show_coming(None, target)
            return
        widget, tracks = self._coming
        x, y = self.hud.to_reference(point)
        self.hud.show_coming((replace(widget, widget=placed_at(widget.widget, x, y, self.editor.now.project)), tracks))

    def _begin(self, name: str) -> None:
        self._name, self._coming = name, None
        if not self._is_of_all(name) and self.variable(name) is None:
            return
        base, offered = self._offers(name)
        if not offered:
            return
        widget = offered[0]
        bound = bind(
            base.with_widget(widget), self.editor.now.bound, self.editor.now.bound.events, self.editor.now.folder
        )
        found = bound.widgets[widget.id]
        self._coming = (found, Tracks(bound, self.editor.now.trace, only=[found]))

    def move_widget(self, widget: BoundWidget, tracks: Tracks, place: QPoint) -> None:
        """Preview a complete widget at a global position."""
        point = QPointF(self.hud.mapFromGlobal(place))
        if not self.hud.seen_rect().contains(point):
            self.hud.show_coming(None)
            return
        x, y = self.hud.to_reference(point)
        self.hud.show_coming((replace(widget, widget=placed_at(widget.widget, x, y, self.editor.now.project)), tracks))

    def drop_offer(self, offer: Offer, place: QPoint) -> None:
        """Insert an offer at a position; one that follows something keeps its place."""
        self.cancel()
        point, widget = QPointF(self.hud.mapFromGlobal(place)), offer.widget
        if self.hud.seen_rect().contains(point):
            x, y = self.hud.to_reference(point)
            placed = widget if widget.place.follow is not None else placed_at(widget, x, y, self.editor.now.project)
            self.add(replace(offer, widget=placed))

    def add(self, offer: Offer) -> None:
        """Add a placed widget with the events it shows. One undo step."""
        project = offer.declared_in(self.editor.now.project)
        widget = replace(offer.widget, id=free_id(offer.widget.id, project))
        self.editor.do(seal)
        self.editor.do(edit, project.with_widget(widget), f"add {widget.title}")
        self.editor.do(select_merged, widget.id)

    def cancel(self) -> None:
        """Cancel the drag."""
        self._name, self._coming = "", None
        self.hud.show_coming(None)

    # -- the drop ---------------------------------------------------------------------------------------------------

    def drop(self, name: str, place: QPoint) -> None:
        """Handle a drop at a global position."""
        self.cancel()
        point = QPointF(self.hud.mapFromGlobal(place))
        if not self.hud.seen_rect().contains(point):
            return
        zones = self.hud.zones
        if zones is not None:
            self._to_zone(zones, name, zones.zone_at(point, self.hud.picture_rect()))
            return
        target = self.hud.any_at(point)
        if target:
            self.choose_input(name, target, place)
        else:
            self.put(name, self.hud.to_reference(point))

    def _to_zone(self, zones: Zones, name: str, number: int | None) -> None:
        """While zones are edited, make the zone below follow a dropped position."""
        pair = position_pair(name, self.editor.now.project)
        if number is None or pair is None:
            self.editor.say("Drop a position, as of a boat, onto a zone: it follows it")
        else:
            zones.take_along(number, *pair)

    def put(self, name: str, at: tuple[float, float] | None = None) -> None:
        """Insert a widget for a variable and offer other kinds. at: its centre in reference pixels; None for a free position."""
        known = self._is_of_all(name) or self.variable(name) is not None
        base, found = self._offers(name) if known else (self.editor.now.project, [])
        if not found:
            self.editor.say(f"{name} cannot be bound: the recording says nothing about it", error=True)
            return
        if at is None:
            found = [with_room(base, widget) for widget in found]
        else:
            found = [placed_at(widget, *at, base) for widget in found]
        self._base = base
        self.editor.do(seal)
        self.take(found, 0)

    def take(self, offered: list[Widget], chosen: int) -> None:
        """Insert one of the offered widgets; choosing again belongs to the same undo step."""
        assert self._base is not None
        widget = offered[chosen]
        merge = f"bind {offered[0].inputs}"
        self.editor.do(edit, self._base.with_widget(widget), f"add {widget.title}", merge)
        self.editor.do(select_merged, widget.id)
        self.offered.emit(offered, chosen)

    def choose_input(self, name: str, target: str, place: QPoint) -> None:
        """Bind a variable to a widget's input: at once if only one suits, else from a menu."""
        widget = self.editor.now.bound.widgets[target]
        variable = self.variable(name) if not self._is_of_all(name) else None
        kind = KIND_OF[variable.type] if variable is not None else None
        suited = [i for i in widget.kind.all_inputs() if kind is not None and (i.kind == kind or i.kind == "template")]
        events = self.editor.now.bound.scope.events
        others = list(dropped(name, widget.widget, self.editor.now.project, events))
        if len(others) == 1 and not suited:
            self._apply_drop(others[0])
            return
        if not suited and not others:
            self.editor.say(f"No input of {widget.widget.title} takes {name}", error=True)
            return
        if len(suited) == 1 and not others:
            self._bind(name, target, suited[0].name, suited[0].kind == "template")
            return
        menu = new_menu(self.hud)
        for other in others:
            menu.addAction(other.title, functools.partial(self._apply_drop, other))
        if others:
            menu.addSeparator()
        for info in suited:
            now = widget.widget.inputs.get(info.name, "")
            text = f"{info.name}:  {now or info.default or 'empty'}  →  {name}"
            action = QAction(text, menu)
            template = info.kind == "template"
            action.triggered.connect(lambda _=False, i=info.name, tpl=template: self._bind(name, target, i, tpl))
            menu.addAction(action)
        menu.popup(place)

    def _apply_drop(self, other: Dropped) -> None:
        """Apply a result of a drop other than feeding an input."""
        self.editor.do(seal)
        self.editor.do(set_widget, other.widget, f"{other.title} of {other.widget.title}")
        self.editor.do(select_widget, other.widget.id)

    def _bind(self, name: str, target: str, input_name: str, template: bool) -> None:
        base = self.editor.now.project if self.editor.now.is_derived(name) else self.editor.now.declared(name)
        widget = base.widget(target)
        inputs = {**widget.inputs, input_name: f"{{{name}}}" if template else name}
        changed = base.with_widget(replace(widget, inputs=inputs))
        self.editor.do(seal)
        self.editor.do(edit, changed, f"bind {name} to {widget.title}")
        self.editor.do(select_widget, target)
