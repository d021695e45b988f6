"""The bar: a share, as the filled part of a frame."""

from typing import Annotated, Literal

from msgspec import Meta, Struct

from avrin.kinds.kind import Drawing, Input, Kind, KindSample, TrackColumn, Wired, Wiring, plain_id
from avrin.kinds.look import CALM, PALE, SEA, Colour, Look, Size
from avrin.kinds.motion import trail
from avrin.kinds.shapes import Box, Clip, Group, Shape, TextRun, hatched
from avrin.kinds.subject import Offer, Subject, band_looks, share_figures, share_weight, why
from avrin.project.project import Band, Place, Project, Widget
from avrin.rules.functions.plain import SHARE
from avrin.rules.operators import ARITHMETIC, CLAMP

__all__ = ["KIND"]

Grow = Literal["right", "left", "up", "down", "middle"]
COLUMNS = (
    TrackColumn("fraction", "end", discrete=False),
    TrackColumn("trail", discrete=False),
    TrackColumn("caption", "text"),
)
SHARE_BANDS = (Band(name="critical", below="10%"), Band(name="low", below="35%"))  # in the manual sample
FILLS = {"bands": {"critical": {"fill": "#d2483f"}, "low": {"fill": "#d9902f"}}}
LEAST_FILL = 0.4  # of a bar's thickness that edge and gap always leave for the fill
CAPTION_STRIP = 1.35  # of the text's size: the height of a caption above or below the bar


class Trail(Struct, frozen=True, kw_only=True, forbid_unknown_fields=True):
    """A ghost of the latest loss. wait: seconds before it shrinks; rate: shares of full per second."""

    wait: Annotated[float, Meta(ge=0, le=60)] = 0.5
    rate: Annotated[float, Meta(gt=0, le=100)] = 0.5


class Options(Struct, frozen=True, kw_only=True):
    """grow: the direction of the fill. over: what happens beyond the ends. segments: 0 for none.

    per_unit: pixels of length per unit of `full`; 0 to fill the box.
    """

    grow: Grow = "right"
    over: Literal["clamp", "spill"] = "clamp"
    segments: Annotated[int, Meta(ge=0, le=200)] = 0
    per_unit: Annotated[float, Meta(ge=0, le=1000)] = 0.0
    trail: Trail | None = None
    caption_at: Literal["above", "below", "inside"] = "above"


class BarLook(Look, frozen=True, kw_only=True):
    """fill: the filled part; ghost: the latest loss; back: the empty part; edge: the frame; gap: from frame to fill."""

    fill: Colour = CALM
    ghost: Colour = "#e9ddc0b0"
    back: Colour = SEA
    edge: Colour = PALE
    edge_width: Size = 2.0
    gap: Size = 3.0
    radius: Size = 5.0


def wire(w: Wiring) -> Wired:
    """Track: fraction (within 0–1 unless `over` is spill), trail, caption."""
    graph, options = w.graph, w.options
    level = graph.add(SHARE, (w["value"], w["empty"], w["full"]), "number")
    fraction = level
    if options.over == "clamp":
        fraction = graph.add(CLAMP, (level, graph.constant(0, "number"), graph.constant(1, "number")), "number")
    ghost = trail(graph, fraction, options.trail.wait, options.trail.rate) if options.trail else fraction
    caption = w.get("caption") or graph.constant("", "text")
    length = graph.add(ARITHMETIC["*"], (w["full"], graph.constant(options.per_unit, "number")), "number")
    return Wired({"fraction": fraction, "trail": ghost, "caption": caption}, level, {"length": length})


def shapes(d: Drawing) -> tuple[Shape, ...]:
    """Draw the frame, the ghost behind the fill, the fill, the gaps between segments and the caption."""
    look: BarLook = d.look
    options: Options = d.options
    caption = str(d.state["caption"] or "")
    strip = look.text_size * CAPTION_STRIP if caption and options.caption_at != "inside" else 0.0
    strip = min(strip, d.height * 0.7)
    top = strip if options.caption_at == "above" else 0.0
    length, height = _extent(d, strip)
    drawn: list[Shape] = [Box(0, top, length, height, look.back, look.radius)]
    fit = _fit(length, height, look)
    edge_width = look.edge_width * fit
    pad = (edge_width if look.edge else 0.0) + look.gap * fit
    inner = (pad, top + pad, max(0.0, length - 2 * pad), max(0.0, height - 2 * pad))
    radius = max(0.0, look.radius - pad)
    fraction, ghost = d.state["fraction"], d.state["trail"]
    if not isinstance(fraction, float):
        drawn.append(hatched(*inner, radius=radius))
    else:
        clip = Clip(*inner, radius) if options.over == "clamp" else None
        fills: list[Shape] = []
        if isinstance(ghost, float) and ghost > fraction:
            fills.append(_filled(inner, ghost, options.grow, look.ghost))
        fills.append(_filled(inner, fraction, options.grow, look.fill))
        fills += _gaps(inner, options, look.back)
        drawn.append(Group(tuple(fills), clip=clip))
    if look.edge and edge_width:
        drawn.append(Box(0, top, length, height, "", look.radius, look.edge, edge_width))
    if caption:
        drawn.append(_caption(d, caption, strip, length, height))
    return tuple(drawn)


def _fit(length: float, height: float, look: BarLook) -> float:
    """Return the factor, 0–1, by which edge and gap shrink so that `LEAST_FILL` remains for the fill."""
    pad = (look.edge_width if look.edge else 0.0) + look.gap
    return min(1.0, (1 - LEAST_FILL) / 2 * min(length, height) / pad) if pad > 0 else 1.0


def squeezed(width: float, height: float, look: BarLook, text: str) -> bool:
    """Return whether edge and gap are drawn thinner than the look specifies, in a box with such a caption."""
    strip = min(look.text_size * CAPTION_STRIP, height * 0.7) if text else 0.0
    return _fit(width, height - strip, look) < 1


def _extent(d: Drawing, strip: float) -> tuple[float, float]:
    """Return length and height of the frame: the box's, or the length `full` requires."""
    wanted = d.state.get("length")
    upright = d.options.grow in ("up", "down")
    if d.options.per_unit and isinstance(wanted, float):
        wanted = min(max(wanted, d.look.radius * 2), 100_000.0)
        return (d.width, wanted) if upright else (wanted, d.height - strip)
    return d.width, d.height - strip


def _filled(inner: tuple[float, float, float, float], share: float, grow: Grow, fill: str) -> Box:
    """Return the filled part. A negative share that spills extends back over the empty end."""
    x, y, width, height = inner
    share = max(-10.0, min(10.0, share))
    if grow == "middle":
        half = width * abs(share)
        return Box(x + (width - half) / 2, y, half, height, fill)
    if grow in ("right", "left"):
        long = width * share
        start = x if grow == "right" else x + width - long
        return Box(min(start, start + long), y, abs(long), height, fill)
    tall = height * share
    start = y if grow == "down" else y + height - tall
    return Box(x, min(start, start + tall), width, abs(tall), fill)


def _gaps(inner: tuple[float, float, float, float], options: Options, fill: str) -> list[Shape]:
    x, y, width, height = inner
    wide = 2.0
    upright = options.grow in ("up", "down")
    marks = range(1, options.segments)
    if upright:
        return [Box(x, y + height * i / options.segments - wide / 2, width, wide, fill) for i in marks]
    return [Box(x + width * i / options.segments - wide / 2, y, wide, height, fill) for i in marks]


def _caption(d: Drawing, caption: str, strip: float, length: float, height: float) -> TextRun:
    look: BarLook = d.look
    size = min(look.text_size, strip / CAPTION_STRIP) if strip else min(look.text_size, height * 0.7)
    cap = d.measure.cap_height(size, look.bold)
    if d.options.caption_at == "inside":
        return TextRun(length / 2, (height + cap) / 2, caption, size, look.text, look.bold, "center")
    middle = strip * 0.42 if d.options.caption_at == "above" else height + strip * 0.58
    return TextRun(0, middle + cap / 2, caption, size, look.text, look.bold)


def offer(subject: Subject, _project: Project) -> Offer | None:
    """Offer a bar for a number with an upper end, with figures clamped like the bar."""
    if not subject.full:
        return None
    inputs = {"value": subject.name, "full": subject.full}
    if subject.empty:
        inputs["empty"] = subject.empty
    inputs["caption"] = f"{subject.title}  {share_figures(subject, of=True)}"
    bands = subject.bands()
    widget = Widget(
        id=f"{plain_id(subject.name)}_bar", kind="bar", inputs=inputs, place=Place(size=(360.0, 64.0)),
        options={"over": "clamp", **({"trail": {"wait": 0.5, "rate": 0.5}} if subject.is_struck else {})}, bands=bands,
        look=band_looks(bands, "fill", flash="0.5s"),
    )  # fmt: skip
    return Offer(widget, share_weight(subject), why(subject))


KIND = Kind(
    name="bar",
    help="How much is left, as a filled stretch of a frame.",
    inputs=(
        Input("value", "number", "What it shows.", needed=True, main=True),
        Input("full", "number", "The value at which it is full.", "1", needed=True),
        Input("empty", "number", "The value at which it is empty.", "0"),
        Input("caption", "template", "A text beside it."),
    ),
    options=Options,
    look=BarLook,
    wire=wire,
    shapes=shapes,
    columns=COLUMNS,
    offer=offer,
    share=True, reading="fraction", squeezed=squeezed,
    words="caption",
    names="worded",
    writes=("caption",),
    manual_sample=KindSample(
        inputs={"value": "hull", "full": "full", "caption": "HULL  {hull | 0}"}, options={"trail": {}},
        look=FILLS, bands=SHARE_BANDS,
    ),
    test_sample=KindSample(
        size=(300.0, 60.0), inputs={"value": "hull", "full": "full", "caption": "{words} {hull | 0}"},
        options={"trail": {}, "segments": 3},
    ),
)  # fmt: skip
