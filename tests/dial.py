"""A kind of widget that no file of the program mentions: a needle over a scale, with a share for a level.

It is registered for every test (`conftest.py`), so that whatever looks at all kinds is seen to ask their records.
"""

from __future__ import annotations

import math
from typing import Annotated

from msgspec import Meta, Struct

from avrin.kinds.kind import Drawing, Input, Kind, KindSample, TrackColumn, Wired, Wiring, plain_id
from avrin.kinds.look import Colour, Look
from avrin.kinds.shapes import Box, Path, Shape, TextRun, hatched
from avrin.kinds.subject import Offer, Subject
from avrin.project.project import Place, Project, Widget
from avrin.rules.functions.plain import SHARE

__all__ = ["KIND"]


class Options(Struct, frozen=True, kw_only=True):
    """turn: degrees from empty to full."""

    turn: Annotated[float, Meta(ge=10, le=360)] = 180.0


class DialLook(Look, frozen=True, kw_only=True):
    """needle, back: colours."""

    needle: Colour = "#f2f6f4"
    back: Colour = "#10222b"


def wire(w: Wiring) -> Wired:
    """Track: angle, lit (whether it is beyond half), title."""
    graph = w.graph
    level = graph.add(SHARE, (w["value"], graph.constant(0, "number"), w["full"]), "number")
    return Wired({"angle": level, "title": w.get("title") or graph.constant("", "text")}, level)


def shapes(d: Drawing) -> tuple[Shape, ...]:
    """The plate, the needle, the title."""
    drawn: list[Shape] = [Box(0, 0, d.width, d.height, d.look.back, 4)]
    angle = d.state["angle"]
    if isinstance(angle, float):
        way = math.radians((min(max(angle, 0.0), 1.0) - 0.5) * d.options.turn)
        x, y, long = d.width / 2, d.height * 0.9, d.height * 0.7
        needle = (("M", x, y), ("L", x + long * math.sin(way), y - long * math.cos(way)))
        drawn.append(Path(needle, "", d.look.needle, 3.0))
    else:
        drawn.append(hatched(0, 0, d.width, d.height))
    if title := str(d.state["title"] or ""):
        drawn.append(TextRun(4, d.height - 6, title, 14.0, d.look.text, False))
    return tuple(drawn)


def offer(subject: Subject, _project: Project) -> Offer | None:
    """A dial for a bearing."""
    variable = subject.variable
    if variable is None or variable.unit != "°" or variable.high is None:
        return None
    inputs = {"value": variable.name, "full": f"{variable.high:g}"}
    ident = f"{plain_id(variable.name)}_dial"
    return Offer(Widget(id=ident, kind="dial", inputs=inputs, place=Place(size=(90.0, 60.0))), 0.1)


KIND = Kind(
    name="dial",
    help="A needle over a scale.",
    inputs=(
        Input("value", "number", "Where the needle points.", needed=True, main=True),
        Input("full", "number", "The value at the scale's end.", "1", needed=True),
        Input("title", "template", "What it measures."),
    ),
    options=Options,
    look=DialLook,
    wire=wire,
    shapes=shapes,
    columns=(TrackColumn("angle", "end", discrete=False), TrackColumn("title", "text")),
    offer=offer,
    share=True,
    words="title",
    names="worded",
    writes=("title",),
    manual_sample=KindSample(size=(90.0, 60.0), inputs={"value": "hull", "full": "full", "title": "hull"}),
    test_sample=KindSample(size=(300.0, 60.0), inputs={"value": "hull", "full": "full", "title": "{words}"}),
)
