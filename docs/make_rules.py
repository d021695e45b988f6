"""Write docs/rules.md from the registry of functions. Run it after adding or changing one."""

from __future__ import annotations

from pathlib import Path

from avrin.rules.built_in import BUILT_IN
from avrin.rules.check import Scope
from avrin.rules.functions.registry import FUNCTIONS
from avrin.rules.functions.spec import Function
from avrin.rules.scan import as_column, evaluate
from avrin.trace.frames import Column, Event, Trace, Value

TARGET = Path(__file__).with_name("rules.md")

HEAD = """# The rule language

A rule is one formula over the game's variables. This page is generated from the program
(`docs/make_rules.py`); every example is evaluated.

- **Numbers** `12`, `0.5`, `25%` (is 0.25); durations `250ms`, `5s`, `2min`; **texts** `"low"`; `true`, `false`, `missing`.
- **Names**: variables, derived values, a roster's fields `crew[1].scrap`; `slot` in a widget repeated over a roster,
  and on a split screen (`crew[slot].scrap`); `me`, the slot of the player whose HUD it is, if a roster is the project's
  `players` (`crew[me].hull`).
- From loosest to tightest: `if C then A else B`; `A otherwise B` (B where A is missing); `or`; `and`; `not`;
  `== != < <= > >=` (can be chained: `0 < x <= 5`) and `x in 10..25` (both ends inclusive); `+ -`; `* /`; unary `-`.
- **Missing**: arithmetic and comparison with a missing value are missing; `and`, `or`, `not` follow three-valued logic;
  a division by zero is missing; a missing flag at a widget counts as false; functions of time treat a missing condition as
  false, skip missing numbers, and reset with each run.
- **Events** are recorded, or derived from columns: a rule says when one happens, such as `changed(kill_id)`, with a rule for
  each argument, for how often (`times`), and the roster `over` whose slots each have it. Feeds, `event`, `events` and `last`
  treat both alike. A recording that contains an event of that name is used as recorded.
- The column that separates runs, such as `episode`, stays a name; `run` numbers them from 1.
- **Texts with values**: `Depth {depth | 0.0} m`. After `|` comes a number pattern (`0`, `0.0`, `#,##0`, `0%`) or a duration
  (`m:ss`, `h:mm:ss`, `s.S`), then optionally `, up`, `, down` or `, near` (half to even, the default). `{{` and `}}` are braces.

## Built-in names

| name | meaning |
|---|---|
"""

EXAMPLES = """

## The recording of the examples

Nine frames; a restart before the last two. · is missing. `hit` happened at 0.8 s (9 points), 1.3 s (18 points) and, in the
second run, at 0.4 s (4 points).

"""

TRACE = Trace.make(
    "examples",
    [0.0, 0.5, 1.0, 1.5, 2.0, 2.5, 3.0, 0.0, 0.5],
    {
        "hull": Column.of([50.0, 50.0, 41.0, 23.0, 23.0, None, 63.0, 50.0, 46.0]),
        "hull_max": Column.of([100.0, 100.0, 100.0, 100.0, 100.0, 100.0, 140.0, 100.0, 100.0]),
        "air": Column.of([30.0, 29.5, 28.9, 28.4, 27.8, 27.3, 26.7, 60.0, 59.5]),
        "leak": Column.of([False, False, True, True, None, True, False, False, True]),
        "phase": Column.of(["dive", "dive", "dive", "dive", "dive", "dive", "lost", "dive", "dive"]),
    },
    [1, 1, 1, 1, 1, 1, 1, 2, 2],
    [Event(0.8, "hit", {"points": 9.0}), Event(1.3, "hit", {"points": 18.0}), Event(0.4, "hit", {"points": 4.0}, 2)],
)


MEANINGS: tuple[tuple[str, str], ...] = (
    ("`if c then a else b` is missing where `c` is missing.", "if leak then 1 else 0"),
    ("A divisor that is zero gives missing. A literal zero (`hull / 0`) is an error.", "100 / (hull - 50)"),
    ("`change` is 0 on a run's first frame, even if the value is missing there.", "change(hull)"),
    ("`ease` with `tau` 0 follows at once; with a missing or negative `tau` it does not move.", "ease(hull, 0s)"),
    ("`approach` with a missing or negative rate does not move.", "approach(hull, -1)"),
    ("`mean` over a width of zero or less is missing.", "mean(hull, 0s)"),
    ("`delay` with a negative time returns the current frame's value.", "delay(hull, -1s)"),
    ("`blink` with a period of zero or less is missing.", "blink(0s)"),
    (
        "An event's frame is the first of its run at or after its time; later events of a run never appear.",
        'events("hit")',
    ),
)

DETAILS = """
- A run's number counts from 1 in order, whatever the recording calls its runs. A change of `run` starts a new one.
- An event that is only recorded is known to rules while such a recording is open. `last` of an event without that
  argument is missing.
- `slot` in a derived value is an error: a derived value is the same for all slots.
- Patterns round the shortest decimal that parses back to the same number; `up` is towards plus infinity. −0 is shown
  as 0. A flag in a text is yes or no. In a text `{@coin}` is an icon, wherever the text comes from, if the widget's
  own rules or a derived value contain one.

## Exact meanings of widgets and recordings

- A band with `back` that was entered persists while the level is missing: only a level at or beyond `back` leaves it.
  A level inside the limit is inside even if `back` is on its wrong side.
- A band with `held` is entered once its condition has held that long without interruption, like `held(…, d)`; with
  `back` it is left as without `held`, and the wait restarts. A missing level interrupts the wait.
- The trail of a bar follows rises at once; after a fall it waits from the latest fall on, then shrinks; it does not
  move while the value is missing. A counter that rolls starts each roll at the number it shows.
- A widget visible at the start of a run is fully present (`presence` 1). When `visible` changes, presence grows or
  shrinks linearly from its current value; a slide comes from beyond the screen side the widget is anchored to, and
  for centred or following widgets from below by their own height, with a fade. A pop is 1 on the frame its rule turns
  true. Findings judge widgets without transitions.
- A table sorted by a text is ordered from A to Z if `falling`; missing values come last in either direction.
- A value in a change log holds across restarts. A change within a billionth of a frame's time belongs to that frame.
- `keeps` controls restarts in generated traces and drives; in recordings the game has already applied it.
- "NaN" and "inf" in a CSV are refused; an empty cell is missing; an empty text is `""`.
- A moment is a frame at which a run begins, a widget appears or disappears, its band changes, or a text or a count
  changes that was constant for two seconds: a running number has no moments.
- A text value explains itself; only a bare number needs a caption, a label or an icon nearby.
- Saving overwrites the file only if it has the content last read or written here, or the content the user chose to
  replace."""


def worked(rule: str) -> list[Value]:
    """Return a rule's values over the recording of the examples."""
    kinds = {name: column.kind for name, column in TRACE.columns.items()}
    scope = Scope(kinds, events={"hit": {"points": "number"}})
    step = scope.rule(rule)
    (values,) = evaluate([step], TRACE, scope.graph)
    column = as_column(step, values, scope.graph)
    return [column[frame] for frame in range(len(TRACE))]


def page() -> str:
    """Return the whole page."""
    names = [f"| `{name}` | {help_} |" for name, (_, help_) in BUILT_IN.items()]
    recorded = {"t": list(TRACE.t.tolist()), **{name: worked(name) for name in TRACE.columns}}
    frames = [f"| **{name}** | {' | '.join(map(_value_text, values))} |" for name, values in recorded.items()]
    table = ["| frame | " + " | ".join(map(str, range(len(TRACE)))) + " |", "|---" * (len(TRACE) + 1) + "|", *frames]
    functions = "\n".join(map(_section, FUNCTIONS.values()))
    meanings = "\n".join(f"- {text}\n\n  ```\n  {rule}\n    {_values(rule)}\n  ```\n" for text, rule in MEANINGS)
    parts = ["\n".join(names), EXAMPLES, "\n".join(table), "\n\n## Functions\n\n", functions]
    return HEAD + "".join(parts) + "\n## Exact meanings of rules\n\n" + meanings + DETAILS


def _section(function: Function) -> str:
    return (
        f"### `{function.signature}`\n\n{function.help} *{function.typed}*\n\n"
        f"```\n{function.example}\n  {_values(function.example)}\n```\n"
    )


def _values(rule: str) -> str:
    return "  ".join(map(_value_text, worked(rule)))


def _value_text(value: Value) -> str:
    if value is None:
        return "·"
    if isinstance(value, bool):
        return "yes" if value else "no"
    return value if isinstance(value, str) else f"{value:.4g}"


if __name__ == "__main__":
    TARGET.write_text(page(), encoding="utf-8")
