"""The label: one or several lines of text with values."""

from typing import Annotated

from msgspec import Meta, Struct

from avrin.kinds.kind import Drawing, Input, Kind, KindSample, TrackColumn, Wired, Wiring, plain_id
from avrin.kinds.look import Colour, Look, Size
from avrin.kinds.shapes import Align, Box, Shape, TextRun
from avrin.kinds.subject import MIN_READABLE_S, Offer, Subject, pattern_for, why
from avrin.kinds.wrapping import wrapped
from avrin.project.project import Follow, Place, Project, Widget

__all__ = ["KIND"]

LEADING = 1.3  # line height, relative to the text's size
FEW_TEXTS = 12  # distinct texts up to which a label of a text is worth offering


class Options(Struct, frozen=True, kw_only=True):
    r"""lines: the most lines; a text breaks between words, and at \n."""

    lines: Annotated[int, Meta(ge=1, le=20)] = 1


class LabelLook(Look, frozen=True, kw_only=True):
    """align: alignment of the text in its box. back: a background; pad: from its ends to the text."""

    align: Align = "left"
    back: Colour = ""
    pad: Size = 14.0
    radius: Size = 6.0


def wire(w: Wiring) -> Wired:
    """Track: text."""
    return Wired({"text": w["text"]})


def shapes(d: Drawing) -> tuple[Shape, ...]:
    """Draw the text, on its background if it has one."""
    look: LabelLook = d.look
    text = str(d.state["text"] or "")
    if not text:
        return ()
    pad = look.pad if look.back else 0.0

    def width(line: str) -> float:
        return d.measure.width(line, look.text_size, look.bold)

    lines = wrapped(text, d.width - 2 * pad, d.options.lines, width)
    step = LEADING * look.text_size
    first = (d.height + d.measure.cap_height(look.text_size, look.bold) - (len(lines) - 1) * step) / 2
    runs: list[Shape] = []
    for number, line in enumerate(lines):
        wide = width(line)
        left = {"left": pad, "center": (d.width - wide) / 2, "right": d.width - wide - pad}[look.align]
        runs.append(TextRun(left, first + number * step, line, look.text_size, look.text, look.bold))
    if not look.back:
        return tuple(runs)
    widest = max(map(width, lines))
    start = {"left": 0.0, "center": (d.width - widest) / 2 - pad, "right": d.width - widest - 2 * pad}[look.align]
    return (Box(start, 0, widest + 2 * pad, d.height, look.back, look.radius), *runs)


def offer(subject: Subject, _project: Project) -> Offer | None:
    """Offer a label for any variable, with name and value, or for a moving thing. It suits a text of few words."""
    if subject.along is not None:
        x, y = subject.along
        place = Place(
            anchor="center", pivot="bottom", offset=(0.0, -24.0), size=(180.0, 40.0), follow=Follow(x=x, y=y, hold=True)
        )
        inputs = {"text": subject.title}
        return Offer(
            Widget(id=f"{plain_id(subject.name)}_mark", kind="label", inputs=inputs, place=place), 0.32, "moves"
        )
    variable = subject.variable
    if variable is None:
        return None
    pattern = f" | {pattern_for(subject)}" if subject.is_number else ""
    unit = f" {variable.unit}" if variable.unit else ""
    widget = Widget(
        id=f"{plain_id(subject.name)}_label", kind="label",
        inputs={"text": f"{subject.title}: {{{subject.name}{pattern}}}{unit}"}, place=Place(size=(320.0, 44.0)),
    )  # fmt: skip
    few = subject.behaviour is not None and subject.sort == "words" and len(subject.behaviour.words) <= FEW_TEXTS
    lasts = subject.behaviour is not None and subject.behaviour.stretch >= MIN_READABLE_S
    return Offer(widget, 0.45 if few and lasts else 0.3 if few else 0.08, why(subject))


KIND = Kind(
    name="label",
    help="A line of text with values in it.",
    inputs=(Input("text", "template", "What it says.", needed=True, main=True),),
    options=Options,
    look=LabelLook,
    wire=wire,
    shapes=shapes,
    columns=(TrackColumn("text", "text"),),
    offer=offer,
    home="bottom-left",
    bare=True,
    words="text",
    names="worded",
    writes=("text",),
    fits="line",
    reading="text",
    read="text",
    manual_sample=KindSample(size=(190.0, 44.0), inputs={"text": "Hull {hull | 0} pt"}, look={"back": "#0b1a22d8"}),
    test_sample=KindSample(
        size=(300.0, 60.0), inputs={"text": "{words} {hull | 0.0} m"}, look={"outline": "#10202a", "outline_width": 3}
    ),
)
