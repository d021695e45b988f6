"""The label: a line of text with values in it."""

from msgspec import Struct

from avrin.model import Place, Project, Variable, Widget
from avrin.widgets.kind import Drawing, Input, Kind, Sample, TrackColumn, Wired, Wiring, plain_id, plain_title
from avrin.widgets.look import Colour, Look, Size
from avrin.widgets.shapes import Align, Box, Shape, TextRun

__all__ = ["KIND"]


class Options(Struct, frozen=True, kw_only=True):
    """A label has no options of its own."""


class LabelLook(Look, frozen=True, kw_only=True):
    """align: where the text stands in its box. back: a plate under the text; pad: from the plate's ends to the text."""

    align: Align = "left"
    back: Colour = ""
    pad: Size = 14.0
    radius: Size = 6.0


def wire(w: Wiring) -> Wired:
    """Track: text."""
    return Wired({"text": w["text"]})


def shapes(d: Drawing) -> tuple[Shape, ...]:
    """The text, on its plate where it has one."""
    look: LabelLook = d.look
    text = str(d.state["text"] or "")
    if not text:
        return ()
    wide = d.measure.width(text, look.text_size, look.bold)
    pad = look.pad if look.back else 0.0
    left = {"left": pad, "center": (d.width - wide) / 2, "right": d.width - wide - pad}[look.align]
    base = (d.height + d.measure.cap_height(look.text_size, look.bold)) / 2
    run = TextRun(left, base, text, look.text_size, look.text, look.bold)
    return (Box(left - pad, 0, wide + 2 * pad, d.height, look.back, look.radius), run) if look.back else (run,)


def offer(variable: Variable, project: Project) -> Widget | None:
    """A label for anything: the variable's name and value."""
    del project
    name = plain_title(variable.name)
    return Widget(
        id=f"{plain_id(variable.name)}_label",
        kind="label",
        inputs={"text": f"{name}: {{{variable.name}}}" + (f" {variable.unit}" if variable.unit else "")},
        place=Place(size=(320.0, 44.0)),
    )


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
    bare=True,
    words="text",
    names="worded",
    writes=("text",),
    fits="line",
    reading=None,
    read="text",
    pose=Sample(size=(190.0, 44.0), inputs={"text": "Hull {hull | 0} pt"}, look={"back": "#0b1a22d8"}),
    tried=Sample(
        size=(300.0, 60.0), inputs={"text": "{words} {hull | 0.0} m"}, look={"outline": "#10202a", "outline_width": 3}
    ),
)
