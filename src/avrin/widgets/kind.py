"""What a widget kind is: its inputs, options and look as data, how it makes its track, how a state becomes shapes.

A kind is one module with one `KIND`. Everything that lists kinds or their fields reads it from there.
"""

from __future__ import annotations

import re
from collections.abc import Callable, Iterable, Mapping, Sequence
from pathlib import Path
from typing import Any, Literal, Protocol

from msgspec import Struct, field
from msgspec.structs import replace

from avrin.model import Anchor, Band, Project, Roster, VariableType, Widget
from avrin.rules import Events, Graph, Step
from avrin.rules.patterns import pattern
from avrin.rules.template import Part, template_step
from avrin.trace import ColumnKind, Value
from avrin.widgets.look import Look
from avrin.widgets.shapes import Measure, Shape
from avrin.widgets.subject import Offer, Subject

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
    "OptionRule",
    "Peer",
    "Sample",
    "State",
    "TrackColumn",
    "Wired",
    "Wiring",
    "no_offer",
    "plain_id",
]

InputKind = Literal["number", "flag", "text", "template"]
Edge = Literal["state", "end", "part", "picture", "text"]
EDGES: tuple[Edge, ...] = ("state", "end", "part", "picture", "text")  # by how much they tell, the most first
State = Mapping[str, Value]  # track column after "ID." -> value at one frame


class Input(Struct, frozen=True):
    """What a widget takes in. default: the rule when none is given; None means the input may stay empty.

    needed: the widget says nothing without it. main: it is what the widget is about. shared: it takes the project's rule of
    that name where it has none of its own.
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
    Input("opacity", "number", "From 0, not to be seen, to 1.", "1"),
)


class TrackColumn(Struct, frozen=True):
    """One column of a kind's track, `ID.name`.

    edge: how a change of it makes an edge of the ladder, None where it makes none. "state": any other value, and more
    than a picture hangs on it (visibility, a band, an enabling); "end": a share that comes to 0 or 1, or leaves them;
    "part": any other number; "picture": any other word; "text": words of another length.
    discrete: it goes in steps, each worth a line of its own; False for a number that runs along.
    """

    name: str
    edge: Edge | None = None
    discrete: bool = True


COMMON_COLUMNS = (TrackColumn("visible", "state"), TrackColumn("band", "state"))


def plain_id(name: str) -> str:
    """A variable's name as part of an id: `crew[0].scrap` is crew_0_scrap, `fuelLeft` fuel_left."""
    return re.sub(r"\W+", "_", re.sub(r"(?<=[a-z\d])(?=[A-Z])", "_", name)).strip("_").lower()


class Peer(Struct, frozen=True):
    """Another widget of the same kind: what kinds look at whose widgets take turns."""

    ident: str
    options: Any
    inputs: Mapping[str, Step]


class Compiler(Protocol):
    """Makes steps of rules that stand in options. where: their place there, such as "columns.0.text".

    A rule with an error gives a step that is missing throughout; the error is kept at its place.
    """

    rosters: Mapping[str, Roster]
    events: Events
    variables: Mapping[str, VariableType]

    def rule(self, where: str, text: str, kind: ColumnKind | None, *, slot: int | None = None) -> Step:
        """A rule, of any kind where that is None; `slot` means that slot of a roster."""
        ...

    def template(
        self,
        where: str,
        text: str,
        *,
        slot: int | None = None,
        names: Mapping[str, tuple[str, ColumnKind]] | None = None,
    ) -> Step:
        """A text with values. names: further ones it may use, each with the column it stands for and that one's kind."""
        ...

    def wrong(self, where: str, problem: str, advice: str = "") -> None:
        """Tell a mistake in an option that is no rule's."""
        ...

    def peers(self) -> Sequence[Peer]:
        """All widgets of this kind, this one among them, in the project's order."""
        ...


class Wiring(Struct, frozen=True):
    """What a kind makes its track from. inputs: a step for each input that has a rule or a default.

    language: with whose signs numbers are written, "" for English.
    """

    ident: str
    graph: Graph
    inputs: Mapping[str, Step]
    options: Any
    placeholder: str
    compile: Compiler
    language: str = ""

    def written(self, number: Step, shape: str) -> Step:
        """A number as a text, by a pattern. Raises AvrinError where that is none."""
        part = Part(number, replace(pattern(shape), language=self.language))
        return template_step(self.graph, [part], placeholder=self.placeholder)

    def get(self, name: str) -> Step | None:
        """The input's step, None where it is empty."""
        return self.inputs.get(name)

    def __getitem__(self, name: str) -> Step:
        return self.inputs[name]


class Wired(Struct, frozen=True):
    """A kind's track. columns: what the track tells, in order. drawn: further values only the drawing needs.

    level: what bands compare, None for a kind without. shows: a condition of the kind's own to be visible at all.
    after_band: further columns that depend on the band, made from its step.
    """

    columns: Mapping[str, Step]
    level: Step | None = None
    drawn: Mapping[str, Step] = field(default_factory=dict)
    shows: Step | None = None
    after_band: Mapping[str, Callable[[Step], Step]] = field(default_factory=dict)


class Drawing(Struct, frozen=True):
    """What a kind draws from. width, height: of its box in reference pixels; shapes start at its upper left corner.

    clock: seconds of the trace, for what moves by itself. folder: where assets lie. screen: x, y, width and height of
    the whole screen as seen from the widget's corner, None where it is drawn alone. hot: "hover" or "held" under a pointer.
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
    """A part of a drawn widget that hands take hold of in the picture. title: what it does.

    box: x, y, width and height from the widget's corner, in reference pixels. across: it is dragged sideways; others are
    pressed. change: the raw options as they become, from what they are and the reference pixels it was dragged.
    """

    title: str
    box: tuple[float, float, float, float]
    change: Callable[[Mapping[str, Any], float], dict[str, Any]]
    across: bool = False


class Cell(Struct, frozen=True):
    """One text of a drawn table. column: its number. title: its column's. room: reference pixels it has. size: its em.

    spans: it has the whole row to itself.
    """

    column: int
    title: str
    text: str
    room: float
    size: float
    bold: bool
    spans: bool = False


class OptionRule(Struct, frozen=True):
    """A rule that stands in raw options. path: keys and positions, "columns.0.text"; template: a text with values.

    title: what it is called beside its field. entry: the path of what can be left out together with it, "" for nothing.
    named: the path of a text that is its title, which can be written over; "" for none. sized: of how wide it is, likewise.
    """

    path: str
    template: bool
    title: str
    entry: str = ""
    named: str = ""
    sized: str = ""


class Addition(Struct, frozen=True):
    """Something that can be added to a widget's options in one press. value: what the whole option is then."""

    title: str
    option: str
    value: Any


class Sample(Struct, frozen=True):
    """A widget as it poses for the manual, or as it is tried out. size: reference pixels.

    Its rules may name the numbers `hull` and `full`, the text `words`, the roster `crew` (`name`, `scrap`), and the event
    `hit` (`points`): `avrin.widgets.samples` makes a project of it.
    """

    size: tuple[float, float] = (180.0, 60.0)
    inputs: Mapping[str, str] = field(default_factory=dict)
    options: Mapping[str, Any] = field(default_factory=dict)
    look: Mapping[str, Any] = field(default_factory=dict)
    bands: tuple[Band, ...] = ()


def no_rules(_options: Mapping[str, Any]) -> Iterable[OptionRule]:
    """Options in which no rules stand."""
    return ()


def no_additions(_options: Mapping[str, Any], _project: Project, _events: Events) -> Iterable[Addition]:
    """Options to which nothing can be added."""
    return ()


def no_grips(_drawing: Drawing) -> Iterable[Grip]:
    """A kind that is taken hold of only as a whole."""
    return ()


def no_cells(_drawing: Drawing) -> Iterable[Cell]:
    """A kind without columns."""
    return ()


def without_columns(widget: Widget, _look: object, _texts: Sequence[float]) -> Widget:
    """Return a widget of a kind without columns, which is as wide as it is."""
    return widget


def no_assets(_options: object) -> tuple[str, ...]:
    """A kind that draws no picture in proportions of its own."""
    return ()


def no_offer(_subject: Subject, _project: Project) -> Offer | None:
    """A kind that nothing asks for."""
    return None


def never_squeezed(_width: float, _height: float, _look: object, _caption: str) -> bool:
    """What a kind without edge and gap says."""
    return False


class Kind(Struct, frozen=True):
    """One kind of widget, whole: nothing else in the program says anything of a kind by its name.

    What it is made of:
    columns: of its track after those all kinds have, in order. drawn: further values its drawing needs, where texts.
    offer: a complete widget for a subject, or None where the kind does not suit it; gets the project it is for.
    home: where on a screen it usually stands.
    rules: where rules stand in raw options. rule_options: options that are a rule themselves.
    keyed: options that have something for each of some names, and those names; `by_band` has the bands' too. "" among them:
    people may say further names.
    additions: what can be added to raw options; gets the project and the events that rules know.
    grips: its parts that hands take hold of, as it is drawn.
    cells: its texts that have columns, as it is drawn. fitted: the widget with columns as wide as their texts, whose widths
    in reference pixels it gets, and its look.
    whole_assets: what it draws in its whole box, in the `proportions` of its options.
    social: its track depends on other widgets of the kind.
    moves: its shapes follow the clock and not the state alone.
    pose: how it stands in the manual. tried: fed with all it can take, for tests and benchmarks.

    What can be asked of it:
    share: its level is a share of full. bare: it shows a number that something has to name.
    words: the input that says in words what it is about, "" for none. names: whether it tells what stands beside it is
    about: always, where its `words` have any, or never. writes: its texts, as columns or drawn values.
    faced: the one of them that is written in the `face` of its options.
    fits: "line" is as wide as what it says and must fit sideways, "box" must fit either way, "free" may leave its box.
    reading: the column that is its own value, as people read it; "" where its picture says it all.
    read: the column with a text that comes and goes and has to be read meanwhile.
    done_by: the input that takes it away for good. tells_events: it shows `lines` of events, `most` at once, for `keep`
    seconds each. may_bleed: nothing in it has to be read, so it may run over a screen's edge. may_cover: it is meant to
    lie over whatever is there; only such a kind draws by where the screen's edges are.
    pressed: it can be pressed while driving, by its option `key` too.
    squeezed: whether its look's edge and gap are drawn thinner than they say, in a box of width × height with a caption.
    """

    name: str
    help: str
    inputs: tuple[Input, ...]
    options: type[Struct]
    look: type[Look]
    wire: Callable[[Wiring], Wired]
    shapes: Callable[[Drawing], tuple[Shape, ...]]
    pose: Sample
    tried: Sample
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
    faced: str = ""
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
        """Whether its options say in which proportions its picture is drawn."""
        return self.whole_assets is not no_assets

    @property
    def has_columns(self) -> bool:
        """Whether its texts stand in columns that have a width."""
        return self.fitted is not without_columns

    def all_inputs(self) -> tuple[Input, ...]:
        """Its own inputs, then those all kinds have."""
        return (*self.inputs, *COMMON_INPUTS)

    def main_inputs(self) -> tuple[str, ...]:
        """The names of the inputs it is about."""
        return tuple(one.name for one in self.inputs if one.main)

    def all_columns(self) -> tuple[TrackColumn, ...]:
        """The columns every track has, then its own."""
        return (*COMMON_COLUMNS, *self.columns)

    def edged(self, *edges: Edge) -> tuple[str, ...]:
        """The names of the columns whose changes make edges of these sorts, in the track's order."""
        return tuple(column.name for column in self.all_columns() if column.edge in edges)
