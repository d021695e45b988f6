"""The button: pressed while the game is driven by hand, it sets variables."""

from collections.abc import Iterable, Mapping
from typing import Any

from msgspec import Struct

from avrin.kinds.assets import Asset, asset_shapes
from avrin.kinds.bands import settled
from avrin.kinds.icons import key_cap
from avrin.kinds.kind import Addition, Drawing, Input, Kind, KindSample, OptionRule, TrackColumn, Wired, Wiring
from avrin.kinds.look import Colour, KeyName, Look, Size
from avrin.kinds.shapes import Box, Shape, TextRun
from avrin.project.project import Project
from avrin.rules.check import Events
from avrin.rules.steps import Step
from avrin.trace.frames import KIND_OF

__all__ = ["KIND"]

STATES = ("idle", "hover", "held", "off")


class Does(Struct, frozen=True, kw_only=True):
    """One assignment: a variable and the rule for its new value."""

    set: str
    to: str


class Options(Struct, frozen=True, kw_only=True):
    """key: the key that presses it. assets: pictures for idle, hover, held and off. does: the assignments of a press."""

    key: KeyName = ""
    assets: dict[str, Asset] = {}
    does: tuple[Does, ...] = ()


class ButtonLook(Look, frozen=True, kw_only=True):
    """back, hover, held, off: the background in each state."""

    text_size: Size = 28.0
    bold: bool = True
    back: Colour = "#1e6b68"
    hover: Colour = "#2a8480"
    held: Colour = "#155451"
    off: Colour = "#40505460"
    edge: Colour = "#dfe9e4"
    edge_width: Size = 2.0
    radius: Size = 10.0


def wire(w: Wiring) -> Wired:
    """Track: enabled."""
    presses: dict[str, Step] = {}
    variables = w.compile.variables
    for number, change in enumerate(w.options.does):
        kind = variables.get(change.set)
        if kind is None:
            w.compile.wrong(f"does.{number}.set", f"no variable '{change.set}' to set")
            continue
        presses[f"press.{change.set}"] = w.compile.rule(f"does.{number}.to", change.to, KIND_OF[kind])
    label = w.get("label") or w.graph.constant("", "text")
    return Wired({"enabled": settled(w.graph, w["enabled"])}, drawn={"label": label, **presses})


def shapes(d: Drawing) -> tuple[Shape, ...]:
    """Draw the background or its picture, the key cap and the label."""
    look: ButtonLook = d.look
    way = "off" if not d.state["enabled"] else d.hot or "idle"
    asset = d.options.assets.get(way) or (d.options.assets.get("idle", "") if way != "off" else "")
    if asset:
        drawn = list(asset_shapes(asset, d.folder, 0, 0, d.width, d.height))
    else:
        back = {"idle": look.back, "hover": look.hover, "held": look.held, "off": look.off}[way]
        drawn = [Box(0, 0, d.width, d.height, back, look.radius, look.edge, look.edge_width)]
    text, key = str(d.state["label"] or ""), d.options.key
    cap = d.measure.cap_height(look.text_size, look.bold)
    base = (d.height + cap) / 2
    fill = look.text if way != "off" else look.text[:7] + "80"
    tall = cap * 1.8
    wide = max(tall, d.measure.width(key, look.text_size * 0.8, True) + tall * 0.7) if key else 0.0
    length = d.measure.width(text, look.text_size, look.bold)
    x = (d.width - wide - length - (cap if key and text else 0)) / 2
    if key:
        drawn.append(key_cap(x, (d.height - tall) / 2, tall, wide, "#10222b", fill))
        drawn.append(TextRun(x + wide / 2, base - cap * 0.1, key, look.text_size * 0.8, fill, True, "center"))
        x += wide + cap
    if text:
        drawn.append(TextRun(x, base, text, look.text_size, fill, look.bold))
    return tuple(drawn)


def rules(options: Mapping[str, Any]) -> Iterable[OptionRule]:
    """Return the rules in options: the assignments of a press."""
    for i, one in enumerate(options.get("does", ())):
        if isinstance(one, Mapping):
            yield OptionRule(f"does.{i}.set", False, "sets")
            yield OptionRule(f"does.{i}.to", False, "to", f"does.{i}")


def additions(options: Mapping[str, Any], project: Project, _events: Events) -> Iterable[Addition]:
    """Offer one more assignment: initially the first number to itself."""
    first = next((variable.name for variable in project.variables if variable.type in ("int", "float")), "")
    if first:
        yield Addition("+ set a value", "does", [*options.get("does", ()), {"set": first, "to": first}])


KIND = Kind(
    name="button",
    help="A button; when driving by hand, pressing it sets variables.",
    inputs=(
        Input("enabled", "flag", "Whether it can be pressed; missing counts as no.", "true"),
        Input("label", "template", "What it says."),
    ),
    options=Options, look=ButtonLook, wire=wire, shapes=shapes, columns=(TrackColumn("enabled", "state"),), rules=rules,
    additions=additions, keyed={"assets": STATES}, words="label", names="always", writes=("label",), fits="line", pressed=True,
    manual_sample=KindSample(size=(180.0, 56.0), inputs={"enabled": "hull < 100", "label": "Patch"}, options={"key": "B"}),
    test_sample=KindSample(
        size=(300.0, 60.0), inputs={"enabled": "hull < 100", "label": "{words}"},
        options={"key": "B", "does": [{"set": "hull", "to": "full"}]},
    ),
)  # fmt: skip
