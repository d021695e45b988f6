"""The structure of a project file as immutable values.

Every edit creates a new `Project` that shares all unchanged parts, so undo only stores the old one. Fields are in the
order the file writes them. Unknown keys are collected in `extra` and written back.
What only a widget kind defines (inputs, options, look) is validated by `avrin.kinds`.
"""

import math
from typing import Annotated, Any, Literal, Self

from msgspec import Meta, Struct, field
from msgspec.structs import replace

from avrin.project.unique_names import unique_names

__all__ = [
    "FORMAT",
    "USUAL_SCREEN",
    "Action",
    "Anchor",
    "Assignment",
    "Band",
    "Comment",
    "Conflict",
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
    "PlayerOption",
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
    "parts_by_name",
]

FORMAT = "avrin/1"
Json = Any  # any JSON value; callers check its type

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
Hex = Annotated[str, Meta(pattern=r"^#[0-9a-fA-F]{6}$", description="#rrggbb")]
Offset = Annotated[float, Meta(ge=-100_000, le=100_000)]


class Record(Struct, frozen=True, kw_only=True):
    """A JSON object of the file."""

    extra: dict[str, Any] = {}


class Variable(Record, frozen=True, kw_only=True):
    """A named value of the game.

    start: its value when a run begins; None if the game sets none.
    low, high: ends of the intended range, inclusive, in `unit`; None if open.
    owner: the player it belongs to; "" for the game. keeps: it survives a restart.
    guessed: inferred from a recording and not edited: its range scales lanes and ladders, but no widget.
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
    """A type of event. args: the type of each argument by name.

    when: a rule that derives it from variables: it happens on every frame on which the rule is true; "" for an event that
    recordings or actions contain. A recording that contains the event is used as recorded.
    values: a rule for each argument of a derived event; missing if it has none.
    times: a rule for how often it happens on such a frame; "" for once. over: a roster whose slots each have the event,
    in order, and whose number `slot` is known to the rules; "" for none.
    """

    name: Name
    args: dict[Name, VariableType] = {}
    when: str = ""
    values: dict[str, str] = {}
    times: str = ""
    over: str = ""
    note: str = ""


class Derived(Record, frozen=True, kw_only=True):
    """A named rule over variables and other derived values."""

    name: Name
    rule: str
    note: str = ""


class Group(Record, frozen=True, kw_only=True):
    """Widgets that move, hide and scale together. group: the enclosing group, or ""."""

    id: Identifier
    group: str = ""
    visible: str = ""
    opacity: str = ""
    offset: tuple[Offset, Offset] = (0.0, 0.0)


class Follow(Record, frozen=True, kw_only=True):
    """A moving position in the game that a widget follows. x, y: rules, in reference pixels from the screen's corner.

    hold: the widget stays inside the safe area; arrow: while held, an arrow points at the position.
    """

    x: str
    y: str
    hold: bool = False
    arrow: bool = False


class Place(Record, frozen=True, kw_only=True):
    """A widget's position. offset, size: reference pixels, y down; anchor: the screen's point, pivot: the widget's.

    follow: a moving position replaces the anchor. step: offset between copies of a repeated widget.
    """

    anchor: Anchor = "top-left"
    pivot: Anchor = "top-left"
    offset: tuple[Offset, Offset] = (0.0, 0.0)
    size: tuple[Positive, Positive] = (200.0, 40.0)
    follow: Follow | None = None
    step: tuple[Offset, Offset] = (0.0, 0.0)


class Band(Record, frozen=True, kw_only=True):
    """A named interval of a widget's level, given by `below` or `above` (limits) or `when` (a condition): all rules.

    back: the limit at which the band is left again (hysteresis); "" for the entry limit.
    held: seconds the condition must hold before the band is entered, also a rule; "" for 0.
    """

    name: Identifier
    below: str = ""
    above: str = ""
    when: str = ""
    back: str = ""
    held: str = ""


class WhileMissing(Record, frozen=True, kw_only=True):
    """What a widget shows while its value is missing: a text (None: the project's default) or nothing."""

    text: Annotated[str, Meta(max_length=40)] | None = None
    hide: bool = False


class Passage(Record, frozen=True, kw_only=True):
    """How a widget enters or leaves the screen, and the duration in seconds."""

    how: Literal["fade", "slide", "grow"] = "fade"
    seconds: Annotated[float, Meta(gt=0, le=60)] = 0.25


class Pop(Record, frozen=True, kw_only=True):
    """A widget jumps to `size` times its own size when the rule `when` turns true, and shrinks back within `seconds`."""

    when: str
    seconds: Annotated[float, Meta(gt=0, le=60)] = 0.35
    size: Annotated[float, Meta(gt=0, le=10)] = 1.25


class Widget(Record, frozen=True, kw_only=True):
    """One HUD element. inputs: rules by input name. options and look: validated by its kind.

    own_title: the title users see, `title` in the file; "" for one derived from the id. note: its purpose.
    repeat: a roster; one copy is drawn per slot, and rules may use `slot`. style: a named look of the
    project's that the widget's own look overrides. missing: what it shows while its value is missing.
    enter, leave: transitions, immediate if None. pop: a change of size that draws attention.
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
        """The title users see: its own, or the id as words: `hull_bar` gives "Hull bar"."""
        return " ".join(self.own_title.split()) or self.id_title

    @property
    def id_title(self) -> str:
        """The id as words."""
        return self.id.replace("_", " ").replace("-", " ").strip().capitalize() or self.id


class Zone(Record, frozen=True, kw_only=True):
    """An area the HUD must not cover: a box (x, y, width, height) in reference pixels. name: what is there, or "".

    x, y: rules for a moving position, in reference pixels from the screen's corner; the box is then relative to it.
    "" along an axis on which the zone does not move.
    """

    box: tuple[float, float, float, float]
    name: Annotated[str, Meta(max_length=60)] = ""
    x: str = ""
    y: str = ""


class Plate(Record, frozen=True, kw_only=True):
    """A picture or film of the game behind the HUD. keep_clear: areas the HUD must not cover.

    when: a rule; where the recording selects the plate, the first with a true rule is shown. "" for never.
    film: a film of the game without its HUD, instead of a picture; in numbered pictures `#` stands for each digit.
    trace: the recording that belongs to the film, a `Recording.key`; over others it shows a still. "" for any.
    offset: the film's time in seconds at the start of the recording. rate: numbered pictures per second; 0 means 30.
    proportions: how it is drawn on a screen of another shape: inside, covering, at its own size times the fit, or
    stretched. auto: proportions are preserved if they match the reference within 2 %, otherwise stretched.
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
    """One player's part of a split screen. box: x, y, width and height as shares of the screen, 0–1.

    slot: the player's slot; rules can read it as `slot` while the HUD is drawn in this part.
    """

    name: Annotated[str, Meta(min_length=1, max_length=60)]
    box: tuple[Share, Share, Share, Share]
    slot: Annotated[int, Meta(ge=0, le=255)] = 0


class Screen(Record, frozen=True, kw_only=True):
    """A preview size in pixels. safe: the safe-area margin as a share of each side.

    views: the parts of a split screen, each with its own HUD; empty if it is not split.
    scale: the player's HUD scale setting, applied about each widget's anchor.
    inches: the screen's diagonal; metres: the viewing distance; 0 if unknown.
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
        """The parts of a split screen as screens; empty if it is not split."""
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
    """One part of a split screen as a screen of its own; never saved. of: the name of the whole screen.

    corner: the part's upper left corner on the whole screen, in pixels.
    """

    of: str = ""
    slot: int = 0
    corner: tuple[int, int] = (0, 0)


USUAL_SCREEN = Screen(name="desk", size=(1920, 1080))  # the preview screen of a project without screens


class Locale(Record, frozen=True, kw_only=True):
    """How a language is written on the HUD. code: the name of its catalogue, `de` for texts/de.po.

    font: a file or an installed family for glyphs missing from a look's own font; "" for none.
    mirror: the HUD is mirrored horizontally in this language.
    """

    code: Annotated[str, Meta(pattern=r"^[A-Za-z][\w-]*$", max_length=40)]
    font: Annotated[str, Meta(max_length=400)] = ""
    mirror: bool = False


class Recording(Record, frozen=True, kw_only=True):
    """A recording of the game. path: relative to the project's folder. name: its title; "" for the file's name.

    time, unit, rate, run: the time column, its unit, the frame rate and the run column, if given
    explicitly (see `avrin.trace.Clock`).
    case: distinguishes this entry from others with the same path but other start values; "" for the plain one.
    names: column name in the file to variable name in the project, where they differ.
    starts: start values that replace the recorded ones; recorded changes apply on top of them.
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
        """The title users see."""
        return self.name or self.case or self.path.rsplit("/", 1)[-1].rsplit(".", 1)[0]

    @property
    def key(self) -> str:
        """The unique key among the project's recordings: the path, followed by the case if there is one."""
        return f"{self.path}#{self.case}" if self.case else self.path


class Assignment(Record, frozen=True, kw_only=True):
    """An assignment an action makes: a variable and the rule for its new value."""

    set: str
    to: str


class Action(Record, frozen=True, kw_only=True):
    """Something done by hand while the clock runs: hit for 20, win, pick up a cell. key: a key sequence in Qt's notation."""

    label: Annotated[str, Meta(min_length=1, max_length=60)]
    key: Annotated[str, Meta(max_length=20)] = ""
    does: tuple[Assignment, ...] = ()


class Outcome(Record, frozen=True, kw_only=True):
    """Something a HUD warns of, such as a loss: it happens whenever its rule turns true."""

    name: Identifier
    rule: str


class PlayerOption(Record, frozen=True, kw_only=True):
    """A setting that the player can make, seen as a variant of the HUD.

    scale: multiplies the HUD's size. flash: whether bands may flash. colours: replacements of colours of looks, both as
    "#rrggbb"; transparency stays.
    """

    name: Annotated[str, Meta(min_length=1, max_length=60)]
    scale: Annotated[float, Meta(ge=0.25, le=4)] = 1.0
    flash: bool = True
    colours: dict[Hex, Hex] = {}


class Comment(Record, frozen=True, kw_only=True):
    """A remark about a widget at a moment. It is kept when the widget or the recording is gone.

    widget: its id, "" for the whole HUD. trace: the key of the recording, "" for none. run: from 1. t: seconds of the trace.
    author: "" if unknown. date: YYYY-MM-DD.
    """

    text: Annotated[str, Meta(min_length=1, max_length=2000)]
    widget: str = ""
    trace: str = ""
    run: Annotated[int, Meta(ge=1)] = 1
    t: float = 0.0
    author: Annotated[str, Meta(max_length=120)] = ""
    date: Annotated[str, Meta(pattern=r"^(\d{4}-\d{2}-\d{2})?$")] = ""
    resolved: bool = False

    def order(self) -> tuple[str, str]:
        """Return what the project's comments are sorted by."""
        return (self.date, self.author)


class Conflict(Record, frozen=True, kw_only=True):
    """A part that two people changed differently, found by a merge; the file holds our value until somebody chooses.

    at: the path to the part: keys of objects, and the names of entries of lists. An order of entries is at ("order", LIST).
    ours, theirs: the two values as in the file; null where one side removed it.
    """

    at: tuple[str, ...]
    ours: Json = None
    theirs: Json = None


class Project(Record, frozen=True, kw_only=True):
    """The whole file. reference: the size in pixels that places and looks refer to.

    legible: minutes of arc a capital letter must subtend to be legible, on screens with a known distance.
    device: a rule for the input device, a text that selects key names; "" if unknown.
    players: a roster whose slots are players, each with a HUD of its own: rules know the viewer's slot as `me`; "" for none.
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
    players: str = ""
    events: tuple[EventKind, ...] = ()
    derived: tuple[Derived, ...] = ()
    groups: tuple[Group, ...] = ()
    styles: dict[str, dict[str, Any]] = {}
    widgets: tuple[Widget, ...] = ()
    plates: tuple[Plate, ...] = ()
    screens: tuple[Screen, ...] = ()
    options: tuple[PlayerOption, ...] = ()
    languages: tuple[Locale, ...] = ()
    traces: tuple[Recording, ...] = ()
    actions: tuple[Action, ...] = ()
    outcomes: tuple[Outcome, ...] = ()
    comments: tuple[Comment, ...] = ()
    conflicts: tuple[Conflict, ...] = ()
    hush: tuple[dict[str, Any], ...] = ()

    def widget(self, ident: str) -> Widget:
        """Return the widget with an id. Raises KeyError if there is none."""
        return parts_by_name(self).widgets[ident]

    def with_widget(self, changed: Widget) -> Self:
        """Return the project with the widget of the same id replaced, or appended."""
        if any(widget.id == changed.id for widget in self.widgets):
            return replace(self, widgets=tuple(changed if w.id == changed.id else w for w in self.widgets))
        return replace(self, widgets=(*self.widgets, changed))

    @property
    def slots(self) -> tuple[int, ...]:
        """Slots whose player has a HUD of its own, in order: the players', and those of split screens; empty without either."""
        players = next((roster.slots for roster in self.rosters if roster.name == self.players), 0)
        return tuple(sorted({*range(players), *(view.slot for screen in self.screens for view in screen.views)}))

    @property
    def whole_screens(self) -> tuple[Screen, ...]:
        """Every area a HUD fills: unsplit screens and all parts of split ones."""
        return tuple(one for screen in self.screens for one in (screen.parts or (screen,)))

    def recording(self, key: str) -> Recording | None:
        """Return the recording with a key, or None."""
        return next((r for r in self.traces if r.key == key), None)

    def with_traces(self, traces: tuple[Recording, ...]) -> Self:
        """Return the project with its recordings replaced one for one; plates and comments that refer to them follow."""
        keys = {one.key: other.key for one, other in zip(self.traces, traces, strict=True)}
        plates = tuple(replace(plate, trace=keys.get(plate.trace, plate.trace)) for plate in self.plates)
        comments = tuple(replace(one, trace=keys.get(one.trace, one.trace)) for one in self.comments)
        return replace(self, traces=traces, plates=plates, comments=comments)

    def recording_name(self, key: str) -> str:
        """Return a unique display name for the recording with a key, or the file's name if the project does not list it."""
        listed = self.recording(key)
        if listed is None:
            return unique_names([key])[0]
        paths = list(dict.fromkeys(recording.path for recording in self.traces))
        name = unique_names(paths)[paths.index(listed.path)]
        return f"{name}, {listed.case}" if listed.case else name

    def all_variables(self) -> dict[str, Variable]:
        """Return every variable by its full name, including roster fields (`crew[0].scrap`)."""
        named = {variable.name: variable for variable in self.variables}
        for roster in self.rosters:
            for slot in range(roster.slots):
                named.update({f"{roster.name}[{slot}].{field.name}": field for field in roster.fields})
        return named


class Named(Struct, frozen=True):
    """A project's parts by the names that places in messages use; the first wins if a name occurs twice."""

    widgets: dict[str, Widget]
    groups: dict[str, Group]
    derived: dict[str, Derived]
    outcomes: dict[str, Outcome]
    plates: dict[str, Plate]
    actions: dict[str, Action]
    events: dict[str, EventKind]


def parts_by_name(project: Project) -> Named:
    """Return a project's parts by name. The last result is cached because callers ask for it repeatedly."""
    global _latest  # noqa: PLW0603  (one slot, replaced as a whole)
    known = _latest
    if known is None or known[0] is not project:
        known = project, Named(
            {one.id: one for one in reversed(project.widgets)}, {one.id: one for one in reversed(project.groups)},
            {one.name: one for one in reversed(project.derived)}, {one.name: one for one in reversed(project.outcomes)},
            {one.name: one for one in reversed(project.plates)}, {one.label: one for one in reversed(project.actions)},
            {one.name: one for one in reversed(project.events)},
        )  # fmt: skip
        _latest = known
    return known[1]


_latest: tuple[Project, Named] | None = None
