"""Pips: a row of equal small shapes: hearts, spare cells, lives."""

import math
from collections.abc import Sequence
from typing import Annotated, Literal

import numpy as np
from msgspec import Meta, Struct
from msgspec.structs import replace

from avrin.kinds.assets import Asset, asset_shapes, icon_name
from avrin.kinds.icons import partly
from avrin.kinds.kind import Drawing, Input, Kind, KindSample, TrackColumn, Wired, Wiring, plain_id
from avrin.kinds.look import CRITICAL, PALE, SEA, Colour, Look, Size
from avrin.kinds.shapes import Clip, Group, Shape, TextRun, hatched
from avrin.kinds.subject import Offer, Subject, band_looks, share_weight, why
from avrin.project.project import Place, Project, Widget
from avrin.rules.functions.plain import SHARE
from avrin.rules.steps import Breakpoints, Carried, Chunk, Op, Params
from avrin.trace.frames import Array

__all__ = ["KIND"]

CAPTION_STRIP = 1.35  # of the text's size: the height of a caption above them
ROUND = {"up": np.ceil, "down": np.floor, "near": np.rint}
OFFERED_HIGH = 68.0  # reference pixels of an offered row with its caption
MOST_OFFERED = 12  # a larger upper end is offered as a bar
DRAWN = 400  # pips drawn one by one


class Options(Struct, frozen=True, kw_only=True):
    """per_pip: the value of one. parts: steps in which one empties. lost: whether lost ones are drawn.

    per_row: pips per row, 0 for all. most: pips drawn before the rest becomes +N, 0 for all.
    """

    per_pip: Annotated[float, Meta(gt=0, le=1e9)] = 1.0
    parts: Literal[1, 2, 4] = 1
    lost: Literal["empty", "hidden"] = "empty"
    per_row: Annotated[int, Meta(ge=0, le=200)] = 0
    most: Annotated[int, Meta(ge=0, le=DRAWN)] = 0
    round: Literal["up", "down", "near"] = "up"


class PipsLook(Look, frozen=True, kw_only=True):
    """asset: an icon or a picture. fill: a present pip; back: a lost one; gap: between two.

    edge: the outline; "" gives only lost pips a pale outline that separates them from what is behind.
    """

    asset: Asset = "disc"
    fill: Colour = "#e9f2ee"
    back: Colour = SEA
    edge: Colour = ""
    edge_width: Size = 1.5
    size: Size = 0.0
    gap: Size = 6.0


def _units(out: Array, args: Sequence[Array], params: Params, chunk: Chunk, _state: Carried) -> None:
    """Return whole units of value, clamped to 0 and full's: value / per_pip * parts, rounded."""
    per_pip, parts, way = params
    value, full = args
    most = np.maximum(ROUND[way](full / per_pip * parts), 0.0)
    np.copyto(out, np.clip(ROUND[way](value / per_pip * parts), 0.0, most) + 0.0)
    del chunk


def _lost(out: Array, args: Sequence[Array], params: Params, chunk: Chunk, _state: Carried) -> None:
    per_pip, parts = params
    units, full = args
    whole, part = np.floor(units / parts), np.mod(units, parts)
    np.copyto(out, np.maximum(np.ceil(full / per_pip) - whole - (part > 0), 0.0))
    np.copyto(out, np.nan, where=np.isnan(units) | np.isnan(full))
    del chunk


def _count_whole(out: Array, args: Sequence[Array], params: Params, _chunk: Chunk, _state: Carried) -> None:
    np.floor_divide(args[0], params[0], out=out)


def _part(out: Array, args: Sequence[Array], params: Params, _chunk: Chunk, _state: Carried) -> None:
    np.mod(args[0], params[0], out=out)


def _turning(args: Sequence[Array], params: Params) -> Sequence[Array]:
    per_pip, parts, way = params
    value, full = args
    return value / per_pip * parts + (0.5 if way == "near" else 0.0), value - full


UNITS = Op("pip units", _units, breakpoints=Breakpoints(_turning, (True, False)))
LOST, WHOLE, PART = Op("pips lost", _lost), Op("pips", _count_whole), Op("pip part", _part)


def wire(w: Wiring) -> Wired:
    """Track: whole, part and lost. The level is the share of full."""
    o: Options = w.options
    graph = w.graph
    value, full = w["value"], w["full"]
    units = graph.add(UNITS, (value, full), "number", (o.per_pip, o.parts, o.round))
    columns = {
        "whole": graph.add(WHOLE, (units,), "number", (o.parts,)),
        "part": graph.add(PART, (units,), "number", (o.parts,)),
        "lost": graph.add(LOST, (units, full), "number", (o.per_pip, o.parts)),
    }
    level = graph.add(SHARE, (value, graph.constant(0, "number"), full), "number")
    caption = w.get("caption") or graph.constant("", "text")
    return Wired({**columns, "caption": caption}, level)


def shapes(d: Drawing) -> tuple[Shape, ...]:
    """Draw the caption, and below it each pip as full, partly full or lost; the rest as +N."""
    look: PipsLook = d.look
    caption = str(d.state["caption"] or "")
    if not caption:
        return _row(d, d.height)
    strip = min(look.text_size * CAPTION_STRIP, d.height * 0.7)
    size = strip / CAPTION_STRIP
    base = strip * 0.42 + d.measure.cap_height(size, look.bold) / 2
    text = TextRun(0, base, caption, size, look.text, look.bold)
    return (text, Group(_row(d, d.height - strip), dy=strip))


def _row(d: Drawing, height: float) -> tuple[Shape, ...]:
    """Draw the pips in a box of the widget's width and a height."""
    look: PipsLook = d.look
    o: Options = d.options
    size = look.size or height
    whole, part, lost = (d.state[name] for name in ("whole", "part", "lost"))
    if not (isinstance(whole, float) and isinstance(part, float) and isinstance(lost, float)):
        return (hatched(0, 0, d.width, min(height, size)),)
    shares = [1.0] * min(int(whole), DRAWN) + ([part / o.parts] if part else [])
    shares += [0.0] * min(int(lost), DRAWN) if o.lost == "empty" else []
    total = int(whole) + bool(part) + (int(lost) if o.lost == "empty" else 0)
    most = min(o.most or DRAWN, DRAWN)
    shown, rest = shares[:most], total - min(total, most)
    per_row = o.per_row or max(1, len(shown))
    drawn: list[Shape] = []
    for number, share in enumerate(shown):
        x, y = (number % per_row) * (size + look.gap), (number // per_row) * (size + look.gap)
        drawn += _pip(d, look, x, y, size, share)
    if rest > 0:
        row, at = divmod(len(shown), per_row) if len(shown) % per_row else (max(0, len(shown) // per_row - 1), per_row)
        base = row * (size + look.gap) + (size + d.measure.cap_height(look.text_size, look.bold)) / 2
        drawn.append(TextRun(at * (size + look.gap), base, f"+{rest}", look.text_size, look.text, look.bold))
    return tuple(drawn)


def _pip(d: Drawing, look: PipsLook, x: float, y: float, size: float, share: float) -> tuple[Shape, ...]:
    name = icon_name(look.asset)
    if name is not None:
        edge = look.edge or (PALE if share < 1 else "")
        return partly(name, x, y, size, share, look.fill, look.back, edge, look.edge_width)
    whole = asset_shapes(look.asset, d.folder, x, y, size, size, look.fill)
    if share >= 1:
        return whole
    faded = Group(whole, opacity=0.25)
    return (faded, Group(whole, clip=Clip(x, y, size * share, size))) if share > 0 else (faded,)


def offer(subject: Subject, _project: Project) -> Offer | None:
    """Offer pips for a number with a small whole upper end."""
    full = subject.full_value
    if not subject.is_number or not subject.full or full is None or not 2 <= full <= MOST_OFFERED or full != int(full):
        return None
    if subject.variable is None or subject.empty:
        return None
    whole = subject.variable.type == "int"
    bands = subject.bands() if whole else tuple(replace(band, below="25%", back="") for band in subject.bands()[:1])
    look = PipsLook()
    size = OFFERED_HIGH - look.text_size * CAPTION_STRIP
    wide = math.ceil(full * size + (full - 1) * look.gap)
    widget = Widget(
        id=f"{plain_id(subject.name)}_pips", kind="pips",
        inputs={"value": subject.name, "full": subject.full, "caption": subject.title},
        place=Place(size=(float(wide), OFFERED_HIGH)), options={"parts": 1 if whole else 2}, bands=bands,
        look=band_looks(bands, "fill", more={"edge": CRITICAL}),
    )  # fmt: skip
    return Offer(widget, share_weight(subject) + (0.08 if whole and full >= 3 else -0.15), why(subject))


KIND = Kind(
    name="pips",
    help="Small shapes of equal value: hearts, cells, lives.",
    inputs=(
        Input("value", "number", "What it shows.", needed=True, main=True),
        Input("full", "number", "The value at which all are there.", "1", needed=True),
        Input("caption", "template", "A text above them."),
    ),
    options=Options, look=PipsLook, wire=wire, shapes=shapes,
    columns=(TrackColumn("whole", "part"), TrackColumn("part", "part"), TrackColumn("lost", "part"),
             TrackColumn("caption", "text")),
    offer=offer, share=True, reading="whole", words="caption", names="always",
    writes=("caption",),
    manual_sample=KindSample(
        size=(190.0, 34.0), inputs={"value": "hull", "full": "full"}, options={"per_pip": 20, "parts": 2},
        look={"asset": "heart", "fill": "#ef7d86"},
    ),
    test_sample=KindSample(
        size=(190.0, 34.0), inputs={"value": "hull", "full": "full"}, options={"per_pip": 20, "parts": 2},
        look={"asset": "heart"},
    ),
)  # fmt: skip
