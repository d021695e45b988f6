"""The interface of a widget kind: inputs, options and look as data, how it builds its track, how it draws a state.

A kind is one module with one `KIND`. Everything that lists kinds or their fields reads it from there.
"""

from __future__ import annotations

import re
from collections.abc import Callable, Iterable, Mapping, Sequence
from pathlib import Path
from typing import Any, Literal, Protocol

from msgspec import Struct, field
from msgspec.structs import replace

from avrin.kinds.look import Look
from avrin.kinds.shapes import Measure, Shape
from avrin.kinds.subject import Offer, Subject
from avrin.project.project import Anchor, Band, Project, Roster, VariableType, Widget
from avrin.rules.check import Events
from avrin.rules.event_steps import EventSteps
from avrin.rules.patterns import pattern
from avrin.rules.steps import Graph, Step
from avrin.rules.template import Part, template_step
from avrin.trace.frames import ColumnKind, Value

__all__ = [
    "COMMON_COLUMNS",
    "COMMON_INPUTS",
    "EDGES",
    "Addition",
    "Compiler",
    "Drawing",
    "Edge",
    "Grip",
    "Input",
    "InputKind",
    "Kind",
    "KindSample",
    "OptionRule",
    "Peer",
    "State",
    "TrackColumn",
    "Wired",
    "Wiring",
    "no_offer",
    "plain_id",
]

InputKind = Literal["number", "flag", "text", "template"]
Edge = Literal["state", "end", "part", "picture", "text"]
EDGES: tuple[Edge, ...] = ("state", "end", "part", "picture", "text")  # by significance, highest first
State = Mapping[str, Value]  # track column after "ID." -> value at one frame


class Input(Struct, frozen=True):
    """An input of a widget. default: the rule if none is given; None if the input may be empty.

    needed: required. main: the widget's subject. shared: it falls back to the project's rule of that name.
    """

    name: str
    kind: InputKind
    help: str
    default: str | None = None
    needed: bool = False
    main: bool = False
    shared: bool = False


COMMON_INPUTS = (
    Input("visible", "flag", "Whether it is drawn; missing counts as no.", "true"),
    Input("opacity", "number", "From 0, invisible, to 1.", "1"),
)


class TrackColumn(Struct, frozen=True):
    """One column of a kind's track, `ID.name`.

    edge: which changes make an edge of the ladder; None for no change. "state": any change of a state word
    (visibility, band, enabled); "end": a share that reaches or leaves 0 or 1;
    "part": any other number; "picture": any other word; "text": a text of another length.
    discrete: it changes in steps worth a line each; False for a continuous number.
    """

    name: str
    edge: Edge | None = None
    discrete: bool = True


COMMON_COLUMNS = (TrackColumn("visible", "state"), TrackColumn("band", "state"))


def plain_id(name: str) -> str:
    """Return a variable's name as part of an id: `crew[0].scrap` gives crew_0_scrap, `fuelLeft` fuel_left."""
    return re.sub(r"\W+", "_", re.sub(r"(?<=[a-z\d])(?=[A-Z])", "_", name)).strip("_").lower()


class Peer(Struct, frozen=True):
    """Another widget of the same kind, for kinds whose widgets take turns."""

    ident: str
    options: Any
    inputs: Mapping[str, Step]


class Compiler(Protocol):
    """Compiles rules in options. where: their path there, such as "columns.0.text".

    An invalid rule gives a step that is missing throughout; its error is recorded.
    """

    rosters: Mapping[str, Roster]
    events: Events
    variables: Mapping[str, VariableType]

    def rule(self, where: str, text: str, kind: ColumnKind | None, *, slot: int | None = None) -> Step:
        """Compile a rule, of any kind if `kind` is None; `slot` selects a slot of a roster."""
        ...

    def template(
        self, where: str, text: str, *, slot: int | None = None, names: Mapping[str, Step] | None = None
    ) -> Step:
        """Compile a template. names: further names it may use, each with its step."""
        ...

    def event(self, name: str) -> EventSteps:
        """Return the steps of a known event; of one with an error in its rules, those of the recorded event."""
        ...

    def wrong(self, where: str, problem: str, advice: str = "") -> None:
        """Report an error in an option that is not a rule."""
        ...

    def peers(self) -> Sequence[Peer]:
        """Return all widgets of this kind, including this one, in the project's order."""
        ...


class Wiring(Struct, frozen=True):
    """What a kind builds its track from. inputs: a step for each input that has a rule or a default.

    language: whose number signs are used, "" for English.
    """

    ident: str
    graph: Graph
    inputs: Mapping[str, Step]
    options: Any
    placeholder: str
    compile: Compiler
    language: str = ""

    def written(self, number: Step, shape: str) -> Step:
        """Format a number by a pattern. Raises AvrinError for an invalid pattern."""
        part = Part(number, replace(pattern(shape), language=self.language))
        return template_step(self.graph, [part], placeholder=self.placeholder)

    def get(self, name: str) -> Step | None:
        """Return an input's step, or None if it is empty."""
        return self.inputs.get(name)

    def __getitem__(self, name: str) -> Step:
        return self.inputs[name]


class Wired(Struct, frozen=True):
    """A kind's track. columns: in order. drawn: further values that only drawing needs.

    level: the value bands compare, None for a kind without one. shows: an additional condition for visibility.
    after_band: further columns, built from the band's step.
    """

    columns: Mapping[str, Step]
    level: Step | None = None
    drawn: Mapping[str, Step] = field(default_factory=dict)
    shows: Step | None = None
    after_band: Mapping[str, Callable[[Step], Step]] = field(default_factory=dict)


class Drawing(Struct, frozen=True):
    """What a kind draws from. width, height: of its box in reference pixels; shapes start at its upper left corner.

    clock: seconds of the trace, for animations. folder: where assets are. screen: x, y, width and height of
    the whole screen relative to the widget's corner, None if it is drawn alone. hot: "hover" or "held" under a pointer.
    """

    state: State
    width: float
    height: float
    options: Any
    look: Any
    measure: Measure
    placeholder: str
    clock: float = 0.0
    folder: Path = Path()
    screen: tuple[float, float, float, float] | None = None
    hot: str = ""


class Grip(Struct, frozen=True):
    """A handle on a drawn widget. title: what it does.

    box: x, y, width and height from the widget's corner, in reference pixels. across: it is dragged horizontally; others are
    clicked. change: returns the raw options, given the current ones and the distance dragged in reference pixels.
    """

    title: str
    box: tuple[float, float, float, float]
    change: Callable[[Mapping[str, Any], float], dict[str, Any]]
    across: bool = False


class Cell(Struct, frozen=True):
    """One text of a drawn table. column: its index. title: its column's. room: width in reference pixels. size: font size.

    spans: it spans the whole row.
    """

    column: int
    title: str
    text: str
    room: float
    size: float
    bold: bool
    spans: bool = False


class OptionRule(Struct, frozen=True):
    """A rule in raw options. path: keys and indexes, "columns.0.text"; template: a text with values.

    title: its label. entry: the path of the entry that can be removed together with it, "" for none.
    title_path: the path of an editable title, "" for none. sized: the path of its width, likewise.
    """

    path: str
    template: bool
    title: str
    entry: str = ""
    title_path: str = ""
    sized: str = ""


class Addition(Struct, frozen=True):
    """An entry that can be added to a widget's options in one press. value: the whole option afterwards."""

    title: str
    option: str
    value: Any


class KindSample(Struct, frozen=True):
    """A widget for the manual or for tests. size: reference pixels.

    Its rules may use the numbers `hull` and `full`, the text `words`, the roster `crew` (`name`, `scrap`), and the event
    `hit` (`points`): `avrin.kinds.kind_samples` makes a project with them.
    """

    size: tuple[float, float] = (180.0, 60.0)
    inputs: Mapping[str, str] = field(default_factory=dict)
    options: Mapping[str, Any] = field(default_factory=dict)
    look: Mapping[str, Any] = field(default_factory=dict)
    bands: tuple[Band, ...] = ()


def no_rules(_options: Mapping[str, Any]) -> Iterable[OptionRule]:
    """Return no rules."""
    return ()


def no_additions(_options: Mapping[str, Any], _project: Project, _events: Events) -> Iterable[Addition]:
    """Return no additions."""
    return ()


def no_grips(_drawing: Drawing) -> Iterable[Grip]:
    """Return no handles."""
    return ()


def no_cells(_drawing: Drawing) -> Iterable[Cell]:
    """Return no cells."""
    return ()


def without_columns(widget: Widget, _look: object, _texts: Sequence[float]) -> Widget:
    """Return the widget unchanged: it has no columns."""
    return widget


def no_assets(_options: object) -> tuple[str, ...]:
    """Return no assets."""
    return ()


def no_offer(_subject: Subject, _project: Project) -> Offer | None:
    """Return no offer."""
    return None


def never_squeezed(_width: float, _height: float, _look: object, _caption: str) -> bool:
    """Return False: it has no edge or gap."""
    return False


class Kind(Struct, frozen=True):
    """A widget kind. Nothing else in the program depends on a kind's name.

    Structure:
    columns: of its track after the common ones, in order. drawn: further values drawing needs, such as texts.
    offer: returns a complete widget for a subject in a project, or None if the kind does not suit it.
    home: its usual position on a screen.
    rules: the rules in raw options. rule_options: options that are a rule themselves.
    keyed: options with an entry per name, and those names; `by_band` also has the bands' names. "" among them:
    users may add names.
    additions: what can be added to raw options, given the project and the events rules can use.
    grips: its handles, as drawn.
    cells: its texts in columns, as drawn. fitted: returns the widget with columns as wide as their texts, given their
    widths in reference pixels, and its look.
    whole_assets: pictures drawn into its whole box, in the `proportions` of its options.
    social: its track depends on other widgets of the kind.
    moves: its shapes depend on the clock, not only on the state.
    manual_sample: the sample in the manual. test_sample: a sample with all inputs, for tests and benchmarks.

    Properties:
    share: its level is a share of full. bare: it shows a number that needs a name beside it.
    words: the input with its own description, "" for none. names: whether it describes its neighbours:
    always, if its `words` contain any, or never. writes: its texts, as columns or drawn values.
    glyph_text: the text written in the `face` of its options.
    fits: "line" must fit horizontally, "box" in both directions, "free" may exceed its box.
    reading: the column with its value as users read it; "" if the picture says it all.
    read: the column with a temporary text that needs time to be read.
    done_by: the input that dismisses it for good. tells_events: it shows `lines` of events, `most` at once, for `keep`
    seconds each. may_bleed: it has nothing to read, so it may cross a screen's edge. may_cover: it is meant to
    cover other widgets; only such a kind draws relative to the screen's edges.
    pressed: it can be pressed while driving, also by its option `key`.
    squeezed: whether its look's edge and gap must shrink in a box of width × height with a caption.
    """

    name: str
    help: str
    inputs: tuple[Input, ...]
    options: type[Struct]
    look: type[Look]
    wire: Callable[[Wiring], Wired]
    shapes: Callable[[Drawing], tuple[Shape, ...]]
    manual_sample: KindSample
    test_sample: KindSample
    columns: tuple[TrackColumn, ...] = ()
    offer: Callable[[Subject, Project], Offer | None] = no_offer
    home: Anchor = "top-left"
    rules: Callable[[Mapping[str, Any]], Iterable[OptionRule]] = no_rules
    rule_options: tuple[str, ...] = ()
    additions: Callable[[Mapping[str, Any], Project, Events], Iterable[Addition]] = no_additions
    grips: Callable[[Drawing], Iterable[Grip]] = no_grips
    cells: Callable[[Drawing], Iterable[Cell]] = no_cells
    fitted: Callable[[Widget, Any, Sequence[float]], Widget] = without_columns
    whole_assets: Callable[[Any], tuple[str, ...]] = no_assets
    keyed: Mapping[str, tuple[str, ...]] = {}
    social: bool = False
    moves: bool = False
    share: bool = False
    bare: bool = False
    words: str = ""
    names: Literal["always", "worded", "never"] = "never"
    writes: tuple[str, ...] = ()
    glyph_text: str = ""
    fits: Literal["line", "box", "free"] = "box"
    reading: str = ""
    read: str = ""
    done_by: str = ""
    tells_events: bool = False
    may_bleed: bool = False
    may_cover: bool = False
    pressed: bool = False
    squeezed: Callable[[float, float, Any, str], bool] = never_squeezed

    @property
    def has_proportions(self) -> bool:
        """Whether its options set the proportions of its picture."""
        return self.whole_assets is not no_assets

    @property
    def has_columns(self) -> bool:
        """Whether its texts are in columns with a width."""
        return self.fitted is not without_columns

    def all_inputs(self) -> tuple[Input, ...]:
        """Its own inputs, then the common ones."""
        return (*self.inputs, *COMMON_INPUTS)

    def main_inputs(self) -> tuple[str, ...]:
        """The names of its main inputs."""
        return tuple(one.name for one in self.inputs if one.main)

    def all_columns(self) -> tuple[TrackColumn, ...]:
        """The common track columns, then its own."""
        return (*COMMON_COLUMNS, *self.columns)

    def edged(self, *edges: Edge) -> tuple[str, ...]:
        """Return the names of the columns whose changes make edges of these types, in the track's order."""
        return tuple(column.name for column in self.all_columns() if column.edge in edges)
