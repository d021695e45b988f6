"""The banner: a large text over everything, for victory, defeat and similar."""

from typing import Annotated

from msgspec import Meta, Struct

from avrin.kinds.hints import ends
from avrin.kinds.kind import Drawing, Input, Kind, KindSample, TrackColumn, Wired, Wiring, plain_id
from avrin.kinds.look import Colour, Look, Size
from avrin.kinds.shapes import Box, Shape, TextRun
from avrin.kinds.subject import Offer, Subject, why
from avrin.project.project import Place, Project, Widget

__all__ = ["KIND"]


class Options(Struct, frozen=True, kw_only=True):
    """dim: how much the screen behind is darkened, 0–1."""

    dim: Annotated[float, Meta(ge=0, le=1)] = 0.5


class BannerLook(Look, frozen=True, kw_only=True):
    """back: the background of the texts. note_size: pixels of the smaller text."""

    text_size: Size = 96.0
    bold: bool = True
    note_size: Size = 32.0
    back: Colour = ""
    radius: Size = 12.0


def wire(w: Wiring) -> Wired:
    """Track: title. Visible while `when` is true."""
    title = w.get("title") or w.graph.constant("", "text")
    note = w.get("note") or w.graph.constant("", "text")
    return Wired({"title": title}, drawn={"note": note}, shows=w["when"])


def shapes(d: Drawing) -> tuple[Shape, ...]:
    """Draw the dimmed screen, the background, the title and the note."""
    look: BannerLook = d.look
    drawn: list[Shape] = []
    if d.screen is not None and d.options.dim:
        drawn.append(Box(*d.screen, f"#000000{round(d.options.dim * 255):02x}"))
    if look.back:
        drawn.append(Box(0, 0, d.width, d.height, look.back, look.radius))
    title, note = str(d.state["title"] or ""), str(d.state["note"] or "")
    below = look.note_size * 1.5 if note else 0.0
    base = (d.height - below + d.measure.cap_height(look.text_size, look.bold)) / 2
    drawn.append(TextRun(d.width / 2, base, title, look.text_size, look.text, look.bold, "center"))
    if note:
        drawn.append(TextRun(d.width / 2, base + below, note, look.note_size, look.text, False, "center"))
    return tuple(drawn)


def offer(subject: Subject, project: Project) -> Offer | None:
    """Offer a banner for a condition that ends the game."""
    if not subject.is_flag:
        return None
    width, height = project.reference
    widget = Widget(
        id=f"{plain_id(subject.name)}_banner", kind="banner",
        inputs={"when": subject.condition, "title": subject.title}, place=Place(size=(width * 0.6, height * 0.18)),
    )  # fmt: skip
    return Offer(widget, 0.55 if ends(subject.name) else 0.15, why(subject))


KIND = Kind(
    name="banner",
    help="A large text over everything: won, lost, paused.",
    inputs=(
        Input("when", "flag", "While this is true, it shows.", "false", needed=True, main=True),
        Input("title", "template", "What it says.", needed=True),
        Input("note", "template", "A smaller line below."),
    ),
    options=Options, look=BannerLook, wire=wire, shapes=shapes, columns=(TrackColumn("title", "text"),), offer=offer,
    home="center", words="title", reading="title", writes=("title", "note"), fits="line", read="title", may_cover=True,
    manual_sample=KindSample(
        size=(190.0, 90.0), inputs={"when": "true", "title": "Lost", "note": "at {hull | 0} pt"}, options={"dim": 0},
        look={"text_size": 36, "note_size": 15, "back": "#3a0f0fd8"},
    ),
    test_sample=KindSample(
        size=(300.0, 60.0), inputs={"when": "true", "title": "{words}", "note": "{hull | 0}"}, options={"dim": 0}
    ),
)  # fmt: skip
