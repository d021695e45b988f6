"""A request to choose a colour."""

from __future__ import annotations

from collections.abc import Callable

from msgspec import Struct
from PySide6.QtWidgets import QWidget

from avrin.project.project import Widget

__all__ = ["ColourWish"]


class ColourWish(Struct, frozen=True):
    """at: the pressed control. ident: the widget. what: the colour's name. recoloured: returns the widget with another colour."""

    at: QWidget
    ident: str
    what: str
    colour: str
    recoloured: Callable[[Widget, str], Widget]
