"""The feed: recent events as lines, each shown for some seconds."""

from collections import deque
from collections.abc import Iterable, Mapping, Sequence
from typing import Annotated, Any, Literal

import numpy as np
from msgspec import Meta, Struct

from avrin.kinds.hints import plain_title
from avrin.kinds.kind import Addition, Drawing, Kind, KindSample, OptionRule, TrackColumn, Wired, Wiring
from avrin.kinds.look import Look, Size
from avrin.kinds.shapes import Align, Group, Shape, TextRun
from avrin.kinds.subject import Offer, Subject
from avrin.project.project import Place, Project, Widget
from avrin.rules.check import Events
from avrin.rules.functions.over_time import wide
from avrin.rules.scan import Scan
from avrin.rules.steps import Carried, Chunk, Op, Params, Step
from avrin.rules.template import text_parts
from avrin.trace.frames import NO_TEXT, Array, Column, event_column

__all__ = ["KIND"]

LINE, PART = "\x1e", "\x1f"  # between lines; between a line's time and its text
MOST_OFFERED = 6  # lines of an offered feed
MAX_LINES = 60  # the most lines drawn, whatever the options say


class Options(Struct, frozen=True, kw_only=True):
    """lines: a text by event, with the event's arguments and variables. keep: seconds a line stays.

    most: lines at once. newest: where the latest line goes. fade: whether lines fade in their last second.
    """

    lines: dict[str, str] = {}
    keep: Annotated[float, Meta(gt=0, le=3600)] = 5.0
    most: Annotated[int, Meta(ge=1, le=MAX_LINES)] = 5
    newest: Literal["top", "bottom"] = "bottom"
    fade: bool = True


class FeedLook(Look, frozen=True, kw_only=True):
    """align: alignment of lines. leading: line height, relative to the text's size."""

    text_size: Size = 24.0
    align: Align = "left"
    leading: Annotated[float, Meta(ge=0.8, le=4)] = 1.5


class _Source(Struct, frozen=True):
    """A derived event's source (`avrin.rules.event_steps.Occurrence`) with its line.

    parts: the steps the line is written from, evaluated on every frame; the text only where it happens.
    """

    count: Step
    template: Step
    parts: tuple[Step, ...]


class _Line(Struct, frozen=True):
    """The line of one event. template: of the recorded event. derived: its sources, if it is derived."""

    event: str
    template: Step
    derived: tuple[_Source, ...] = ()


_Written = tuple[int, float, int, str]  # frame of the chunk, time, order among events of that time, text


def _texts(
    template: Step, chunk: Chunk, frames: Array, columns: dict[str, Array], given: dict[Step, Array]
) -> list[str]:
    """Return a template's text at some frames of a chunk. columns, given: values at these frames."""
    if template.constant is not None:
        return [chunk.words.text(int(template.constant[0])) or ""] * len(frames)
    out = np.empty(len(frames), np.int32)
    at = Chunk(chunk.t[frames], True, chunk.began, chunk.run, columns, chunk.words)
    Scan([template], frozenset(given)).feed(at, {template: out}, given)
    return [chunk.words.text(code) or "" for code in out.tolist()]


def _recorded(line: _Line, chunk: Chunk) -> Iterable[_Written]:
    """Yield each recorded occurrence of a line's event in a chunk."""
    at = [i for i, (_, event) in enumerate(chunk.events) if event.name == line.event]
    if not at:
        return
    mine = [chunk.events[i] for i in at]
    frames = np.array([frame for frame, _ in mine])
    columns: dict[str, Array] = {}
    for step in Scan([line.template]).order:
        if step.op.name != "column":
            continue
        name = step.params[0]
        if not name.startswith(f"{line.event}()."):
            columns[name] = chunk.columns[name][frames]
            continue
        values = [event.args.get(name.partition("().")[2]) for _, event in mine]
        column = Column.of(values)
        if column.kind != step.kind or all(value is None for value in values):
            column = Column.missing(len(mine), step.kind)
        codes = np.append(chunk.words.codes(column.words), np.int32(NO_TEXT))
        columns[name] = codes[column.data] if step.kind == "text" else column.data
    texts = _texts(line.template, chunk, frames, columns, {})
    yield from ((frame, float(event.t), i, text) for (frame, event), i, text in zip(mine, at, texts, strict=True))


def _derived(source: _Source, chunk: Chunk, values: Mapping[Step, Array], most: int) -> Iterable[_Written]:
    """Yield each derived occurrence in a chunk; `most` on one frame, because no more are shown."""
    counts = wide(values[source.count], chunk)
    frames = np.flatnonzero(counts > 0)
    if not len(frames):
        return
    given = {part: wide(values[part], chunk)[frames] for part in source.parts}
    texts = _texts(source.template, chunk, frames, {}, given)
    times = np.minimum(counts[frames], most).astype(int)
    for frame, count, text in zip(frames.tolist(), times.tolist(), texts, strict=True):
        yield from [(frame, float(chunk.t[frame]), len(chunk.events), text)] * count


def _feed(out: Array, args: Sequence[Array], params: Params, chunk: Chunk, state: Carried) -> Carried:
    """State: the current lines as (time, text), the oldest first."""
    fed, steps, keep, most = params
    values = dict(zip(steps, args, strict=True))
    alive: list[tuple[float, str]] = list(state or ())
    found: list[_Written] = []
    for line in fed:
        found += _recorded(line, chunk)
        for source in line.derived:
            found += _derived(source, chunk, values, most)
    coming = deque(sorted(found, key=lambda one: one[:3]))
    frame = 0
    while frame < chunk.frames:
        t = float(chunk.t[frame])
        while coming and coming[0][0] <= frame:
            _, born, _, text = coming.popleft()
            alive.append((born, text))
        alive = [line for line in alive if t - line[0] < keep][-most:]
        end = coming[0][0] if coming else chunk.frames
        if alive:
            end = min(end, frame + 1 + int(np.searchsorted(chunk.t[frame + 1 : end] - alive[0][0], keep, "left")))
        out[frame:end] = chunk.words.code(LINE.join(f"{born!r}{PART}{text}" for born, text in alive))
        frame = end
    return tuple(alive)


def _plain(out: Array, args: Sequence[Array], _params: Params, chunk: Chunk, _state: Carried) -> None:
    codes, at = np.unique(args[0], return_inverse=True)
    texts = ["\n".join(text for _, text in lines(chunk.words.text(code) or "")) for code in codes.tolist()]
    out[...] = chunk.words.codes(texts)[at]


FEED, PLAIN = Op("feed", _feed, timed=True, rests=False), Op("feed lines", _plain, timed=True)


def lines(raw: str) -> list[tuple[float, str]]:
    """Decode the track's lines for drawing, as (time, text)."""
    parts = (line.split(PART, 1) for line in raw.split(LINE) if line)
    return [(float(born), text) for born, text in parts]


def wire(w: Wiring) -> Wired:
    """Track: lines, the oldest first, separated by LINE."""
    o: Options = w.options
    fed: list[_Line] = []
    needed: dict[Step, None] = {}
    for event, text in o.lines.items():
        where = f"lines.{event}"
        if event not in w.compile.events:
            w.compile.wrong(where, f'no event "{event}"', "Declare it, or open a recording in which it happens")
            continue
        steps = w.compile.event(event)
        kinds = w.compile.events[event]
        template = w.compile.template(
            where, text, names={arg: w.graph.column(event_column(event, arg), kind) for arg, kind in kinds.items()}
        )
        order = Scan([template]).order
        if any(step.op.timed and step.op.name != "column" for step in order):
            w.compile.wrong(
                where, "a line is written once, when its event happens, so functions of time cannot be used"
            )
            continue
        sources = []
        for one in steps.derived:
            line = w.compile.template(where, text, names=one.values)
            sources.append(_Source(one.count, line, text_parts(line)))
        fed.append(_Line(event, template, tuple(sources)))
        needed.update((step, None) for step in order if step.op.name == "column")
        needed.update((step, None) for source in sources for step in (source.count, *source.parts))
    every = tuple(needed)
    raw = w.graph.add(FEED, every, "text", (tuple(fed), every, o.keep, o.most))
    return Wired({"lines": w.graph.add(PLAIN, (raw,), "text")}, drawn={"raw": raw})


def shapes(d: Drawing) -> tuple[Shape, ...]:
    """Draw each line, fading before it expires."""
    look: FeedLook = d.look
    o: Options = d.options
    found = lines(str(d.state["raw"] or ""))
    step = look.text_size * look.leading
    x = {"left": 0.0, "center": d.width / 2, "right": d.width}[look.align]
    drawn: list[Shape] = []
    for number, (born, text) in enumerate(reversed(found)):
        base = d.height - step * (number + 0.3) if o.newest == "bottom" else step * (number + 0.7)
        run = TextRun(x, base, text, look.text_size, look.text, look.bold, look.align)
        left = o.keep - (d.clock - born)
        drawn.append(Group((run,), opacity=max(0.0, min(1.0, left))) if o.fade and left < 1 else run)
    return tuple(drawn)


def rules(options: Mapping[str, Any]) -> Iterable[OptionRule]:
    """Return the templates in options: the lines."""
    found = options.get("lines", {})
    paths = {event: f"lines.{event}" for event in found} if isinstance(found, Mapping) else {}
    return [OptionRule(path, True, event, path) for event, path in paths.items()]


def additions(options: Mapping[str, Any], _project: Project, events: Events) -> Iterable[Addition]:
    """Offer a line for each event without one, with all its arguments."""
    found = dict(options.get("lines", {}))
    for event, args in events.items():
        if event not in found:
            text = " ".join([event, *(f"{{{name}}}" for name in args)])
            yield Addition(f"+ {event}", "lines", {**found, event: text})


def offer(subject: Subject, _project: Project) -> Offer | None:
    """Offer a feed of all events."""
    if not subject.events:
        return None
    lines = {
        event: subject.lines.get(event) or " ".join([plain_title(event), *(f"{{{name}}}" for name in args)])
        for event, args in subject.events.items()
    }
    first = list(lines)[:MOST_OFFERED]
    widget = Widget(
        id="feed",
        kind="feed",
        place=Place(size=(420.0, 190.0)),
        options={"lines": {event: lines[event] for event in first}},
    )
    return Offer(widget, 0.4, ", ".join(first[:3]) + (" …" if len(lines) > 3 else ""))


KIND = Kind(
    name="feed", help="What just happened, line by line, each for a while.", inputs=(), options=Options, look=FeedLook,
    wire=wire, shapes=shapes, columns=(TrackColumn("lines", "text"),), rules=rules, additions=additions, moves=True,
    writes=("lines",), reading="lines", fits="free", tells_events=True, offer=offer, home="bottom-left",
    manual_sample=KindSample(
        size=(190.0, 110.0), options={"lines": {"hit": "Rock! {points | 0} off the hull"}, "keep": 60},
        look={"text_size": 16},
    ),
    test_sample=KindSample(size=(300.0, 60.0), options={"lines": {"hit": "{points}"}, "keep": 60}),
)  # fmt: skip
