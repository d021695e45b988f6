"""What a project is: the file's structure as immutable values.

Every edit makes a new `Project` that shares all it did not change, so undo is keeping the old one. Fields stand in
the order the file writes them. Keys this version does not know wait in `extra` and are written back.
What only a widget kind knows (its inputs, options and look) is checked by `avrin.widgets`.
"""

import math
from typing import Annotated, Any, Literal, Self

from msgspec import Meta, Struct, field
from msgspec.structs import replace

from avrin.model.names import told_apart

__all__ = [
    "FORMAT",
    "USUAL_SCREEN",
    "Action",
    "Anchor",
    "Band",
    "Change",
    "Derived",
    "EventKind",
    "Fit",
    "Follow",
    "Group",
    "Json",
    "Locale",
    "Named",
    "Outcome",
    "Passage",
    "Place",
    "Plate",
    "Pop",
    "Project",
    "Proportions",
    "Record",
    "Recording",
    "Region",
    "Roster",
    "Screen",
    "ScreenPart",
    "Variable",
    "VariableType",
    "WhileMissing",
    "Widget",
    "Zone",
    "named",
]

FORMAT = "avrin/1"
Json = Any  # whatever JSON holds: who reads it looks at what it is

Anchor = Literal[
    "top-left", "top", "top-right", "left", "center", "right", "bottom-left", "bottom", "bottom-right"
]  # fmt: skip
Fit = Literal["height", "width", "smaller", "none"]
Proportions = Literal["auto", "keep", "cover", "own", "stretch"]
VariableType = Literal["int", "float", "bool", "text"]

NAME = r"^[^\W\d]\w*(\.[^\W\d]\w*)*$"
Name = Annotated[str, Meta(pattern=NAME, max_length=80)]
COLUMN = r"^[^\W\d]\w*(\.[^\W\d]\w*)*(\[\d{1,3}\]\.[^\W\d]\w*(\.[^\W\d]\w*)*)?$"
ColumnName = Annotated[str, Meta(pattern=COLUMN, max_length=170)]
Identifier = Annotated[str, Meta(pattern=r"^[\w-]+$", max_length=80)]
Positive = Annotated[float, Meta(gt=0, le=100_000)]
Pixels = Annotated[int, Meta(ge=1, le=16_384)]
Fraction = Annotated[float, Meta(ge=0, le=0.5)]
Share = Annotated[float, Meta(ge=0, le=1)]
Offset = Annotated[float, Meta(ge=-100_000, le=100_000)]


class Record(Struct, frozen=True, kw_only=True):
    """Anything the file holds between braces."""

    extra: dict[str, Any] = {}


class Variable(Record, frozen=True, kw_only=True):
    """A named value of the game.

    start: its value when a run begins; None when the game gives none.
    low, high: ends of the range the designers intend, both included, in `unit`; None where it is open.
    owner: whose it is; "" for the game's. keeps: it survives a restart.
    guessed: taken from a recording and touched by nobody: its range serves lanes and ladders, and no widget's ends.
    """

    name: Name
    type: VariableType
    start: float | str | bool | None = None
    low: float | None = None
    high: float | None = None
    unit: str = ""
    owner: str = ""
    keeps: bool = False
    note: str = ""
    guessed: bool = False


class Roster(Record, frozen=True, kw_only=True):
    """A group of `slots` slots, counted from 0, each with the same fields."""

    name: Name
    slots: Annotated[int, Meta(ge=0, le=256)]
    fields: tuple[Variable, ...] = ()


class EventKind(Record, frozen=True, kw_only=True):
    """Something that can happen. args: the type of each argument by its name."""

    name: Name
    args: dict[Name, VariableType] = {}
    note: str = ""


class Derived(Record, frozen=True, kw_only=True):
    """A named rule over variables and other derived values."""

    name: Name
    rule: str
    note: str = ""


class Group(Record, frozen=True, kw_only=True):
    """Widgets that move, hide and scale together. group: the one it lies in, or ""."""

    id: Identifier
    group: str = ""
    visible: str = ""
    opacity: str = ""
    offset: tuple[Offset, Offset] = (0.0, 0.0)


class Follow(Record, frozen=True, kw_only=True):
    """A moving thing in the game that a widget hangs on. x, y: rules, in reference pixels from the screen's corner.

    hold: the widget is kept inside the safe area; arrow: and then shows where the thing is.
    """

    x: str
    y: str
    hold: bool = False
    arrow: bool = False


class Place(Record, frozen=True, kw_only=True):
    """Where a widget hangs. offset, size: reference pixels, y down; anchor is the screen's point, pivot the widget's.

    follow: a moving thing takes the anchor's place. step: from one copy of a repeated widget to the next.
    """

    anchor: Anchor = "top-left"
    pivot: Anchor = "top-left"
    offset: tuple[Offset, Offset] = (0.0, 0.0)
    size: tuple[Positive, Positive] = (200.0, 40.0)
    follow: Follow | None = None
    step: tuple[Offset, Offset] = (0.0, 0.0)


class Band(Record, frozen=True, kw_only=True):
    """A named stretch of a widget's level, by one of `below`, `above` (limits) or `when` (a condition): all rules.

    back: the limit at which a band that was entered is left again; "" for the limit itself.
    held: for how many seconds it must hold without a break before the band is entered, a rule too; "" for at once.
    """

    name: Identifier
    below: str = ""
    above: str = ""
    when: str = ""
    back: str = ""
    held: str = ""


class WhileMissing(Record, frozen=True, kw_only=True):
    """What a widget shows while what it shows is missing: a text in its place, the project's where it is None, or nothing."""

    text: Annotated[str, Meta(max_length=40)] | None = None
    hide: bool = False


class Passage(Record, frozen=True, kw_only=True):
    """How a widget comes into sight, or leaves it, and within how many seconds."""

    how: Literal["fade", "slide", "grow"] = "fade"
    seconds: Annotated[float, Meta(gt=0, le=60)] = 0.25


class Pop(Record, frozen=True, kw_only=True):
    """A widget jumps to `size` times its own whenever `when`, a rule, turns true, and is itself again within `seconds`."""

    when: str
    seconds: Annotated[float, Meta(gt=0, le=60)] = 0.35
    size: Annotated[float, Meta(gt=0, le=10)] = 1.25


class Widget(Record, frozen=True, kw_only=True):
    """One HUD element. inputs: rules by input name. options and look: checked by its kind.

    own_title: what people call it, `title` in the file; "" for its id as they say it. note: what it is for.
    repeat: a roster; there is one copy for each of its slots, and rules may say `slot`. style: a named look of the
    project's that its own look goes over. missing: what it shows while its value is missing.
    enter, leave: how it comes and goes, at once where it says nothing. pop: when it draws the eye by its size.
    """

    id: Identifier
    kind: str
    own_title: Annotated[str, Meta(max_length=120)] = field(default="", name="title")
    note: Annotated[str, Meta(max_length=2000)] = ""
    group: str = ""
    repeat: str = ""
    inputs: dict[str, str] = {}
    place: Place = Place()
    options: dict[str, Any] = {}
    bands: tuple[Band, ...] = ()
    style: str = ""
    look: dict[str, Any] = {}
    missing: WhileMissing = WhileMissing()
    enter: Passage | None = None
    leave: Passage | None = None
    pop: Pop | None = None

    @property
    def title(self) -> str:
        """What people call it: its own title, or the id as they say it: `hull_bar` is "Hull bar"."""
        return " ".join(self.own_title.split()) or self.said_id

    @property
    def said_id(self) -> str:
        """The id as people say it."""
        return self.id.replace("_", " ").replace("-", " ").strip().capitalize() or self.id


class Zone(Record, frozen=True, kw_only=True):
    """What the HUD is to keep clear: a box (x, y, width, height) in reference pixels. name: what lies there, "" unsaid.

    x, y: rules, in reference pixels from the screen's corner, of a moving thing that it follows; then the box's x, y are from
    there. "" along an axis where it stays.
    """

    box: tuple[float, float, float, float]
    name: Annotated[str, Meta(max_length=60)] = ""
    x: str = ""
    y: str = ""


class Plate(Record, frozen=True, kw_only=True):
    """A picture of the game behind the HUD, or a film of it. keep_clear: what of it nothing is to cover.

    when: a rule; where the recording chooses the plate, the first one whose rule is true is shown. "" for never by itself.
    film: of the game without its HUD, instead of a picture; numbered pictures have `#` for each digit of their number.
    trace: the recording it was made with, as `Recording.key` has it; over others it stands still. "" for any.
    offset: the film's second at the recording's beginning. rate: numbered pictures a second; 0 for thirty.
    proportions: how it is drawn on a screen of another shape: inside it, covering it, at its own size times the fit, or
    stretched. auto: kept if it has the reference's shape within 2 %, otherwise stretched.
    """

    name: str
    picture: str = ""
    film: str = ""
    proportions: Proportions = "auto"
    trace: str = ""
    offset: Annotated[float, Meta(ge=-1e6, le=1e6)] = 0.0
    rate: Annotated[float, Meta(ge=0, le=1000)] = 0.0
    keep_clear: tuple[Zone, ...] = ()
    when: str = ""


class Region(Record, frozen=True, kw_only=True):
    """One player's part of a split screen. box: x, y, width and height in shares of the screen, 0–1.

    slot: whose it is; all rules know it as `slot` where the HUD is drawn in this part.
    """

    name: Annotated[str, Meta(min_length=1, max_length=60)]
    box: tuple[Share, Share, Share, Share]
    slot: Annotated[int, Meta(ge=0, le=255)] = 0


class Screen(Record, frozen=True, kw_only=True):
    """A size to preview at, in pixels. safe: the share of each side that is kept free.

    views: its parts where it is split, the HUD is drawn in each; none for a screen that is one.
    scale: by how much the player lets the HUD be larger than its fit, about each widget's anchor.
    inches: the screen's diagonal; metres: how far away it is looked at; 0 where nobody says.
    """

    name: str
    size: tuple[Pixels, Pixels]
    safe: Fraction = 0.0
    scale: Annotated[float, Meta(ge=0.25, le=4)] = 1.0
    inches: Annotated[float, Meta(ge=0, le=1000)] = 0.0
    metres: Annotated[float, Meta(ge=0, le=100)] = 0.0
    views: Annotated[tuple[Region, ...], Meta(max_length=4)] = ()

    @property
    def parts(self) -> "tuple[ScreenPart, ...]":
        """Its parts as screens of their own; none for a screen that is one."""
        found = []
        for view in self.views:
            x, y, wide, high = (share * self.size[i % 2] for i, share in enumerate(view.box))
            size = (max(1, round(wide)), max(1, round(high)))
            inches = self.inches * math.hypot(*size) / math.hypot(*self.size)
            found.append(
                ScreenPart(
                    name=f"{self.name}, {view.name}", size=size, safe=self.safe, scale=self.scale, inches=inches,
                    metres=self.metres, of=self.name, slot=view.slot, corner=(round(x), round(y)),
                )
            )  # fmt: skip
        return tuple(found)


class ScreenPart(Screen, frozen=True, kw_only=True):
    """One part of a split screen, as a screen of its own; in no file. of: that screen's name.

    corner: its upper left one on that screen, in pixels.
    """

    of: str = ""
    slot: int = 0
    corner: tuple[int, int] = (0, 0)


USUAL_SCREEN = Screen(name="desk", size=(1920, 1080))  # what a project that has no screens is previewed on


class Locale(Record, frozen=True, kw_only=True):
    """How a language is written on the HUD. code: as its catalogue is named, `de` for texts/de.po.

    font: a file, or an installed family, for letters that a look's own font lacks; "" for none.
    mirror: the HUD stands the other way round in it, what hangs at the left hangs at the right.
    """

    code: Annotated[str, Meta(pattern=r"^[A-Za-z][\w-]*$", max_length=40)]
    font: Annotated[str, Meta(max_length=400)] = ""
    mirror: bool = False


class Recording(Record, frozen=True, kw_only=True):
    """A recording of the game. path: within the project's folder. name: what people call it; "" for the file's.

    time, unit, rate, run: which column tells the time and in what, and which one tells runs apart, where that was
    said and not guessed (see `avrin.trace.Clock`).
    case: what tells this entry from others of the same path, whose runs begin otherwise; "" for the plain one.
    names: what its columns are called in the project, by what it calls them itself, where the two differ.
    starts: what variables begin its runs with in place of what was recorded; their recorded changes follow from there.
    """

    path: str
    name: str = ""
    note: str = ""
    time: str = ""
    unit: Literal["", "s", "ms", "us", "frames"] = ""
    rate: Annotated[float, Meta(ge=0, le=100_000)] = 0.0
    run: str = ""
    case: Annotated[str, Meta(max_length=60)] = ""
    names: dict[str, ColumnName] = {}
    starts: dict[str, float | str | bool] = {}

    @property
    def title(self) -> str:
        """What people call it."""
        return self.name or self.case or self.path.rsplit("/", 1)[-1].rsplit(".", 1)[0]

    @property
    def key(self) -> str:
        """What tells it from the project's other recordings: its path, and its case if it is one."""
        return f"{self.path}#{self.case}" if self.case else self.path


class Change(Record, frozen=True, kw_only=True):
    """What an action sets: a variable, to what a rule gives."""

    set: str
    to: str


class Action(Record, frozen=True, kw_only=True):
    """Something done by hand while the clock runs: hit for 20, win, pick up a cell. key: as Qt writes keys."""

    label: Annotated[str, Meta(min_length=1, max_length=60)]
    key: Annotated[str, Meta(max_length=20)] = ""
    does: tuple[Change, ...] = ()


class Outcome(Record, frozen=True, kw_only=True):
    """Something that a HUD warns of, such as a loss: it comes about whenever a rule turns true."""

    name: Identifier
    rule: str


class Project(Record, frozen=True, kw_only=True):
    """The whole file. reference: the size, in pixels, that places and looks are meant for.

    legible: minutes of arc that a capital letter must be high to be read, where a screen says how it is looked at.
    device: a rule giving a text: what the player holds, by which names of keys are chosen; "" where nobody knows.
    """

    format: str = FORMAT
    title: str = "Untitled"
    reference: tuple[Pixels, Pixels] = (1920, 1080)
    fit: Fit = "height"
    placeholder: Annotated[str, Meta(max_length=40)] = "—"
    device: str = ""
    legible: Annotated[float, Meta(ge=0, le=120)] = 16.0
    variables: tuple[Variable, ...] = ()
    rosters: tuple[Roster, ...] = ()
    events: tuple[EventKind, ...] = ()
    derived: tuple[Derived, ...] = ()
    groups: tuple[Group, ...] = ()
    styles: dict[str, dict[str, Any]] = {}
    widgets: tuple[Widget, ...] = ()
    plates: tuple[Plate, ...] = ()
    screens: tuple[Screen, ...] = ()
    languages: tuple[Locale, ...] = ()
    traces: tuple[Recording, ...] = ()
    actions: tuple[Action, ...] = ()
    outcomes: tuple[Outcome, ...] = ()
    hush: tuple[dict[str, Any], ...] = ()

    def widget(self, ident: str) -> Widget:
        """The widget of that id. Raises KeyError when there is none."""
        return named(self).widgets[ident]

    def with_widget(self, changed: Widget) -> Self:
        """Return the project with the widget of the same id replaced, or added last."""
        if any(widget.id == changed.id for widget in self.widgets):
            return replace(self, widgets=tuple(changed if w.id == changed.id else w for w in self.widgets))
        return replace(self, widgets=(*self.widgets, changed))

    @property
    def slots(self) -> tuple[int, ...]:
        """Whose parts of split screens there are, in order; none where no screen is split."""
        return tuple(sorted({view.slot for screen in self.screens for view in screen.views}))

    @property
    def whole_screens(self) -> tuple[Screen, ...]:
        """What a HUD fills: every screen that is one, and every part of those that are split."""
        return tuple(one for screen in self.screens for one in (screen.parts or (screen,)))

    def recording(self, key: str) -> Recording | None:
        """The recording of that key, if the project lists it."""
        return next((r for r in self.traces if r.key == key), None)

    def with_traces(self, traces: tuple[Recording, ...]) -> Self:
        """The same project whose recordings, one for one, are listed otherwise; their films go along."""
        keys = {one.key: other.key for one, other in zip(self.traces, traces, strict=True)}
        plates = tuple(replace(plate, trace=keys.get(plate.trace, plate.trace)) for plate in self.plates)
        return replace(self, traces=traces, plates=plates)

    def called(self, key: str) -> str:
        """What tells the recording of that key from the project's others; its file's name where it is none of them."""
        listed = self.recording(key)
        if listed is None:
            return told_apart([key])[0]
        paths = list(dict.fromkeys(recording.path for recording in self.traces))
        name = told_apart(paths)[paths.index(listed.path)]
        return f"{name}, {listed.case}" if listed.case else name

    def all_variables(self) -> dict[str, Variable]:
        """Every variable by its full name, roster fields included (`crew[0].scrap`)."""
        named = {variable.name: variable for variable in self.variables}
        for roster in self.rosters:
            for slot in range(roster.slots):
                named.update({f"{roster.name}[{slot}].{field.name}": field for field in roster.fields})
        return named


class Named(Struct, frozen=True):
    """A project's parts by the names that rules' places have for them; of several of one name the first."""

    widgets: dict[str, Widget]
    groups: dict[str, Group]
    derived: dict[str, Derived]
    outcomes: dict[str, Outcome]
    plates: dict[str, Plate]
    actions: dict[str, Action]


def named(project: Project) -> Named:
    """A project's parts by their names. Those of the project asked for last are remembered: it is asked again and again."""
    global _latest  # noqa: PLW0603  (one slot, replaced as a whole)
    known = _latest
    if known is None or known[0] is not project:
        known = project, Named(
            {one.id: one for one in reversed(project.widgets)}, {one.id: one for one in reversed(project.groups)},
            {one.name: one for one in reversed(project.derived)}, {one.name: one for one in reversed(project.outcomes)},
            {one.name: one for one in reversed(project.plates)}, {one.label: one for one in reversed(project.actions)},
        )  # fmt: skip
        _latest = known
    return known[1]


_latest: tuple[Project, Named] | None = None
