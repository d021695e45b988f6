"""Write docs/rules.md from the language's own registry. Run it after adding or changing a function."""

from __future__ import annotations

from pathlib import Path

from avrin.rules import BUILT_IN, FUNCTIONS, Function, Scope, as_column, evaluate
from avrin.trace import Column, Event, Trace, Value

TARGET = Path(__file__).with_name("rules.md")

HEAD = """# The rule language

A rule is one formula over the game's variables, read aloud as it is written. This page is made from the program itself
(`docs/make_rules.py`); every example is run.

- **Numbers** `12`, `0.5`, `25%` (is 0.25); durations `250ms`, `5s`, `2min`; **texts** `"low"`; `true`, `false`, `missing`.
- **Names**: variables, derived values, a roster's fields `crew[1].scrap`; `slot` in a widget repeated over a roster,
  and on a split screen (`crew[slot].scrap`).
- From loosest to tightest: `if C then A else B`; `A otherwise B` (B where A is missing); `or`; `and`; `not`;
  `== != < <= > >=` (may be chained: `0 < x <= 5`) and `x in 10..25` (both ends included); `+ -`; `* /`; unary `-`.
- **Missing**: arithmetic and comparison with a missing value are missing; `and`, `or`, `not` follow three-valued logic;
  a division by zero is missing; a missing flag at a widget counts as false; functions of time count a missing condition as
  false, pass a missing number over, and begin anew with each run.
- **Texts with values**: `Depth {depth | 0.0} m`. After `|` stands a number pattern (`0`, `0.0`, `#,##0`, `0%`) or a duration
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


def worked(rule: str) -> list[Value]:
    """What a rule gives over the recording of the examples."""
    kinds = {name: column.kind for name, column in TRACE.columns.items()}
    scope = Scope(kinds, events={"hit": {"points": "number"}})
    step = scope.rule(rule)
    (values,) = evaluate([step], TRACE, scope.graph)
    column = as_column(step, values, scope.graph)
    return [column[frame] for frame in range(len(TRACE))]


def page() -> str:
    """The whole page."""
    names = [f"| `{name}` | {help_} |" for name, (_, help_) in BUILT_IN.items()]
    recorded = {"t": list(TRACE.t.tolist()), **{name: worked(name) for name in TRACE.columns}}
    frames = [f"| **{name}** | {' | '.join(map(_said, values))} |" for name, values in recorded.items()]
    table = ["| frame | " + " | ".join(map(str, range(len(TRACE)))) + " |", "|---" * (len(TRACE) + 1) + "|", *frames]
    functions = "\n".join(map(_section, FUNCTIONS.values()))
    return HEAD + "\n".join(names) + EXAMPLES + "\n".join(table) + "\n\n## Functions\n\n" + functions


def _section(function: Function) -> str:
    values = "  ".join(map(_said, worked(function.example)))
    return (
        f"### `{function.signature}`\n\n{function.help} *{function.typed}*\n\n"
        f"```\n{function.example}\n  {values}\n```\n"
    )


def _said(value: Value) -> str:
    if value is None:
        return "·"
    if isinstance(value, bool):
        return "yes" if value else "no"
    return value if isinstance(value, str) else f"{value:.4g}"


if __name__ == "__main__":
    TARGET.write_text(page(), encoding="utf-8")
