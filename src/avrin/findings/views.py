"""A single view of a HUD: one screen at one size, over one plate, in one language, with one colour vision."""

from __future__ import annotations

from msgspec import Struct

from avrin.i18n.own_language import OWN
from avrin.project.project import Plate, Screen

__all__ = ["View"]


class View(Struct, frozen=True):
    """screen: at the viewed size; its name states a size other than its own. plate: None for a plain background.

    eyes: one of `avrin.render.EYES`, "" for normal vision. language: one of `avrin.i18n.language_codes`.
    """

    screen: Screen
    plate: Plate | None = None
    eyes: str = ""
    language: str = OWN
