"""Everything that can be done by keyboard: one table, which makes the shortcuts and the menu."""

from __future__ import annotations

from collections.abc import Callable

from msgspec import Struct

__all__ = ["Action"]


class Action(Struct, frozen=True):
    """One command. keys: as Qt writes them, the first is shown. group: its part of the menu.

    everywhere: it works on the first page too.
    """

    text: str
    keys: tuple[str, ...]
    act: Callable[[], object]
    group: str
    enabled: Callable[[], bool] = lambda: True
    everywhere: bool = False
