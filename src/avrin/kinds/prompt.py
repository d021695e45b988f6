"""The prompt: a hint that appears when needed, stays long enough to be read, and goes once its lesson is learnt."""

import math
from typing import Annotated, Literal

from msgspec import Meta, Struct

from avrin.kinds.hints import asks
from avrin.kinds.icons import key_cap
from avrin.kinds.kind import Drawing, Input, Kind, KindSample, Peer, TrackColumn, Wired, Wiring, plain_id
from avrin.kinds.look import Colour, KeyName, Look, Size
from avrin.kinds.prompt_queue import PromptTiming, prompt_turn
from avrin.kinds.ring import arc
from avrin.kinds.shapes import Box, Group, Path, Shape, TextRun
from avrin.kinds.subject import MIN_READABLE_S, Offer, Subject, why
from avrin.project.project import Place, Project, Widget
from avrin.rules.functions.over_time import HELD
from avrin.rules.operators import EQUAL

__all__ = ["KIND"]

ENDLESS = 20.0  # seconds until the end of a run: a flag that stays on this long is a state and prompts nothing

DEVICES = ("keyboard", "gamepad", "touch")  # the devices most games distinguish; a project may name others

SPREADS = 0.9  # seconds a pulse's ring takes to spread
Seconds = Annotated[float, Meta(ge=0, le=3600)]


class Options(Struct, frozen=True, kw_only=True):
    """after: seconds `when` must have held. at_least: seconds it stays once shown. rest: seconds it stays away after.

    again: after `until`, never again in this run ("once"), or only until `when` turns false ("each"). queue: prompts of one
    queue take turns, the lowest `order` first. keys: the key's name by device; the first one for an unknown device.
    pulse: seconds between two rings that spread from the key, 0 for none.
    """

    after: Seconds = 0.0
    at_least: Seconds = 2.0
    rest: Seconds = 0.0
    again: Literal["once", "each"] = "each"
    queue: Annotated[str, Meta(max_length=60)] = ""
    order: Annotated[float, Meta(ge=-1e9, le=1e9)] = 0.0
    keys: dict[str, KeyName] = {}
    pulse: Seconds = 0.0


class PromptLook(Look, frozen=True, kw_only=True):
    """back: the background; key_back, key_edge: the key cap; ring: the pulse."""

    text_size: Size = 30.0
    back: Colour = "#0b1a22d8"
    key_back: Colour = "#f2f6f4"
    key_text: Colour = "#10222b"
    ring: Colour = "#f2f6f4"
    radius: Size = 40.0


def wire(w: Wiring) -> Wired:
    """Track: text. Visible while it is its turn."""
    o: Options = w.options
    graph = w.graph
    mates = [peer for peer in w.compile.peers() if peer.ident == w.ident or (o.queue and peer.options.queue == o.queue)]

    def conditions(peer: Peer) -> tuple:  # type: ignore[type-arg]
        when = peer.inputs["when"]
        wait = graph.constant(peer.options.after, "number")
        return graph.add(HELD, (when, wait), "flag"), when, peer.inputs["until"]

    rules = [
        PromptTiming(p.options.order, p.options.at_least, p.options.rest, p.options.again == "each") for p in mates
    ]
    showing = prompt_turn(graph, [conditions(peer) for peer in mates], rules)
    mine = 1 + next(i for i, peer in enumerate(mates) if peer.ident == w.ident)
    shows = graph.add(EQUAL["==", "number"], (showing, graph.constant(mine, "number")), "flag")
    device = w.get("device") or graph.constant(None, "text")
    return Wired({"text": w["text"]}, drawn={"device": device}, shows=shows)


def shapes(d: Drawing) -> tuple[Shape, ...]:
    """Draw the background, the key cap with its ring, and the text."""
    look: PromptLook = d.look
    o: Options = d.options
    text = str(d.state["text"] or "")
    key = o.keys.get(str(d.state.get("device") or ""), next(iter(o.keys.values()), ""))
    cap = d.measure.cap_height(look.text_size, look.bold)
    tall = cap * 2.1
    wide = max(tall, d.measure.width(key, look.text_size, True) + tall * 0.6) if key else 0.0
    apart = cap * 0.9 if key and text else 0.0
    length = d.measure.width(text, look.text_size, look.bold)
    pad = min(d.height * 0.45, look.text_size)
    whole = wide + apart + length + 2 * pad
    left = (d.width - whole) / 2
    base = (d.height + cap) / 2
    drawn: list[Shape] = [Box(left, 0, whole, d.height, look.back, look.radius)]
    x = left + pad
    if key:
        middle = (x + wide / 2, d.height / 2)
        if o.pulse and (past := math.fmod(d.clock, o.pulse)) < SPREADS:
            share = past / SPREADS
            ring = Path(arc(*middle, tall * (0.6 + share), 0, 360), "", look.ring, max(1.0, tall * 0.08))
            drawn.append(Group((ring,), opacity=1 - share))
        drawn.append(key_cap(x, (d.height - tall) / 2, tall, wide, look.key_back, ""))
        drawn.append(TextRun(middle[0], base, key, look.text_size, look.key_text, True, "center"))
    if text:
        drawn.append(TextRun(x + wide + apart, base, text, look.text_size, look.text, look.bold))
    return tuple(drawn)


def offer(subject: Subject, _project: Project) -> Offer | None:
    """Offer a prompt for a condition that holds long enough to be read, but not nearly always."""
    if not subject.is_flag:
        return None
    widget = Widget(
        id=f"{plain_id(subject.name)}_prompt", kind="prompt", inputs={"when": subject.condition, "text": subject.title},
        place=Place(size=(420.0, 72.0)), options={"after": 0.5, "at_least": 2.0},
    )  # fmt: skip
    seen = subject.behaviour
    fits = seen is None or (
        seen.sort == "flag" and seen.stretch >= MIN_READABLE_S and seen.on <= 0.6 and seen.ends_on < ENDLESS
    )
    return Offer(widget, (0.35 if fits else 0.16) + (0.15 if fits and asks(subject.name) else 0.0), why(subject))


KIND = Kind(
    name="prompt",
    help="A hint that waits its turn, stays long enough, and goes once learnt.",
    inputs=(
        Input("when", "flag", "While this is true, it is due.", "false", needed=True, main=True),
        Input("until", "flag", "Once this is true, it has been learnt.", "false"),
        Input("text", "template", "What it says.", needed=True, main=True),
        Input("device", "text", "Which of the key's names to show.", shared=True),
    ),
    options=Options, look=PromptLook, wire=wire, shapes=shapes, columns=(TrackColumn("text", "text"),), offer=offer,
    home="bottom", keyed={"keys": (*DEVICES, "")},
    social=True, moves=True, words="text", writes=("text",), fits="line", reading="text", read="text",
    done_by="until",
    manual_sample=KindSample(
        size=(190.0, 56.0), inputs={"when": "true", "text": "Seal"}, options={"keys": {"keyboard": "F"}, "pulse": 2},
        look={"text_size": 24},
    ),
    test_sample=KindSample(
        size=(300.0, 60.0), inputs={"when": "true", "text": "{words}"},
        options={"keys": {"keyboard": "F"}},
    ),
)  # fmt: skip
