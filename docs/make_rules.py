"""Write docs/rules.md from the language's own registry. Run it after adding or changing a function."""

from __future__ import annotations

from pathlib import Path

from avrin.rules import BUILT_IN, FUNCTIONS

TARGET = Path(__file__).with_name("rules.md")

HEAD = """# The rule language

A rule is one formula over the game's variables, read aloud as it is written. This page is made from the program itself
(`docs/make_rules.py`).

- **Numbers** `12`, `0.5`, `25%` (is 0.25); durations `250ms`, `5s`, `2min`; **texts** `"low"`; `true`, `false`, `missing`.
- **Names**: variables, derived values, a roster's fields `crew[1].scrap`.
- From loosest to tightest: `if C then A else B`; `A otherwise B` (B where A is missing); `or`; `and`; `not`;
  `== != < <= > >=` (may be chained: `0 < x <= 5`) and `x in 10..25` (both ends included); `+ -`; `* /`; unary `-`.
- **Missing**: arithmetic and comparison with a missing value are missing; `and`, `or`, `not` follow three-valued logic;
  a division by zero is missing; a missing flag at a widget counts as false; functions of time count a missing condition as false.
- **Texts with values**: `Depth {depth | 0.0} m`. After `|` stands a number pattern (`0`, `0.0`, `#,##0`, `0%`) or a duration
  (`m:ss`, `h:mm:ss`, `s.S`), then optionally `, up`, `, down` or `, near` (half to even, the default). `{{` and `}}` are braces.

## Built-in names

| name | meaning |
|---|---|
"""


def page() -> str:
    """The whole page."""
    lines = [f"| `{name}` | {help_} |" for name, (_, help_) in BUILT_IN.items()]
    rows = [f"| `{f.signature}` | {f.help} | `{f.example}` |" for f in FUNCTIONS.values()]
    head = "\n\n## Functions\n\n| function | meaning | example |\n|---|---|---|\n"
    return HEAD + "\n".join(lines) + head + "\n".join(rows) + "\n"


if __name__ == "__main__":
    TARGET.write_text(page(), encoding="utf-8")
