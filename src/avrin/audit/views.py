"""What is found of one way to look at a HUD: on one screen at one size, over one plate, in one language, by one kind of eyes."""

from __future__ import annotations

from msgspec import Struct

from avrin.model import Plate, Screen
from avrin.texts import OWN

__all__ = ["View"]


class View(Struct, frozen=True):
    """screen: at the size it is looked at; its name says so where that is not its own. plate: None for a plain ground.

    eyes: one of `avrin.render.EYES`, "" for full colour. language: one of `avrin.texts.language_codes`.
    """

    screen: Screen
    plate: Plate | None = None
    eyes: str = ""
    language: str = OWN
