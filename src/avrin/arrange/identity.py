"""What a widget is called, which kind it is of, and which group it lies in."""

from __future__ import annotations

import re
from collections.abc import Collection, Mapping

import msgspec
from msgspec.structs import replace

from avrin.arrange.naming import typed_id
from avrin.arrange.placing import shifted
from avrin.model import AvrinError, Group, Project, Widget, nearest
from avrin.widgets import KINDS

__all__ = ["grouped", "id_like", "kind_changed", "renamed_widget", "titled", "ungrouped"]

LONGEST_TITLE = 120


def renamed_widget(project: Project, ident: str, new: str) -> Project:
    """The project in which a widget has another id; what was hushed of it stays hushed. Raises AvrinError."""
    plain = typed_id(new, {widget.id for widget in project.widgets} - {ident}, "widget")
    if plain == ident:
        return project
    hush = tuple({**one, "of": plain} if one.get("of") == ident else one for one in project.hush)
    widgets = tuple(replace(widget, id=plain) if widget.id == ident else widget for widget in project.widgets)
    return replace(project, widgets=widgets, hush=hush)


def titled(project: Project, ident: str, title: str) -> Project:
    """The project in which a widget is called something; "" for what its id says. Raises AvrinError for what is too long."""
    widget, plain = project.widget(ident), " ".join(title.split())
    if len(plain) > LONGEST_TITLE:
        raise AvrinError(
            f"a title of {len(plain):,} letters is longer than any lane", advice=f"{LONGEST_TITLE} letters at most"
        )
    return project.with_widget(replace(widget, own_title="" if plain == widget.said_id else plain))


def id_like(project: Project, ident: str) -> str:
    """An id that says a widget's title, free in the project; its own where that says it already."""
    plain = re.sub(r"[^\w-]+", "_", project.widget(ident).title.lower()).strip("_")[:70] or ident
    taken, number, found = {widget.id for widget in project.widgets} - {ident}, 2, plain
    while found in taken:
        found, number = f"{plain}_{number}", number + 1
    return found


def kind_changed(project: Project, ident: str, kind: str) -> Project:
    """The project in which a widget is of another kind; inputs, options and looks that fit are kept. Raises AvrinError."""
    if kind not in KINDS:
        close = nearest(kind, KINDS)
        raise AvrinError(f"there is no kind '{kind}'" + (f": did you mean '{close}'?" if close else ""))
    widget, new = project.widget(ident), KINDS[kind]
    before = KINDS.get(widget.kind)
    takes = {one.name: one.kind for one in new.all_inputs()}
    had = {one.name: one.kind for one in before.all_inputs()} if before is not None else {}
    inputs = {
        name: rule
        for name, rule in widget.inputs.items()
        if name in takes and takes[name] == had.get(name, takes[name])
    }
    if before is not None:
        _carry_words(widget, inputs, before.words, new.words)
        _carry_main(widget, inputs, before.main_inputs(), new.main_inputs(), had, takes)
    return project.with_widget(
        replace(
            widget,
            kind=kind,
            inputs=inputs,
            options=_fitting(widget.options, new.options),
            look=_look(widget.look, new.look),
        )
    )


def _carry_words(widget: Widget, inputs: dict[str, str], before: str, after: str) -> None:
    """What says in words what it is about goes on saying so."""
    if before and after and after not in inputs and before in widget.inputs:
        inputs[after] = widget.inputs[before]
        if before != after:
            inputs.pop(before, None)


def _carry_main(
    widget: Widget,
    inputs: dict[str, str],
    before: tuple[str, ...],
    after: tuple[str, ...],
    had: Mapping[str, str],
    takes: Mapping[str, str],
) -> None:
    """What it is about feeds what the other kind is about, where that is of the same sort."""
    for name in after:
        if name in inputs:
            continue
        fed = {had[old]: widget.inputs[old] for old in reversed(before) if old in widget.inputs}
        if takes[name] in fed:
            inputs[name] = fed[takes[name]]
        elif takes[name] == "template" and "number" in fed:
            inputs[name] = f"{{{fed['number']}}}"


def _look(raw: dict[str, object], struct: type[msgspec.Struct]) -> dict[str, object]:
    """What another kind takes of a look, and of what its bands change in it."""
    fitting, bands = _fitting(raw, struct), raw.get("bands")
    if isinstance(bands, dict):
        fitting["bands"] = {name: _fitting(one, struct) for name, one in bands.items() if isinstance(one, dict)}
    return fitting


def _fitting(raw: dict[str, object], struct: type[msgspec.Struct]) -> dict[str, object]:
    """Those fields that another record has as well, and that it takes."""
    found: dict[str, object] = {}
    for name, value in raw.items():
        try:
            if name in struct.__struct_fields__:
                msgspec.convert({name: value}, struct)
                found[name] = value
        except msgspec.ValidationError:
            continue
    return found


def grouped(project: Project, idents: Collection[str], wanted: str = "group") -> tuple[Project, str]:
    """The project with some widgets in a group of their own, within the one that all of them lie in; and its id."""
    chosen = [widget for widget in project.widgets if widget.id in idents]
    taken, number, ident = {group.id for group in project.groups}, 2, wanted
    while ident in taken:
        ident, number = f"{wanted}_{number}", number + 1
    outer = {widget.group for widget in chosen}
    group = Group(id=ident, group=outer.pop() if len(outer) == 1 else "")
    widgets = tuple(replace(w, group=ident) if w.id in idents else w for w in project.widgets)
    return replace(project, groups=(*project.groups, group), widgets=widgets), ident


def ungrouped(project: Project, idents: Collection[str]) -> Project:
    """The project with some widgets one group further out; groups left without widgets and groups are gone.

    What a group moves them by they keep, so that they stay where they are; its condition and opacity are the group's alone.
    """
    groups = {group.id: group for group in project.groups}

    def freed(widget: Widget) -> Widget:
        group = groups.get(widget.group) if widget.id in idents else None
        if group is None:
            return widget
        return replace(widget, group=group.group, place=shifted(widget.place, *group.offset))

    widgets = tuple(map(freed, project.widgets))
    left = {group.id for group in project.groups}
    emptied = {project.widget(ident).group for ident in idents} - {""}
    while gone := {
        ident for ident in emptied & left
        if all(w.group != ident for w in widgets) and all(groups[one].group != ident for one in left)
    }:  # fmt: skip
        left -= gone
        emptied |= {groups[ident].group for ident in gone}
    return replace(project, widgets=widgets, groups=tuple(group for group in project.groups if group.id in left))
