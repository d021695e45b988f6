"""Reports of differences for people, programs and build servers: text, JSON and JUnit XML."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import Any

import msgspec
from msgspec import Struct

from avrin.diff.entries import Entries
from avrin.diff.pictures import PictureStretch
from avrin.diff.stretches import Stretch
from avrin.printable import printable
from avrin.project.numbers import counted
from avrin.render.values import clock, format_value
from avrin.storage.junit import JunitCase, junit_xml

__all__ = ["DIFFS", "FORMAT", "Difference"]

FORMAT = "avrin-diff/1"
MAX_STRETCHES = 8  # stretches of a column listed in text, the others are counted


class Difference(Struct, frozen=True):
    """Two projects over recordings. title: what is compared. entries: of the files; stretches: of what is shown.

    pictures: of what is drawn.
    """

    title: str
    entries: Entries
    stretches: Sequence[Stretch]
    pictures: Sequence[PictureStretch] = ()

    def __bool__(self) -> bool:
        return bool(self.entries) or bool(self.stretches) or bool(self.pictures)


def text(difference: Difference) -> str:
    """Return plain lines."""
    found = difference.entries
    lines = [f"project   {entry}" for entry in found.project]
    lines += [f"added     {ident}" for ident in found.added]
    lines += [f"removed   {ident}" for ident in found.removed]
    lines += [f"changed   {one.widget}: {', '.join(one.what)}" for one in found.changed]
    by_column: dict[tuple[str, str, str], list[Stretch]] = {}
    for one in difference.stretches:
        by_column.setdefault((one.trace, one.widget, one.column), []).append(one)
    for (trace, widget, column), rows in by_column.items():
        frames = sum(one.frames for one in rows)
        on = f"{counted(frames, 'frame')} of {trace}, {counted(len(rows), 'stretch', 'stretches')}"
        lines.append(f"shows     {widget}.{column} differently on {on}")
        lines += [
            f"          {clock(one.first)} to {clock(one.last)}: {format_value(one.old)} → {format_value(one.new)}"
            for one in rows[:MAX_STRETCHES]
        ]
        if len(rows) > MAX_STRETCHES:
            lines.append(f"          and {len(rows) - MAX_STRETCHES} more")
    by_trace: dict[str, list[PictureStretch]] = {}
    shown = {widget.partition("[")[0] for _, widget, _ in by_column}
    for drawn in (one for one in difference.pictures if not shown.issuperset(one.widgets)):
        by_trace.setdefault(drawn.trace, []).append(drawn)
    for trace, parts in by_trace.items():
        widgets = ", ".join(dict.fromkeys(ident for one in parts for ident in one.widgets if ident not in shown))
        on = f"{counted(sum(one.frames for one in parts), 'frame')} of {trace}, {counted(len(parts), 'stretch', 'stretches')}"
        lines.append(f"draws     {widgets} differently on {on}, first at {clock(parts[0].first)}")
    return printable("\n".join(line.replace("\n", "\\n") for line in lines or ["no difference"])) + "\n"


def as_json(difference: Difference) -> str:
    """Return one object, described in `docs/comparing.md`."""
    found = difference.entries
    stretches: Any = [
        {
            "trace": one.trace, "widget": one.widget, "column": one.column, "run": one.run, "from": one.first, "to": one.last,
            "frames": one.frames, "old": one.old, "new": one.new,
        }
        for one in difference.stretches
    ]  # fmt: skip
    made = {
        "format": FORMAT, "project": found.project,
        "widgets": {"added": found.added, "removed": found.removed, "changed": found.changed}, "stretches": stretches,
        "pictures": [
            {"trace": one.trace, "run": one.run, "from": one.first, "to": one.last} for one in difference.pictures
        ],
    }  # fmt: skip
    return msgspec.json.format(msgspec.json.encode(made), indent=1).decode() + "\n"


def junit(difference: Difference) -> str:
    """Return JUnit XML: a case per widget and one for the rest; it fails for differences."""
    found = difference.entries
    cases: dict[str, list[str]] = {"project": list(found.project)}
    for ident in found.added:
        cases.setdefault(ident, []).append("is new")
    for ident in found.removed:
        cases.setdefault(ident, []).append("is gone")
    for one in found.changed:
        cases.setdefault(one.widget, []).extend(one.what)
    for row in difference.stretches:
        values = f"{format_value(row.old)} → {format_value(row.new)}"
        told = f"{row.column} in {row.trace} from {row.first:g} s to {row.last:g} s: {values}"
        cases.setdefault(row.widget.partition("[")[0], []).append(told)
    for drawn in difference.pictures:
        for ident in drawn.widgets:
            told = f"drawn differently in {drawn.trace} from {drawn.first:g} s to {drawn.last:g} s"
            cases.setdefault(ident, []).append(told)
    failed = {name: (("\n".join(lines), "different"),) if lines else () for name, lines in cases.items()}
    return junit_xml(difference.title, [JunitCase(name, failures) for name, failures in failed.items()])


DIFFS: dict[str, Callable[[Difference], str]] = {"text": text, "json": as_json, "junit": junit}
