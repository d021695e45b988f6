"""The timer: seconds as a clock, counting up or down."""

from typing import Literal

from msgspec import Struct

from avrin.kinds.counter import CounterLook, figures
from avrin.kinds.glyph_sheet import GlyphSheet
from avrin.kinds.hints import is_vital
from avrin.kinds.kind import Drawing, Input, Kind, KindSample, TrackColumn, Wired, Wiring, plain_id
from avrin.kinds.shapes import Shape
from avrin.kinds.subject import Offer, Subject, band_looks, why
from avrin.project.project import Band, Place, Project, Widget
from avrin.rules.operators import MAX

__all__ = ["KIND"]


class Options(Struct, frozen=True, kw_only=True):
    """pattern: the time's pattern. way: counting down shows 0:00 only at the end, counting up only at the start.

    face: a glyph sheet that replaces the font.
    """

    pattern: str = "m:ss"
    way: Literal["up", "down"] = "down"
    face: GlyphSheet | None = None


def wire(w: Wiring) -> Wired:
    """Track: seconds (never negative) and text."""
    shape = w.options.pattern
    if shape and not shape.rstrip().endswith((", up", ", down", ", near", ",up", ",down", ",near")):
        shape += ", up" if w.options.way == "down" else ", down"
    seconds = w.graph.add(MAX, (w["value"], w.graph.constant(0, "number")), "number")
    text = w.written(seconds, shape)
    caption = w.get("caption") or w.graph.constant("", "text")
    return Wired({"seconds": seconds, "text": text}, w["value"], {"caption": caption})


def shapes(d: Drawing) -> tuple[Shape, ...]:
    """Draw the time and the caption below it."""
    return figures(d, missing=d.state["seconds"] is None)


def offer(subject: Subject, _project: Project) -> Offer | None:
    """Offer a timer for a number of seconds or milliseconds."""
    if not subject.is_number or subject.variable is None:
        return None
    counted = subject.behaviour.per_second if subject.behaviour is not None else 0.0
    unit = subject.variable.unit
    if not counted and unit not in ("s", "ms"):
        return None
    value = f"{subject.name} / 1000" if counted == 1000 or (not counted and unit == "ms") else subject.name
    down = subject.sort == "counts down"
    most = (subject.behaviour.high or 0.0) / (counted or 1.0) if subject.behaviour is not None else 0.0
    bands: tuple[Band, ...] = ()
    if down and most >= 40:
        bands = (Band(name="critical", below="10s"), Band(name="low", below="30s"))
    elif down and most >= 15:
        bands = (Band(name="critical", below="5s"),)
    widget = Widget(
        id=f"{plain_id(subject.name)}_timer", kind="timer", inputs={"value": value, "caption": subject.title},
        place=Place(size=(220.0, 84.0)), bands=bands, look=band_looks(bands, "text", flash="1s"),
    )  # fmt: skip
    weight = (
        0.4
        if is_vital(subject.name)
        else 0.66
        if down
        else 0.5
        if subject.sort == "counts up"
        else 0.5
        if subject.behaviour is None
        else 0.22
    )
    return Offer(widget, weight, why(subject))


KIND = Kind(
    name="timer",
    help="Seconds as a clock, counting up or down.",
    inputs=(
        Input("value", "number", "Seconds.", needed=True, main=True),
        Input("caption", "template", "A text under the time."),
    ),
    options=Options, look=CounterLook, wire=wire, shapes=shapes,
    columns=(TrackColumn("seconds", discrete=False), TrackColumn("text", "text")),
    offer=offer,
    home="top-right", bare=True, words="caption", writes=("text", "caption"), glyph_text="text", fits="line",
    reading="text",
    manual_sample=KindSample(
        size=(180.0, 80.0), inputs={"value": "hull", "caption": "tide turns"},
        look={"bands": {"low": {"text": "#ffd08a"}}}, bands=(Band(name="low", below="35"),),
    ),
    test_sample=KindSample(size=(300.0, 60.0), inputs={"value": "hull", "caption": "{words}"}, options={"pattern": "m:ss.S"}),
)  # fmt: skip
