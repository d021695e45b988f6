"""The ring: a circular bar."""

import math
from typing import Annotated, Literal

from msgspec import Meta, Struct
from msgspec.structs import replace

from avrin.kinds import bar
from avrin.kinds.kind import Drawing, Kind, KindSample, plain_id
from avrin.kinds.look import CALM, SEA, Colour, Look, Size
from avrin.kinds.shapes import Path, Shape, TextRun
from avrin.kinds.subject import Offer, Subject, share_figures
from avrin.project.project import Place, Project

__all__ = ["KIND", "arc"]

Command = tuple[str | float, ...]


class Options(Struct, frozen=True, kw_only=True):
    """start: degrees clockwise from the top of the empty end; sweep: degrees from there to full, clockwise.

    over, segments and trail: see the bar.
    """

    start: Annotated[float, Meta(ge=-360, le=360)] = 0.0
    sweep: Annotated[float, Meta(gt=0, le=360)] = 360.0
    over: Literal["clamp", "spill"] = "clamp"
    segments: Annotated[int, Meta(ge=0, le=200)] = 0
    per_unit: Annotated[float, Meta(ge=0, le=0)] = 0.0
    trail: bar.Trail | None = None


class RingLook(Look, frozen=True, kw_only=True):
    """fill, ghost, back: see the bar. thick: of the ring, in pixels. The caption is in its centre."""

    fill: Colour = CALM
    ghost: Colour = "#e9ddc0b0"
    back: Colour = SEA
    thick: Size = 14.0


def arc(x: float, y: float, radius: float, start: float, sweep: float) -> tuple[Command, ...]:
    """Return an arc around (x, y) as curves. start: degrees clockwise from the top; sweep: degrees, clockwise if positive.

    Each curve spans at most a quarter; its control points are 4/3 tan(angle / 4) of the radius along the tangents.
    """
    pieces = max(1, math.ceil(abs(sweep) / 90 - 1e-9))
    step = math.radians(sweep) / pieces
    reach = 4 / 3 * math.tan(step / 4) * radius
    commands: list[Command] = []
    angle = math.radians(start - 90)
    at = (x + radius * math.cos(angle), y + radius * math.sin(angle))
    commands.append(("M", *at))
    for _ in range(pieces):
        to_angle = angle + step
        to = (x + radius * math.cos(to_angle), y + radius * math.sin(to_angle))
        first = (at[0] - reach * math.sin(angle), at[1] + reach * math.cos(angle))
        second = (to[0] + reach * math.sin(to_angle), to[1] - reach * math.cos(to_angle))
        commands.append(("C", *first, *second, *to))
        angle, at = to_angle, to
    return tuple(commands)


def shapes(d: Drawing) -> tuple[Shape, ...]:
    """Draw the empty ring, the ghost, the fill, the gaps and the caption."""
    look: RingLook = d.look
    o: Options = d.options
    x, y = d.width / 2, d.height / 2
    radius = max(1.0, min(d.width, d.height) / 2 - look.thick / 2)
    thick = min(look.thick, radius * 2)

    def stroke(share: float, colour: str) -> Path:
        return Path(arc(x, y, radius, o.start, o.sweep * max(-1.0, min(share, 360 / o.sweep))), "", colour, thick)

    fraction, ghost = d.state["fraction"], d.state["trail"]
    if not isinstance(fraction, float):
        drawn: list[Shape] = [stroke(1.0, "#efebe2")]
        marks = [arc(x, y, radius, o.start + i, min(8.0, o.sweep - i)) for i in range(0, round(o.sweep), 20)]
        drawn += [Path(mark, "", "#b8b1a3", thick) for mark in marks]
    else:
        drawn = [stroke(1.0, look.back)]
        if isinstance(ghost, float) and ghost > fraction:
            drawn.append(stroke(ghost, look.ghost))
        if fraction:
            drawn.append(stroke(fraction, look.fill))
        if o.segments > 1:
            gap = math.degrees(2.5 / radius)
            cuts = range(0 if o.sweep >= 360 else 1, o.segments)
            drawn += [
                Path(arc(x, y, radius, o.start + o.sweep * i / o.segments - gap / 2, gap), "", look.back, thick)
                for i in cuts
            ]
    caption = str(d.state["caption"] or "")
    if caption:
        base = y + d.measure.cap_height(look.text_size, look.bold) / 2
        drawn.append(TextRun(x, base, caption, look.text_size, look.text, look.bold, "center"))
    return tuple(drawn)


def offer(subject: Subject, project: Project) -> Offer | None:
    """Offer a ring wherever a bar suits, with a slightly lower weight."""
    made = bar.offer(subject, project)
    if made is None:
        return None
    inputs = {**made.widget.inputs, "caption": f"{subject.title} {share_figures(subject)}"}
    widget = replace(
        made.widget, id=f"{plain_id(subject.name)}_ring", kind="ring", place=Place(size=(120.0, 120.0)), inputs=inputs,
        options={"trail": {"wait": 0.5, "rate": 0.5}} if subject.is_struck else {},
    )  # fmt: skip
    return Offer(widget, made.weight - 0.1, made.why)


KIND = Kind(
    name="ring", help="How much is left, as a ring.", inputs=bar.KIND.inputs, options=Options, look=RingLook, wire=bar.wire,
    shapes=shapes, columns=bar.KIND.columns, offer=offer, share=True, reading="fraction",
    words="caption", names="always", writes=("caption",),
    manual_sample=KindSample(
        size=(100.0, 100.0), inputs={"value": "hull", "full": "full", "caption": "{hull | 0}"},
        look=bar.KIND.manual_sample.look, bands=bar.KIND.manual_sample.bands,
    ),
    test_sample=KindSample(size=(120.0, 60.0), inputs={"value": "hull", "full": "full", "caption": "{words} {hull | 0}"}),
)  # fmt: skip
