"""A lamp: lit while a rule is true. The smallest kind there is, to copy.

What it can do beyond this (bands, keys, several shapes, offers) is a field of `Kind` each; `tests/dial.py` uses most.
"""

from __future__ import annotations

from msgspec import Struct

from avrin.kinds.kind import Drawing, Input, Kind, KindSample, TrackColumn, Wired, Wiring
from avrin.kinds.look import Colour, Look
from avrin.kinds.shapes import Box, Shape

__all__ = ["KIND"]


# What the project's file may say under "options" of such a widget. Every field has a default and a type; its bounds are
# checked when the file is read, and its fields are on the card.
class Options(Struct, frozen=True, kw_only=True):
    """A lamp without options."""


# The same for "look". `Look` brings what all kinds have: font, size and colour of text.
class LampLook(Look, frozen=True, kw_only=True):
    """lit, dark: colours."""

    lit: Colour = "#e8b64c"
    dark: Colour = "#22303a"


# From inputs to columns of the track: steps of the graph, evaluated for all frames at once.
def wire(w: Wiring) -> Wired:
    """Track: lit."""
    return Wired({"lit": w["on"]}, w["on"])


# From the state at one frame to shapes, in a box of d.width × d.height reference pixels. A missing value is None.
def shapes(d: Drawing) -> tuple[Shape, ...]:
    """Draw a disc."""
    side = min(d.width, d.height)
    colour = d.look.lit if d.state["lit"] is True else d.look.dark
    return (Box((d.width - side) / 2, (d.height - side) / 2, side, side, colour, side / 2),)


KIND = Kind(
    name="lamp",
    help="A lamp, lit while its rule is true.",
    inputs=(Input("on", "flag", "Whether it is lit.", needed=True, main=True),),
    options=Options,
    look=LampLook,
    wire=wire,
    shapes=shapes,
    columns=(TrackColumn("lit", "state"),),
    manual_sample=KindSample(size=(60.0, 60.0), inputs={"on": "hull > 50"}),
    test_sample=KindSample(size=(60.0, 60.0), inputs={"on": "hull > 50"}),
)
