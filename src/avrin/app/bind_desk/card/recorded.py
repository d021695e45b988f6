"""The interpretation of a recording on the card: a row per assumption, each with links to correct it."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial

import numpy as np
from PySide6.QtCore import QPoint, Qt, Signal
from PySide6.QtWidgets import QGridLayout, QHBoxLayout, QVBoxLayout, QWidget

from avrin.app.bind_desk.card.rule_row import LABELS
from avrin.app.controls.labels import text_label
from avrin.app.controls.link import Link
from avrin.app.controls.menu import new_menu
from avrin.app.controls.scroller import ThinLine
from avrin.app.services.editor import Editor
from avrin.app.services.suggestions import Suggestions
from avrin.app.services.traces import Traces
from avrin.editor.edits import edit
from avrin.errors import AvrinError
from avrin.onboarding.matching import Difference, differences
from avrin.onboarding.rosters import with_roster, without_roster
from avrin.project.numbers import plain_rate
from avrin.project.project import Project, Recording, Roster
from avrin.render.values import clock
from avrin.trace.behaviour import RunsFound
from avrin.trace.clock import AT_RESTARTS, EACH_ROW, ONE_RUN, Clock, counts_runs
from avrin.trace.frames import Trace
from avrin.trace.naming import FoundRoster, plain_name, proposed

__all__ = ["Recorded", "differences_of"]

MOST_ROSTERS, MOST_COLUMNS = 6, 14
UNITS = {"s": "in seconds", "ms": "in milliseconds", "us": "in microseconds", "frames": "as a number of frames"}


class Recorded(QWidget):
    """Rebuilt when the recording or the project changes."""

    clock_wanted = Signal()  # for settings of its time that no menu has
    roster_wanted = Signal(str)  # to edit
    matching_wanted = Signal()

    def __init__(self, editor: Editor, suggestions: Suggestions, traces: Traces) -> None:
        super().__init__()
        self.editor = editor
        self._suggestions, self._traces = suggestions, traces
        self.links: dict[str, Link] = {}
        trace, listed = editor.now.recorded, editor.now.project.recording(editor.now.trace_name)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(4)
        column.addWidget(text_label("The recording", "ink", "title", bold=True))
        column.addWidget(text_label(_summary(trace, listed), wrap=True))
        column.addSpacing(6)
        self._grid = QGridLayout()
        self._grid.setContentsMargins(0, 0, 0, 0)
        self._grid.setHorizontalSpacing(0)
        self._grid.setVerticalSpacing(2)
        self._grid.setColumnMinimumWidth(0, LABELS)
        self._grid.setColumnStretch(1, 1)
        column.addLayout(self._grid)
        if listed is not None:
            self._time(trace, listed)
            self._runs(trace, listed)
            self._rosters(trace, listed)
        self._events(trace)
        self._otherwise(trace, listed)
        column.addSpacing(2)
        column.addWidget(ThinLine())
        column.addWidget(text_label(_declared(editor), wrap=True))

    def _line(self, label: str, text: str, *acts: tuple[str, Callable[[], object], bool]) -> None:
        """Add a row: the label, the interpretation, and its links. acts: text, action, whether it opens a menu."""
        row = self._grid.rowCount()
        self._grid.addWidget(text_label(label), row, 0, Qt.AlignmentFlag.AlignTop)
        self._grid.addWidget(text_label(text, "ink", wrap=True), row, 1)
        if not acts:
            return
        line = QHBoxLayout()
        line.setContentsMargins(-7, 0, 0, 6)  # a link has padding around its text
        line.setSpacing(4)
        for word, act, opens in acts:
            link = Link(word, act, menu=opens)
            link.set_text(word, quiet=True)
            self.links[f"{label}: {word}"] = link
            line.addWidget(link)
        line.addStretch(1)
        self._grid.addLayout(line, row + 1, 1)

    # -- time ---------------------------------------------------------------------------------------------------------

    def _time(self, trace: Trace, listed: Recording) -> None:
        told = trace.clock or Clock("t", "s")
        rate = f"{plain_rate(trace.rate)} frames per second" if len(trace) > 1 else "one frame"
        of = f" ({plain_rate(told.rate)} per second)" if told.unit == "frames" else ""
        name = told.time or "t"
        if listed.path.endswith(".jsonl"):
            self._line("time", f"a change log on a clock of {rate}")
            return
        if name == EACH_ROW and name not in trace.columns:
            self._line("time", f"each row is a frame, {rate}", ("a column", self._pick_time, True))
            return
        self._line(
            "time",
            f"{name} {UNITS.get(told.unit, 'in seconds')}{of}, {rate}",
            ("another column or unit", self._pick_time, True),
        )

    def _pick_time(self) -> None:
        listed = self._listed()
        if listed is None:
            return
        menu = new_menu(self)
        now = self.editor.now.recorded.clock or Clock()
        for unit, words in UNITS.items():
            menu.addAction(f"{now.time} {words}", partial(self._say, unit=unit, time=now.time, rate=0.0))
        menu.addSeparator()
        own = _own_names(listed)
        for name in self._rising()[:MOST_COLUMNS]:
            menu.addAction(
                f"{own.get(name, name)} is the time", partial(self._say, time=own.get(name, name), unit="", rate=0.0)
            )
        menu.addSeparator()
        menu.addAction("Frames per second, name and note …", self.clock_wanted.emit)
        self._pop(menu, "time: another column or unit")

    def _rising(self) -> list[str]:
        """Return columns that never fall within a run, which could be the time."""
        trace = self.editor.now.recorded
        same = np.diff(trace.run) == 0
        return [
            name for name, column in trace.columns.items()
            if column.kind == "number" and not np.isnan(column.data).any() and bool((np.diff(column.data)[same] >= 0).all())
            and column.data[0] != column.data[-1]
        ]  # fmt: skip

    # -- runs ---------------------------------------------------------------------------------------------------------

    def _runs(self, trace: Trace, listed: Recording) -> None:
        count, told = len(trace.run_starts), trace.clock or Clock()
        if listed.path.endswith(".jsonl"):
            if count > 1:
                self._line("runs", f"{count}, as the log says")
            return
        if told.run == AT_RESTARTS:
            self._line(
                "runs",
                f"{count}: one begins wherever the time starts over",
                ("one run only", partial(self._say, run=ONE_RUN), False),
                ("another column", self._pick_runs, True),
            )
            return
        if told.run and told.run != ONE_RUN:
            said = f"{told.run} numbers {count} runs" if count > 1 else f"{told.run} numbers the runs; here is one"
            self._line(
                "runs",
                said,
                ("one run only", partial(self._say, run=ONE_RUN), False),
                ("another column", self._pick_runs, True),
            )
            return
        found = self._suggestions.runs if told.run != ONE_RUN else None
        if found is not None:
            own = _own_names(listed).get(found.column, found.column)
            said = f"one run.  {_evidence(found, own)}: runs?"
            self._line(
                "runs",
                said,
                (f"runs by {own}", partial(self._say, run=own), False),
                ("another column", self._pick_runs, True),
            )
        elif any(column.kind == "number" for column in trace.columns.values()):
            self._line("runs", "one run", ("another column", self._pick_runs, True))
        else:
            self._line("runs", "one run")

    def _counting(self) -> list[str]:
        trace = self.editor.now.recorded
        return [
            name for name, column in trace.columns.items()
            if column.kind == "number" and counts_runs(column.data) and 1 <= column.data[-1] - column.data[0] <= len(trace) / 10
        ]  # fmt: skip

    def _pick_runs(self) -> None:
        listed = self._listed()
        if listed is None:
            return
        menu, own = new_menu(self), _own_names(listed)
        for name in self._counting()[:MOST_COLUMNS]:
            column = own.get(name, name)
            steps = int(np.sum(np.diff(self.editor.now.recorded.columns[name].data) > 0))
            menu.addAction(f"{column}, which rises {steps} times", partial(self._say, run=column))
        menu.addSeparator()
        menu.addAction("Wherever the time starts over", partial(self._say, run=AT_RESTARTS))
        menu.addAction("One run only", partial(self._say, run=ONE_RUN))
        menu.addAction("Guess", partial(self._say, run=""))
        self._pop(menu, "runs: another column")

    # -- rosters ------------------------------------------------------------------------------------------------------

    def _rosters(self, trace: Trace, listed: Recording) -> None:
        project, own = self.editor.now.project, _own_names(listed)
        there = {name.split("[", 1)[0] for name in trace.columns if "[" in name}
        for roster in project.rosters[:MOST_ROSTERS]:
            if roster.name in there:
                self._line(
                    "roster", _roster_text(roster, trace, own),
                    ("keep separate", partial(self._take_apart, roster.name), False),
                    ("name, slots", partial(self.roster_wanted.emit, roster.name), False),
                )  # fmt: skip
        plain = {own.get(name, name): column for name, column in trace.columns.items() if "[" not in name}
        naming = proposed(plain)
        for found in naming.rosters[:MOST_ROSTERS]:
            fields = ", ".join(found.fields[:4])
            first, *_, last = found.columns
            said = f"{found.slots} × {fields}, from {first} … {last}?"
            self._line("roster", said, (f"roster {found.name}", partial(self._take, found), False))
        for reason in naming.ungrouped:
            self._line("roster", f"not {reason}")

    def _take(self, roster: FoundRoster) -> None:
        self._edit(lambda project: with_roster(project, roster, self.editor.now.may_have), f"roster {roster.name}")

    def _take_apart(self, name: str) -> None:
        self._edit(lambda project: without_roster(project, name, self.editor.now.may_have), f"dissolve {name}")

    # -- the rest -----------------------------------------------------------------------------------------------------

    def _events(self, trace: Trace) -> None:
        if not trace.events:
            return
        counts: dict[str, int] = {}
        for event in trace.events:
            counts[event.name] = counts.get(event.name, 0) + 1
        told = "  ·  ".join(f"{name} {count}" for name, count in list(counts.items())[:5])
        self._line("events", told + (f"  and {len(counts) - 5} more" if len(counts) > 5 else ""))

    def _otherwise(self, trace: Trace, listed: Recording | None) -> None:
        found = differences_of(self.editor, trace, listed)
        if said := _differing(found):
            self._line("otherwise", said, ("change", self.matching_wanted.emit, False))

    # -- edits --------------------------------------------------------------------------------------------------------

    def _listed(self) -> Recording | None:
        return self.editor.now.project.recording(self.editor.now.trace_name)

    def _say(self, **changes: object) -> None:
        listed = self._listed()
        if listed is None:
            return
        try:
            self._traces.say(listed.key, **changes)
        except AvrinError as error:
            self.editor.say(str(error), error=True)

    def _edit(self, change: Callable[[Project], Project], label: str) -> None:
        try:
            self.editor.do(edit, change(self.editor.now.project), label)
        except AvrinError as error:
            self.editor.say(str(error), error=True)

    def _pop(self, menu: object, name: str) -> None:
        link = self.links[name]
        menu.popup(link.mapToGlobal(QPoint(0, link.height())))  # type: ignore[attr-defined]


def differences_of(editor: Editor, trace: Trace, listed: Recording | None) -> list[Difference]:
    """Return how a recording's names and the project's differ, compared with the other recordings read so far."""
    here = editor.now.identity(listed) if listed is not None else None
    others = [r.trace for path, r in editor.now.recordings.items() if r.trace is not None and path != here]
    return differences(editor.now.project, listed, trace, others)


def _summary(trace: Trace, listed: Recording | None) -> str:
    if listed is None and not trace.columns:
        return "Nothing yet.  Drop a recording of your game anywhere in the window, or press Ctrl+Shift+O."
    file = listed.path.rsplit("/", 1)[-1] if listed is not None else "not saved yet"
    frames = f"{len(trace):,}"
    return f"{frames} frames, {clock(trace.length)}  ·  {len(trace.columns)} names  ·  {file}"


def _evidence(runs: RunsFound, own: str) -> str:
    return str(RunsFound(own, runs.steps, runs.back))


def _own_names(listed: Recording) -> dict[str, str]:
    """Return the recording's names by the project's."""
    return {new: own for own, new in listed.names.items()}


def _roster_text(roster: Roster, trace: Trace, own: dict[str, str]) -> str:
    mine = [own.get(name, name) for name in trace.columns if name.startswith(f"{roster.name}[")]
    fields = ", ".join(field.name for field in roster.fields[:4]) + (" …" if len(roster.fields) > 4 else "")
    source = f", from {mine[0]} … {mine[-1]}" if mine and "[" not in mine[0] else ""
    return f"{roster.name}: {roster.slots} × {fields}{source}"


def _differing(differences: list[Difference]) -> str:
    """Describe which names a recording lacks or writes differently; "" if none."""
    lacking = [one.name for one in differences if one.sort == "lacking"]
    other = [
        one
        for one in differences
        if one.sort == "otherwise" and "[" not in one.name and plain_name(one.own) != one.name
    ]
    besides = [one.own for one in differences if one.sort == "besides"]
    parts = []
    if lacking:
        parts.append(f"lacks {', '.join(lacking[:4])}" + (f" and {len(lacking) - 4} more" if len(lacking) > 4 else ""))
    if besides:
        parts.append(
            f"has {', '.join(besides[:3])}" + (f" and {len(besides) - 3} more" if len(besides) > 3 else "") + " besides"
        )
    if other:
        told = ", ".join(f"{one.own} is used as {one.name}" for one in other[:3])
        parts.append(told + (f" and {len(other) - 3} more" if len(other) > 3 else ""))
    return "; ".join(parts)


def _declared(editor: Editor) -> str:
    known = editor.now.project.all_variables()
    names = list(editor.now.recorded.columns)
    mine = [name for name in names if name in known]
    if not names:
        return f"{len(known)} variables are declared" if known else "Nothing is declared yet."
    rest = "" if len(mine) == len(names) else f" of {len(names)}"
    used = {name for widget in editor.now.bound.widgets.values() for step in widget.steps() for name in step.sources()}
    unused = sum(name not in used for name in mine)
    what = "all" if not rest else ""
    left = f"; {unused} of them unused" if unused else ", and all in use"
    return f"declared: {what} {len(mine)}{rest}, with ranges{left}".replace("  ", " ")
