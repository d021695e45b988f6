"""Write docs/widgets.md and its pictures from the kinds' own registry. Run it after adding or changing a kind."""

from __future__ import annotations

from collections.abc import Iterable
from pathlib import Path
from typing import Any, Literal, get_args, get_origin

import msgspec
from msgspec.structs import replace

from avrin.binding.binding import bind
from avrin.binding.tracks import Tracks
from avrin.kinds.icons import ICONS
from avrin.kinds.kind import Kind
from avrin.kinds.kind_samples import sample_project, sample_widget
from avrin.kinds.registry import KINDS
from avrin.kinds.shapes import Box
from avrin.project.project import Screen
from avrin.render.scene import scene
from avrin.render.svg import svg
from avrin.trace.frames import Column, Event, Trace

TARGET = Path(__file__).with_name("widgets.md")
PICTURES = Path(__file__).with_name("widgets")
SIZE = (640, 150)
GROUND = "#16323c"

HEAD = f"""# Widgets

Every kind has the inputs `visible` (default `true`) and `opacity` (default `1`), a place, bands and a look. This page and its
pictures are made from the program itself (`docs/make_widgets.py`).

**Bands** have a name and one of `below`, `above` (compared with the kind's level) or `when` (a condition); `back` makes one
sticky, `held` lets it begin only when it has lasted so long. The first that matches wins, and its entry in `look.bands` goes
over the look. `flash` in a look dims the widget in the
second half of each period of the trace's clock, so a paused picture is always the same.

**Place**: `anchor` and `pivot` (nine words), `offset` and `size` in reference pixels; `follow` (`x`, `y`: rules; `hold`, `arrow`)
hangs it on a moving thing instead. `repeat` over a roster makes one copy for each slot, `place.step` apart; rules then say
`slot`. `style` names a look of the project's that the widget's own goes over; of a style a kind takes the fields it has.

**Texts** of every kind: `text`, `text_size`, `bold`, `outline`, `outline_width`, `shadow`, `shadow_at`.
`{{@coin}}` in a text draws an icon, or a picture as `{{@art/coin.png}}`, in the letters' height.

**Motion** of every kind: `enter` and `leave` say `how` (`fade`, `slide` from the side it hangs on, `grow`) and in how many
`seconds` it comes and goes; the track then has `presence`, from 0 to 1. `pop` makes it jump to `size` times its own whenever its
rule `when` turns true, and settle within `seconds`; the track has `pop`, 1 when fresh. What shows when a run begins is there.

**Assets** are icons of our own (`{" ".join(ICONS)}`) or PNG and SVG files
in the project's folder. A file chosen on the card, or dropped onto its field, is copied there, into `art`. What is not there,
or cannot be read, draws a clear mark. An SVG loses scripts and references to anything outside itself.
"""

HULL = (100.0, 30.0, None)


def picture(kind: Kind) -> str:
    """Three states side by side, as SVG."""
    widget = replace(sample_widget(kind, kind.manual_sample), id=kind.name)
    project = replace(sample_project(widget, slots=3), reference=SIZE)
    bound = bind(project)
    bound.raise_first()
    columns = {"hull": Column.of(list(HULL)), "full": Column.of([100.0] * 3)}
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


def page(kinds: Iterable[Kind]) -> str:
    """The whole page."""
    return HEAD + "".join(map(_section, kinds))


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
            listed = ", ".join(f"`{f.encode_name}`{_of(f.type)} = {_default(f)}" for f in fields)
            lines.append(f"\n**{title}**: {listed}. {_doc(struct)}\n")
    columns = ", ".join(f"`ID.{column.name}`" for column in kind.all_columns())
    along = ", ".join(f"`{column.name}`" for column in kind.columns if not column.discrete)
    lines.append(f"\n**Track**: {columns}{f' (running along: {along})' if along else ''}\n")
    return "".join(lines)


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
    TARGET.write_text(page(KINDS.values()), encoding="utf-8")
    for one in KINDS.values():
        (PICTURES / f"{one.name}.svg").write_text(picture(one), encoding="utf-8")
