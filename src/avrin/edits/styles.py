"""Named looks: created from one widget, used by others, changed for all at once."""

from __future__ import annotations

import re

from msgspec.structs import replace

from avrin.errors import AvrinError
from avrin.project.project import Project, Widget

__all__ = ["restyled", "style_made", "style_removed"]

NAME = re.compile(r"[\w -]{1,60}")


def style_made(project: Project, ident: str, name: str) -> Project:
    """Return the project with a widget's look turned into a style it uses. Raises AvrinError for an invalid name."""
    plain, widget = " ".join(name.split()), project.widget(ident)
    if not NAME.fullmatch(plain):
        raise AvrinError(f"'{name}' is not a valid style name", advice="Use up to 60 letters, digits, spaces, _ and -")
    if plain in project.styles:
        raise AvrinError(f"there is a style '{plain}' already", advice="Choose another name")
    look = {**project.styles.get(widget.style, {}), **widget.look}
    made = replace(project, styles={**project.styles, plain: look})
    return made.with_widget(replace(widget, style=plain, look={}))


def restyled(project: Project, ident: str) -> Project:
    """Return the project with a widget's own look moved into its style, which changes all users of it."""
    widget = project.widget(ident)
    style = {**project.styles.get(widget.style, {}), **widget.look}
    made = replace(project, styles={**project.styles, widget.style: style})
    return made.with_widget(replace(widget, look={}))


def style_removed(project: Project, name: str) -> Project:
    """Return the project without a style; its users get the same look as their own."""
    style = project.styles.get(name, {})

    def freed(widget: Widget) -> Widget:
        return replace(widget, style="", look={**style, **widget.look}) if widget.style == name else widget

    styles = {key: look for key, look in project.styles.items() if key != name}
    return replace(project, styles=styles, widgets=tuple(map(freed, project.widgets)))
