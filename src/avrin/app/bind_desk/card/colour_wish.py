"""A colour that somebody wants to choose, told by what shows it to what can choose."""

from __future__ import annotations

from collections.abc import Callable

from msgspec import Struct
from PySide6.QtWidgets import QWidget

from avrin.model import Widget

__all__ = ["ColourWish"]


class ColourWish(Struct, frozen=True):
    """at: what was pressed. ident: the widget that wears it. what: it is, in words. made: the widget wearing another one."""

    at: QWidget
    ident: str
    what: str
    colour: str
    made: Callable[[Widget, str], Widget]
