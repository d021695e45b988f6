"""Write docs/widgets.md and its pictures from the kinds' own registry. Run it after adding or changing a kind."""

from __future__ import annotations

from pathlib import Path
from typing import Any, Literal, get_args, get_origin

import msgspec

from avrin.model import Band, Place, Project, Roster, Screen, Variable, Widget
from avrin.render import scene, svg
from avrin.trace import Column, Event, Trace
from avrin.widgets import KINDS, Box, Kind, Tracks, bind

TARGET = Path(__file__).with_name("widgets.md")
PICTURES = Path(__file__).with_name("widgets")
SIZE = (640, 150)
GROUND = "#16323c"

HEAD = """# Widgets

Every kind has the inputs `visible` (default `true`) and `opacity` (default `1`), a place, bands and a look. This page and its
pictures are made from the program itself (`docs/make_widgets.py`).

**Bands** have a name and one of `below`, `above` (compared with the kind's level) or `when` (a condition); `back` makes one
sticky. The first that matches wins, and its entry in `look.bands` goes over the look. `flash` in a look dims the widget in the
second half of each period of the trace's clock, so a paused picture is always the same.

**Place**: `anchor` and `pivot` (nine words), `offset` and `size` in reference pixels; `follow` (`x`, `y`: rules; `hold`, `arrow`)
hangs it on a moving thing instead. `repeat` over a roster makes one copy for each slot, `place.step` apart; rules then say
`slot`. `style` names a look of the project's that the widget's own goes over; of a style a kind takes the fields it has.

**Texts** of every kind: `text`, `text_size`, `bold`, `outline`, `outline_width`, `shadow`, `shadow_at`.

**Assets** are icons of our own (`disc square heart drop cell coin star nut skull anchor arrow bolt bell`) or PNG and SVG files
in the project's folder. A file chosen on the card, or dropped onto its field, is copied there, into `art`. What is not there,
or cannot be read, draws a clear mark. An SVG loses scripts and references to anything outside itself.
"""

BANDS = (Band(name="critical", below="10%"), Band(name="low", below="35%"))
FILL = {"bands": {"critical": {"fill": "#d2483f"}, "low": {"fill": "#d9902f"}}}
TEXT = {"bands": {"low": {"text": "#ffd08a"}}}
LOW = (Band(name="low", below="35"),)
# For each kind: size, inputs, options, look, bands; drawn at three values of hull.
SHOWN: dict[str, tuple[tuple[float, float], dict[str, str], dict[str, Any], dict[str, Any], tuple[Band, ...]]] = {
    "bar": ((180, 60), {"value": "hull", "full": "100", "caption": "HULL  {hull | 0}"}, {"trail": {}}, FILL, BANDS),
    "ring": ((100, 100), {"value": "hull", "full": "100", "caption": "{hull | 0}"}, {}, FILL, BANDS),
    "pips": ((190, 34), {"value": "hull", "full": "100"}, {"per_pip": 20, "parts": 2}, {"asset": "heart", "fill": "#ef7d86"}, ()),
    "counter": ((180, 80), {"value": "hull", "caption": "hull"}, {"pattern": "0.0"}, TEXT, LOW),
    "label": ((190, 44), {"text": "Hull {hull | 0} pt"}, {}, {"back": "#0b1a22d8"}, ()),
    "timer": ((180, 80), {"value": "hull", "caption": "tide turns"}, {}, TEXT, LOW),
    "prompt": ((190, 56), {"when": "true", "text": "Seal"}, {"keys": {"keyboard": "F"}, "pulse": 2}, {"text_size": 24}, ()),
    "feed": ((190, 110), {}, {"lines": {"hit": "Rock! {points | 0} off the hull"}, "keep": 60}, {"text_size": 16}, ()),
    "table": (
        (190, 120), {}, {"roster": "crew", "columns": [{"title": "diver", "text": "{crew[slot].name}"},
                                                       {"title": "scrap", "text": "{crew[slot].scrap | 0}"}],
                         "sort_by": "crew[slot].scrap", "empty": "a seat is free", "mark": "slot == 1"},
        {"text_size": 15, "rows": 24, "pad": 10}, (),
    ),
    "banner": (
        (190, 90), {"when": "true", "title": "Lost", "note": "at {hull | 0} pt"}, {"dim": 0},
        {"text_size": 36, "note_size": 15, "back": "#3a0f0fd8"}, (),
    ),
    "picture": (
        (90, 90), {}, {"asset": "anchor", "by_band": {"low": "skull"}}, {"tint": "#cfe8e3"},
        (Band(name="low", when="hull < 35"),),
    ),
    "panel": ((180, 90), {}, {}, {"edge": "#dfe9e4"}, ()),
    "button": ((180, 56), {"enabled": "hull < 100", "label": "Patch"}, {"key": "B"}, {}, ()),
}  # fmt: skip
HULL = (100.0, 30.0, None)


def picture(kind: Kind) -> str:
    """Three states side by side, as SVG."""
    size, inputs, options, look, bands = SHOWN[kind.name]
    widget = Widget(
        id=kind.name, kind=kind.name, inputs=inputs, options=options, look=look, bands=bands,
        place=Place(anchor="center", pivot="center", size=size),
    )  # fmt: skip
    fields = (Variable(name="name", type="text"), Variable(name="scrap", type="int"))
    project = Project(
        reference=SIZE, variables=(Variable(name="hull", type="float"),),
        rosters=(Roster(name="crew", slots=3, fields=fields),), widgets=(widget,),
    )  # fmt: skip
    bound = bind(project, seen={"hit": {"points": "number"}})
    bound.raise_first()
    columns = {"hull": Column.of(list(HULL))}
    for slot, (name, scrap) in enumerate((("Ona", 38.0), ("Teo", 97.0))):
        columns |= {f"crew[{slot}].name": Column.of([name] * 3), f"crew[{slot}].scrap": Column.of([scrap] * 3)}
    events = [Event(float(i), "hit", {"points": 9.0 + i}) for i in range(3)]
    tracks = Tracks(bound, Trace.make("t", [0.0, 1.0, 2.0], columns, events=events))
    shapes: list[Any] = [Box(0, 0, *SIZE, GROUND)]
    screen = Screen(name="s", size=SIZE)
    for frame in range(3):
        groups = [placed.group for placed in scene(tracks, frame, screen)]
        shapes += [msgspec.structs.replace(group, dx=group.dx + (frame - 1) * 212) for group in groups]
    return svg(shapes, *SIZE)


def page() -> str:
    """The whole page."""
    return HEAD + "".join(map(_section, KINDS.values()))


def _section(kind: Kind) -> str:
    lines = [f"\n## {kind.name}\n\n{kind.help}\n\n![{kind.name}, at 100, at 30 and missing](widgets/{kind.name}.svg)\n"]
    if kind.inputs:
        lines.append("\n| input | | default | |\n|---|---|---|---|\n")
        for one in kind.inputs:
            default = f"`{one.default}`" if one.default is not None else "needed" if one.needed else ""
            lines.append(f"| `{one.name}` | {one.kind} | {default} | {one.help} |\n")
    for title, struct in (("Options", kind.options), ("Look", kind.look)):
        fields = list(msgspec.structs.fields(struct))
        if fields:
            told = ", ".join(f"`{f.encode_name}`{_of(f.type)} = {_default(f)}" for f in fields)
            lines.append(f"\n**{title}**: {told}. {_doc(struct)}\n")
    columns = ["visible", "band", *_columns(kind)]
    lines.append("\n**Track**: " + ", ".join(f"`ID.{name}`" for name in columns) + "\n")
    return "".join(lines)


def _columns(kind: Kind) -> list[str]:
    _, inputs, options, _, _ = SHOWN[kind.name]
    project = Project(
        variables=(Variable(name="hull", type="float"),),
        widgets=(Widget(id="w", kind=kind.name, inputs=inputs, options=options),),
        rosters=(Roster(name="crew", slots=1, fields=(Variable(name="name", type="text"), Variable(name="scrap", type="int"))),),
    )  # fmt: skip
    return list(bind(project, seen={"hit": {"points": "number"}}).widgets["w"].columns)[2:]


def _of(kind: Any) -> str:
    if get_origin(kind) is Literal:
        return f" ({' / '.join(map(str, get_args(kind)))})"
    return ""


def _default(field: Any) -> str:
    value = field.default if field.default is not msgspec.NODEFAULT else None
    if value is None and field.default_factory is not msgspec.NODEFAULT:
        value = field.default_factory()
    return f"`{msgspec.json.encode(value).decode()}`"


def _doc(struct: type[msgspec.Struct]) -> str:
    return " ".join((struct.__doc__ or "").split())


if __name__ == "__main__":
    PICTURES.mkdir(exist_ok=True)
    TARGET.write_text(page(), encoding="utf-8")
    for one in KINDS.values():
        (PICTURES / f"{one.name}.svg").write_text(picture(one), encoding="utf-8")
