"""The counter: a number as text."""

from typing import Annotated

from msgspec import Meta, Struct

from avrin.kinds.glyph_sheet import GlyphSheet, written
from avrin.kinds.hints import is_reading, is_score
from avrin.kinds.kind import Drawing, Input, Kind, KindSample, TrackColumn, Wired, Wiring, plain_id
from avrin.kinds.look import Look, Size
from avrin.kinds.motion import roll
from avrin.kinds.shapes import Align, Shape, TextRun, hatched
from avrin.kinds.subject import Offer, Subject, band_looks, pattern_for, why
from avrin.project.project import Band, Place, Project, Widget

__all__ = ["KIND", "CounterLook", "figures"]

CAPTION_LEADING = 1.3  # of the caption's size: from the number's line to the caption's


class Options(Struct, frozen=True, kw_only=True):
    """pattern: the number's pattern, "" for plain. roll: seconds it takes to reach a new number.

    face: a glyph sheet that replaces the font.
    """

    pattern: str = ""
    face: GlyphSheet | None = None
    roll: Annotated[float, Meta(ge=0, le=60)] = 0.0


class CounterLook(Look, frozen=True, kw_only=True):
    """align: alignment of the texts in the box. caption_size: pixels."""

    text_size: Size = 48.0
    bold: bool = True
    align: Align = "left"
    caption_size: Size = 20.0


def wire(w: Wiring) -> Wired:
    """Track: shown (the rolling number) and text."""
    shown = roll(w.graph, w["value"], w.options.roll)
    text = w.written(shown, w.options.pattern)
    return Wired(
        {"shown": shown, "text": text}, w["value"], {"caption": w.get("caption") or w.graph.constant("", "text")}
    )


def shapes(d: Drawing) -> tuple[Shape, ...]:
    """Draw the number and the caption below it."""
    return figures(d, missing=d.state["shown"] is None)


def figures(d: Drawing, *, missing: bool) -> tuple[Shape, ...]:
    """Draw a large text with a caption below it; hatched if it is missing."""
    look: CounterLook = d.look
    caption, text = str(d.state.get("caption") or ""), str(d.state["text"] or "")
    cap = d.measure.cap_height(look.text_size, look.bold)
    below = look.caption_size * CAPTION_LEADING if caption else 0.0
    base = (d.height - below + cap) / 2
    x = {"left": 0.0, "center": d.width / 2, "right": d.width}[look.align]
    drawn: list[Shape] = []
    if missing:
        wide = max(d.measure.width(text, look.text_size, look.bold) * 1.6, cap)
        left = x - wide * {"left": 0.0, "center": 0.5, "right": 1.0}[look.align]
        drawn.append(hatched(left, base - cap * 1.15, wide, cap * 1.3))
        drawn.append(TextRun(left + wide / 2, base, text, look.text_size, "#6a6459", look.bold, "center"))
    elif getattr(d.options, "face", None) is not None:
        drawn += written(d.options.face, d.folder, text, x, base, cap * 1.2, look.align)
    else:
        drawn.append(TextRun(x, base, text, look.text_size, look.text, look.bold, look.align))
    if caption:
        drawn.append(TextRun(x, base + below, caption, look.caption_size, look.text, False, look.align))
    return tuple(drawn)


def offer(subject: Subject, _project: Project) -> Offer | None:
    """Offer a counter for any number; with bands only if one of its ends is dangerous."""
    if not subject.is_number or subject.variable is None:
        return None
    unit, bands = subject.variable.unit, subject.bands(subject.full_value) if subject.full_value else ()
    widget = Widget(
        id=f"{plain_id(subject.name)}_counter", kind="counter",
        inputs={"value": subject.name, "caption": f"{subject.title}, {unit}" if unit else subject.title},
        place=Place(size=(220.0, 84.0)), options={"pattern": pattern_for(subject)}, bands=bands,
        look=band_looks(bands, "text"),
    )  # fmt: skip
    weight = WEIGHTS.get(subject.sort, 0.1)
    whole = subject.variable.type == "int"
    if subject.sort in ("grows", "wanders", "gauge") and is_score(subject.name):
        weight = 0.62
    elif subject.sort in ("wanders", "vital") and is_reading(subject.name):
        weight = 0.45
    elif subject.sort == "grows" and not whole:
        weight = 0.3
    if subject.sort == "grows" and subject.behaviour is not None and subject.behaviour.restless:
        weight = 0.2  # internal to the game, such as a frame number
    return Offer(widget, weight, why(subject))


WEIGHTS = {"grows": 0.5, "": 0.4, "wanders": 0.12, "vital": 0.3, "gauge": 0.2, "still": 0.05}  # by behaviour


KIND = Kind(
    name="counter",
    help="A number in figures.",
    inputs=(
        Input("value", "number", "What it shows.", needed=True, main=True),
        Input("caption", "template", "A text under the number."),
    ),
    options=Options,
    look=CounterLook,
    wire=wire,
    shapes=shapes,
    columns=(TrackColumn("shown", discrete=False), TrackColumn("text", "text")),
    offer=offer,
    home="top-right",
    bare=True,
    words="caption",
    writes=("text", "caption"),
    glyph_text="text",
    fits="line",
    reading="text",
    manual_sample=KindSample(
        size=(180.0, 80.0), inputs={"value": "hull", "caption": "hull"}, options={"pattern": "0.0"},
        look={"bands": {"low": {"text": "#ffd08a"}}}, bands=(Band(name="low", below="35"),),
    ),
    test_sample=KindSample(
        size=(300.0, 60.0), inputs={"value": "hull", "caption": "{words}"}, options={"pattern": "#,##0.00"},
        look={"outline": "#10202a", "outline_width": 3},
    ),
)  # fmt: skip
