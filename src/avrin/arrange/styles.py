"""Looks that have a name: made from what one widget wears, worn by others, changed once for all."""

from __future__ import annotations

import re

from msgspec.structs import replace

from avrin.model import AvrinError, Project, Widget

__all__ = ["restyled", "style_made", "style_removed"]

NAME = re.compile(r"[\w -]{1,60}")


def style_made(project: Project, ident: str, name: str) -> Project:
    """The project in which what a widget wears of its own is a style, and it wears that. Raises AvrinError for a bad name."""
    plain, widget = " ".join(name.split()), project.widget(ident)
    if not NAME.fullmatch(plain):
        raise AvrinError(f"'{name}' is no name of a style", advice="Letters, digits, spaces, _ and -, 60 at most")
    if plain in project.styles:
        raise AvrinError(f"there is a style '{plain}' already", advice="Choose another name")
    look = {**project.styles.get(widget.style, {}), **widget.look}
    made = replace(project, styles={**project.styles, plain: look})
    return made.with_widget(replace(widget, style=plain, look={}))


def restyled(project: Project, ident: str) -> Project:
    """The project in which what a widget wears of its own over its style is that style's: all that wear it change."""
    widget = project.widget(ident)
    style = {**project.styles.get(widget.style, {}), **widget.look}
    made = replace(project, styles={**project.styles, widget.style: style})
    return made.with_widget(replace(widget, look={}))


def style_removed(project: Project, name: str) -> Project:
    """The project without a style; who wore it wears the same of its own."""
    style = project.styles.get(name, {})

    def freed(widget: Widget) -> Widget:
        return replace(widget, style="", look={**style, **widget.look}) if widget.style == name else widget

    styles = {key: look for key, look in project.styles.items() if key != name}
    return replace(project, styles=styles, widgets=tuple(map(freed, project.widgets)))
