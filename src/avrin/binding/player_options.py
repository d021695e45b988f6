"""Options of the player applied to what is drawn: sizes, flashing, colours. Widgets and the project stay as they are."""

from __future__ import annotations

from typing import Any, TypeVar

from msgspec import Struct
from msgspec.structs import replace

from avrin.project.project import PlayerOption, Project, Screen

__all__ = ["adapted", "option_named", "scaled"]

S = TypeVar("S", bound=Struct)


def option_named(project: Project, name: str) -> PlayerOption | None:
    """Return the option with a name; None for "" and for one that the project does not have."""
    return next((one for one in project.options if one.name == name), None)


def scaled(screen: Screen, option: PlayerOption | None) -> Screen:
    """Return the screen with the HUD's size as an option sets it."""
    return screen if option is None or option.scale == 1.0 else replace(screen, scale=screen.scale * option.scale)


def adapted(look: S, option: PlayerOption) -> S:
    """Return a look, or a part of one, with an option's colours, and without flashing if it is off."""
    colours = {old.lower(): new for old, new in option.colours.items()}
    changes = {name: _adapted(name, getattr(look, name), option, colours) for name in look.__struct_fields__}
    return replace(look, **changes)


def _adapted(name: str, value: Any, option: PlayerOption, colours: dict[str, str]) -> Any:  # noqa: ANN401  (any field)
    if name == "flash" and not option.flash:
        return ""
    if isinstance(value, str) and value.startswith("#"):
        return colours[value[:7].lower()] + value[7:] if value[:7].lower() in colours else value
    return adapted(value, option) if isinstance(value, Struct) else value
