"""For each kind of finding a small project that has the fault, and a near twin that has not."""

from __future__ import annotations

import base64
from collections.abc import Sequence
from pathlib import Path
from typing import Any

import msgspec
from msgspec import Struct, field
from msgspec.structs import replace

from avrin.binding.binding import bind
from avrin.binding.tracks import Tracks
from avrin.findings.finding import Finding
from avrin.findings.inspector import Inspector
from avrin.findings.registry import CHECKS
from avrin.project.project import (
    Band,
    Conflict,
    EventKind,
    Group,
    Outcome,
    Passage,
    Place,
    Plate,
    PlayerOption,
    Project,
    Recording,
    Roster,
    Screen,
    Variable,
    Widget,
    Zone,
)
from avrin.trace.frames import Column, Event, Trace, Value

CREW = Roster(
    name="crew", slots=3,
    fields=(Variable(name="scrap", type="int", start=0, low=0, high=99), Variable(name="air", type="float")),
)  # fmt: skip
VARIABLES = (
    Variable(name="hull", type="float", start=100, low=0, high=100),
    Variable(name="hull_max", type="float", start=100, low=50, high=200),
    Variable(name="scrap", type="int", start=0, low=0, high=999),
    Variable(name="tide", type="float", start=60, low=0, high=60, unit="s"),
    Variable(name="leak", type="bool", start=False),
    Variable(name="phase", type="text", start="dive"),
)
FALLING: list[Value] = [100.0, 90.0, 70.0, 50.0, 20.0, 5.0, 5.0, 30.0, 60.0, 100.0, 100.0, 80.0]
RISING: list[Value] = [0.0, 2.0, 4.0, 8.0, 8.0, 10.0, 14.0, 20.0, 22.0, 30.0, 31.0, 40.0]
ONE = Screen(name="desk", size=(1920, 1080))


class Seed(Struct, frozen=True):
    """widgets over columns of one frame a second. project: more of it. files: what is in its folder."""

    widgets: Sequence[Widget]
    columns: dict[str, list[Value]] = field(default_factory=dict)
    runs: list[int] | None = None
    events: tuple[Event, ...] = ()
    step: float = 1.0
    project: dict[str, Any] = field(default_factory=dict)
    files: dict[str, str | bytes] = field(default_factory=dict)


def inspected(seed: Seed, folder: Path, project: Project | None = None) -> tuple[Project, list[Finding]]:
    """The project of a seed (or what became of it) and all that is found."""
    for name, content in seed.files.items():
        (folder / name).parent.mkdir(exist_ok=True)
        (folder / name).write_bytes(content if isinstance(content, bytes) else content.encode())
    columns = {"hull": FALLING, "scrap": RISING, **seed.columns}
    frames = len(next(iter(columns.values())))
    more: dict[str, Any] = {"screens": (ONE,), "rosters": (CREW,), "variables": VARIABLES, **seed.project}
    made = project or Project(widgets=tuple(seed.widgets), **more)
    known = {name: Column.of((values * frames)[:frames]) for name, values in columns.items()}
    trace = Trace.make("dive", [seed.step * i for i in range(frames)], known, seed.runs, events=seed.events)
    bound = bind(made, events=trace.event_kinds, folder=folder)
    return made, Inspector(CHECKS).inspect(bound, [Tracks(bound, trace)])


def widget(kind: str, inputs: dict[str, str], ident: str = "w", **more: Any) -> Widget:
    place = more.pop("place", Place(offset=(100.0, 100.0), size=more.pop("size", (400.0, 60.0))))
    return Widget(id=ident, kind=kind, inputs=inputs, place=place, **more)


def label(text: str, **more: Any) -> Widget:
    return widget("label", {"text": text, **more.pop("also", {})}, **more)


def counter(value: str, pattern: str = "0", **more: Any) -> Widget:
    options = {"pattern": pattern, **more.pop("options", {})}
    return widget("counter", {"value": value, "caption": "count", **more.pop("also", {})}, options=options, **more)


def bar(value: str = "hull", full: str = "100", **more: Any) -> Widget:
    return widget("bar", {"value": value, "full": full, "caption": "HULL"}, **more)


def prompt(when: str, text: str = "Patch", until: str = "", **more: Any) -> Widget:
    return widget("prompt", {"when": when, "text": text, **({"until": until} if until else {})}, **more)


def bands(*pairs: tuple[str, str, str]) -> tuple[Band, ...]:
    """name, field, rule of each."""
    return tuple(msgspec.convert({"name": name, field: rule}, Band) for name, field, rule in pairs)


def at(x: float, y: float, **more: Any) -> Place:
    return Place(offset=(x, y), size=(300.0, 60.0), **more)


def flags(text: str) -> list[Value]:
    """`..##` as flags."""
    return [mark == "#" for mark in text]


def look(**values: Any) -> dict[str, Any]:
    return {"look": values}


PALE = '<svg xmlns="http://www.w3.org/2000/svg" width="192" height="108"><rect width="192" height="108" fill="#e8efe9"/></svg>'
PLATE = Plate(name="fog", picture="fog.svg")
CELLS = {"picture": "figures.svg", "cell": [8, 12], "characters": "0123456789"}
HIT = Event(2.0, "hit", {"points": 3.0})
LOW_OVER = bands(("low", "below", "50"), ("critical", "below", "20"))
TWO_COLOURS = {"bands": {"low": {"fill": "#4c9a80"}, "critical": {"fill": "#4c9a86"}}}
PAIR = bands(("low", "below", "50%"), ("critical", "below", "20%"))

LOST: list[Value] = [100.0, 90.0, 70.0, 50.0, 20.0, 4.0, 0.0]
CALM: list[Value] = [100.0] * 12
DIP: list[Value] = [*CALM, 55.0]
OUTCOME = {"outcomes": (Outcome(name="lost", rule="hull <= 0"),)}
CALLED = (Recording(path="dive.csv", names={"tide_left": "tide"}),)


def catalogue(**given: str) -> str:
    """A German catalogue."""
    head = 'msgid ""\nmsgstr ""\n"Content-Type: text/plain; charset=utf-8\\n"\n'
    entries = (f'\nmsgid "{text}"\nmsgstr "{translation}"\n' for text, translation in given.items())
    return "".join([head, '"Plural-Forms: nplurals=2; plural=(n != 1);\\n"\n', *entries])


# Four by two black pixels.
BLACK = base64.b64decode("iVBORw0KGgoAAAANSUhEUgAAAAQAAAACCAAAAABawyK/AAAAC0lEQVR42mNggAEAAAoAAewkA7kAAAAASUVORK5CYII=")
SHOTS: dict[str, str | bytes] = {f"shots/s_{number}.png": BLACK for number in range(1, 5)}


def filmed(offset: float) -> Plate:
    """A film of four seconds, so many seconds of it at the recording's beginning."""
    return Plate(name="filmed", film="shots/s_#.png", rate=1.0, offset=offset)


SEEDS: dict[str, tuple[Seed, Seed]] = {
    "unknown-name": (Seed([counter("scarp")]), Seed([counter("scrap")])),
    "wrong-type": (Seed([bar(full='"all"')]), Seed([bar(full='length("all") + 97')])),
    "broken-rule": (Seed([counter("scrap +")]), Seed([counter("scrap + 1")])),
    "broken-option": (Seed([bar(options={"grow": "sideways"})]), Seed([bar(options={"grow": "left"})])),
    "unbound-input": (Seed([widget("bar", {"full": "100"})]), Seed([bar()])),
    "not-recorded": (Seed([counter("scrap + hull_max * 0")]), Seed([counter("scrap")])),
    "names-nowhere": (
        Seed([counter("tide")], project={"traces": CALLED}),
        Seed([counter("tide")], {"tide": RISING}, project={"traces": CALLED}),
    ),
    "range-otherwise": (Seed([bar(full="60")], {"hull": [50.0, 40.0] * 6}), Seed([bar(full="100")])),
    "recorded-otherwise": (Seed([counter("scrap")], {"scrap": ["ten"] * 12}), Seed([counter("scrap")])),
    "digits-unbound": (Seed([label("Score 0250")]), Seed([label("Score {scrap}")])),
    "text-is-name": (
        Seed([label("hull_max")], {"hull_max": FALLING}),
        Seed([label("{hull_max | 0} at most")], {"hull_max": FALLING}),
    ),
    "never-changes": (Seed([counter("scrap")], {"scrap": [3.0] * 12}), Seed([counter("scrap")])),
    "happens-always": (
        Seed([bar()], project={"events": (EventKind(name="hurt", when="hull < 101"),)}),
        Seed([bar()], project={"events": (EventKind(name="hurt", when="change(hull) < 0"),)}),
    ),
    "recorded-instead": (
        Seed(
            [bar()],
            events=(Event(2.0, "hurt"),),
            project={"events": (EventKind(name="hurt", when="change(hull) < 0"),)},
        ),
        Seed(
            [bar()],
            events=(Event(2.0, "hurts"),),
            project={"events": (EventKind(name="hurt", when="change(hull) < 0"),)},
        ),
    ),
    "undecided-conflict": (
        Seed(
            [bar()],
            project={"conflicts": (Conflict(at=("widgets", "w", "place", "offset"), ours=[0, 0], theirs=[8, 0]),)},
        ),
        Seed([bar()]),
    ),
    "option-changes-nothing": (
        Seed([bar()], project={"options": (PlayerOption(name="calm", colours={"#010203": "#ffffff"}),)}),
        Seed([bar()], project={"options": (PlayerOption(name="large", scale=1.05),)}),
    ),
    "full-is-value": (Seed([bar(full="hull")]), Seed([bar(full="hull_max")], {"hull_max": [100.0] * 12})),
    "swapped": (
        Seed([bar("hull_max", "hull")], {"hull_max": [120.0] * 12}),
        Seed([bar("hull", "hull_max")], {"hull_max": [120.0] * 12}),
    ),
    "spills-over": (Seed([bar(full="60", options={"over": "spill"})]), Seed([bar(options={"over": "spill"})])),
    "spills-under": (
        Seed([bar("hull - 50", options={"over": "spill"})]),
        Seed([bar("max(0, hull - 50)", options={"over": "spill"})]),
    ),
    "above-full": (Seed([bar(full="60")]), Seed([bar(full="120")])),
    "full-too-small": (Seed([bar(full="1")]), Seed([bar(full="45")])),
    "moves-little": (
        Seed([bar("hull_max")], {"hull_max": [100.0, 96.0, 90.0, 88.0, 92.0, 99.0]}),
        Seed([bar("hull_max")], {"hull_max": [100.0, 96.0, 90.0, 74.0, 92.0, 99.0]}),
    ),
    "below-empty": (Seed([bar("hull - 50")]), Seed([bar("max(0, hull - 50)")])),
    "count-below-zero": (
        Seed([counter("scrap")], {"scrap": [3.0, 2.0, 1.0, 0.0, -1.0, *RISING[:7]]}),
        Seed([counter("max(0, scrap)")], {"scrap": [3.0, 2.0, 1.0, 0.0, -1.0, *RISING[:7]]}),
    ),
    "divides-by-zero": (Seed([bar(full="scrap")]), Seed([bar(full="scrap + 60")])),
    "from-middle": (Seed([bar(options={"grow": "middle"})]), Seed([bar(options={"grow": "up"})])),
    "whole-with-decimals": (Seed([counter("scrap", "0.0")]), Seed([counter("hull", "0.0")])),
    "too-many-decimals": (Seed([counter("hull / 3", "")]), Seed([counter("hull", "")])),
    "zero-early": (
        Seed(
            [widget("timer", {"value": "tide", "caption": "TIDE"}, options={"pattern": "m:ss, near"})],
            {"tide": [5.4, 4.4, 3.4, 2.4, 1.4, 0.4, 0.0, 0.0, 0.0, 0.0, 0.0, 0.0]},
        ),
        Seed(
            [widget("timer", {"value": "tide", "caption": "TIDE"})],
            {"tide": [5.4, 4.4, 3.4, 2.4, 1.4, 0.4, 0.0, 0.0, 0.0, 0.0, 0.0, 0.0]},
        ),
    ),
    "leapt-over": (
        Seed([label("Ten!", also={"visible": "scrap == 9"})]),
        Seed([label("Ten!", also={"visible": "scrap == 10"})]),
    ),
    "never-true": (
        Seed([label("Rich", also={"visible": "scrap >= 400"})]),
        Seed([label("Rich", also={"visible": "scrap >= 30"})]),
    ),
    "always-true": (
        Seed([label("There", also={"visible": "hull >= 0"})]),
        Seed([label("There", also={"visible": "hull >= 60"})]),
    ),
    "never-reached": (
        Seed([bar(bands=bands(("lost", "below", "1%")))]),
        Seed([bar(bands=bands(("lost", "below", "6%")))]),
    ),
    "hidden-band": (
        Seed([counter("hull", bands=LOW_OVER)]),
        Seed([counter("hull", bands=LOW_OVER[::-1])]),
    ),
    "band-gap": (
        Seed([counter("hull", bands=bands(("low", "below", "50"), ("fine", "above", "50")))]),
        Seed([counter("hull", bands=bands(("low", "below", "50"), ("fine", "above", "90")))]),
    ),
    "bands-alike": (
        Seed([bar(bands=PAIR[::-1], look=TWO_COLOURS)]),
        Seed([bar(bands=PAIR[::-1], look={"bands": {"low": {"fill": "#f0d060"}, "critical": {"fill": "#7a1f1f"}}})]),
    ),
    "band-unseen": (
        Seed([bar(bands=PAIR[1:])]),
        Seed([bar(bands=PAIR[1:], look={"bands": {"critical": {"fill": "#7a1f1f"}}})]),
    ),
    "flashes-fast": (Seed([bar(look={"flash": "0.2s"})]), Seed([bar(look={"flash": "0.5s"})])),
    "low-contrast": (
        Seed([label("Pale", look={"text": "#ffffff"})], project={"plates": (PLATE,)}, files={"fog.svg": PALE}),
        Seed([label("Dark", look={"text": "#10222b"})], project={"plates": (PLATE,)}, files={"fog.svg": PALE}),
    ),
    "too-small": (
        Seed([label("Small", look={"text_size": 20})], project={"screens": (replace(ONE, inches=50, metres=3.0),)}),
        Seed([label("Large", look={"text_size": 40})], project={"screens": (replace(ONE, inches=50, metres=3.0),)}),
    ),
    "broken-catalogue": (
        Seed([label("Lost")], files={"texts/de.po": "this is not a catalogue"}),
        Seed([label("Lost")], files={"texts/de.po": catalogue(Lost="Verloren")}),
    ),
    "mismatched-text": (
        Seed([label("Air {hull}")], files={"texts/de.po": catalogue(**{"Air {hull}": "Luft {hul}"})}),
        Seed([label("Air {hull}")], files={"texts/de.po": catalogue(**{"Air {hull}": "Luft {hull | 0}"})}),
    ),
    "outgrows-in": (
        Seed([label("Lost")], files={"texts/de.po": catalogue(Lost="Wahrhaftig und ganz und gar verlorengegangen")}),
        Seed([label("Lost")], files={"texts/de.po": catalogue(Lost="Verloren")}),
    ),
    "untranslated": (
        Seed([label("Lost")], files={"texts/de.po": catalogue(Lost="")}),
        Seed([label("Lost")], files={"texts/de.po": catalogue(Lost="Verloren")}),
    ),
    "stale-text": (
        Seed(
            [label("Lost")],
            files={"texts/de.po": catalogue(Lost="Verloren").replace('\nmsgid "L', '\n#, fuzzy\nmsgid "L')},
        ),
        Seed([label("Lost")], files={"texts/de.po": catalogue(Lost="Verloren")}),
    ),
    "film-out-of-step": (
        Seed([label("Lost")], project={"plates": (filmed(-200.0),)}, files=SHOTS),
        Seed([label("Lost")], project={"plates": (filmed(-2.0),)}, files=SHOTS),
    ),
    "asset-missing": (
        Seed([widget("picture", {}, options={"asset": "art/gone.png"})]),
        Seed([widget("picture", {}, options={"asset": "bell"})]),
    ),
    "called-hidden": (
        Seed([bar(bands=bands(("hidden", "below", "50%")))]),
        Seed([bar(bands=bands(("low", "below", "50%")))]),
    ),
    "chatters": (
        Seed([bar(bands=bands(("low", "below", "50%")))], {"hull": [100.0, *[49.0, 51.0] * 5, 49.0]}, step=0.1),
        Seed(
            [bar(bands=(Band(name="low", below="50%", back="55%"),))],
            {"hull": [100.0, *[49.0, 51.0] * 5, 49.0]},
            step=0.1,
        ),
    ),
    "warns-late": (
        Seed([bar(bands=bands(("low", "below", "5%")))], {"hull": LOST * 2}, project=OUTCOME),
        Seed([bar(bands=bands(("low", "below", "60%")))], {"hull": LOST * 2}, project=OUTCOME),
    ),
    "cries-wolf": (
        Seed([bar(bands=bands(("low", "below", "60%")))], {"hull": DIP * 3 + CALM + LOST * 2}, project=OUTCOME),
        Seed([bar(bands=bands(("low", "below", "52%")))], {"hull": DIP * 3 + CALM + LOST * 2}, project=OUTCOME),
    ),
    "not-reset": (
        Seed(
            [counter("scrap")],
            runs=[1] * 6 + [2] * 6,
            columns={"scrap": [0.0, 1.0, 2.0, 3.0, 4.0, 5.0, 5.0, 6.0, 7.0, 8.0, 9.0, 9.0]},
        ),
        Seed(
            [counter("scrap")],
            runs=[1] * 6 + [2] * 6,
            columns={"scrap": [0.0, 1.0, 2.0, 3.0, 4.0, 5.0, 0.0, 1.0, 2.0, 3.0, 3.0, 3.0]},
        ),
    ),
    "stretched": (
        Seed([widget("picture", {}, options={"asset": "fog.svg"}, place=at(20.0, 20.0))], files={"fog.svg": PALE}),
        Seed(
            [widget("picture", {}, options={"asset": "fog.svg", "proportions": "keep"}, place=at(20.0, 20.0))],
            files={"fog.svg": PALE},
        ),
    ),
    "outgrows": (
        Seed([label("Depth {hull | 0.0} m", size=(120.0, 60.0))]),
        Seed([label("Depth {hull | 0.0} m")]),
    ),
    "no-room": (
        Seed([bar(size=(100.0, 24.0), look={"gap": 6.0})]),
        Seed([bar(size=(100.0, 24.0))]),
    ),
    "missing-characters": (
        Seed([counter("hull", "0.0", options={"face": CELLS})], files={"figures.svg": PALE}),
        Seed([counter("hull", "0", options={"face": CELLS})], files={"figures.svg": PALE}),
    ),
    "off-screen": (Seed([label("Far away", place=at(1880.0, 20.0))]), Seed([label("Far", place=at(1500.0, 20.0))])),
    "unsafe-edge": (
        Seed(
            [label("Edge", place=at(-30.0, 20.0))],
            project={"screens": (Screen(name="tv", size=(1920, 1080), safe=0.05),)},
        ),
        Seed(
            [label("Edge", place=at(10.0, 20.0))],
            project={"screens": (Screen(name="tv", size=(1920, 1080), safe=0.05),)},
        ),
    ),
    "keep-clear": (
        Seed(
            [label("Over", place=at(800.0, 500.0))],
            project={"plates": (replace(PLATE, keep_clear=(Zone(box=(700, 400, 500, 300)),)),)},
            files={"fog.svg": PALE},
        ),
        Seed(
            [label("Over", place=at(300.0, 500.0), look={"text": "#10222b"})],
            project={"plates": (replace(PLATE, keep_clear=(Zone(box=(700, 400, 500, 300)),)),)},
            files={"fog.svg": PALE},
        ),
    ),
    "overlaps": (
        Seed([label("Depth gauge", place=at(100, 100)), label("Air gauge", ident="v", place=at(120, 110))]),
        Seed([label("Depth gauge", place=at(100, 100)), label("Air gauge", ident="v", place=at(120, 160))]),
    ),
    "covered": (
        Seed(
            [label("Under", place=at(100, 100)), widget("panel", {}, "v", place=at(90, 90), look={"back": "#071319"})]
        ),
        Seed([widget("panel", {}, "v", place=at(90, 90), look={"back": "#071319"}), label("Over", place=at(100, 100))]),
    ),
    "never-visible": (
        Seed([label("Won", also={"visible": "hull > 400"})]),
        Seed([label("Won", also={"visible": "hull > 90"})]),
    ),
    "group-hidden": (
        Seed([label("In", group="g")], project={"groups": (Group(id="g", visible="hull > 400"),)}),
        Seed([label("In", group="g")], project={"groups": (Group(id="g", visible="hull > 90"),)}),
    ),
    "too-short": (
        Seed([label("Seal the seam now", also={"visible": "leak"})], {"leak": flags("..#.........")}),
        Seed([label("Seal the seam now", also={"visible": "leak"})], {"leak": flags("..##........")}),
    ),
    "never-ends": (
        Seed([prompt("leak")], {"leak": flags("..##########")}, step=4.0),
        Seed([prompt("leak", until="hull > 90")], {"leak": flags("..##########")}, step=4.0),
    ),
    "never-arrives": (
        Seed(
            [label("Leak", also={"visible": "leak"}, enter=Passage(seconds=5))],
            {"leak": flags("..####...##.")},
        ),
        Seed(
            [label("Leak", also={"visible": "leak"}, enter=Passage(seconds=3))],
            {"leak": flags("..####...##.")},
        ),
    ),
    "after-lesson": (
        Seed([prompt("leak", until="scrap == 10")], {"leak": flags("..####...###")}),
        Seed([prompt("leak", until="scrap == 10", options={"again": "once"})], {"leak": flags("..####...###")}),
    ),
    "prompts-collide": (
        Seed(
            [prompt("leak", options={"queue": "q"}), prompt("hull < 60", ident="v", options={"queue": "q"})],
            {"leak": flags("...####.....")},
        ),
        Seed(
            [prompt("leak", options={"queue": "q"}), prompt("hull < 60", ident="v", options={"queue": "q"})],
            {"leak": flags(".#..........")},
        ),
    ),
    "feed-stays": (
        Seed([widget("feed", {}, options={"lines": {"hit": "Rock!"}, "keep": 90})], events=(HIT,)),
        Seed([widget("feed", {}, options={"lines": {"hit": "Rock!"}, "keep": 8})], events=(HIT,)),
    ),
    "feed-overflows": (
        Seed(
            [widget("feed", {}, options={"lines": {"hit": "Rock!"}, "most": 2}, place=at(100, 500))],
            events=tuple(Event(3 + i / 10, "hit", {}) for i in range(5)),
        ),
        Seed(
            [widget("feed", {}, options={"lines": {"hit": "Rock!"}, "most": 2}, place=at(100, 500))],
            events=tuple(Event(3 + i, "hit", {}) for i in range(5)),
        ),
    ),
    "fixed-slot": (
        Seed(
            [counter("crew[0].scrap", repeat="crew", place=at(100, 100, step=(0.0, 90.0)))],
            {f"crew[{i}].scrap": list(RISING) for i in range(3)},
        ),
        Seed(
            [counter("crew[slot].scrap", repeat="crew", place=at(100, 100, step=(0.0, 90.0)))],
            {f"crew[{i}].scrap": list(RISING) for i in range(3)},
        ),
    ),
    "same-slot": (
        Seed(
            [counter("crew[0].scrap"), counter("crew[0].scrap", ident="v", place=at(600, 100))],
            {f"crew[{i}].scrap": list(RISING) for i in range(3)},
        ),
        Seed(
            [counter("crew[0].scrap"), counter("crew[1].scrap", ident="v", place=at(600, 100))],
            {f"crew[{i}].scrap": list(RISING) for i in range(3)},
        ),
    ),
    "no-caption": (
        Seed([label("{scrap}"), label("Scrap", ident="v", place=at(1500, 900))]),
        Seed([label("{scrap}"), label("Scrap", ident="v", place=at(110, 180))]),
    ),
}
