"""Findings: where, when and why something is probably wrong and what to do; and the interface of checks."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from typing import Literal

from msgspec import Struct

from avrin.binding.bound import BoundWidget
from avrin.findings.case import Case
from avrin.project.project import Project

__all__ = ["SEVERITIES", "Check", "Finding", "Fix", "Severity", "Shared"]

Severity = Literal["error", "warning", "hint"]
Shared = Literal["widget", "about", "input", "words", "variable", "group", "field"]  # what two findings have in common
SEVERITIES: tuple[Severity, ...] = ("error", "warning", "hint")


class Fix(Struct, frozen=True):
    """A change that resolves a finding. label: the button's text; fixes with equal labels are equal."""

    label: str
    apply: Callable[[Project], Project]

    def __eq__(self, other: object) -> bool:
        return isinstance(other, Fix) and self.label == other.label

    def __hash__(self) -> int:
        return hash(self.label)


class Finding(Struct, frozen=True):
    """A finding.

    widget: its id, "" for the whole project. short: a few words for the lane. why: one sentence. advice: what to do.
    about: distinguishes findings of the same code and widget, such as a band's name. input: the affected input.
    trace: the recording's name; start, end: its frames, end exclusive; None if it concerns no moment.
    moments: all stretches of that recording, if several. variable: the affected one, or "".
    screen, plate, language: the ones on which it occurs, or "".
    weight: of findings with one key in several recordings, the heaviest is reported.
    code, severity: the check's; cause: the key of the finding it follows from. Set by the inspector.
    """

    widget: str
    short: str
    why: str
    advice: str
    about: str = ""
    input: str = ""
    trace: str = ""
    start: int | None = None
    end: int | None = None
    moments: tuple[tuple[int, int], ...] = ()
    variable: str = ""
    screen: str = ""
    plate: str = ""
    language: str = ""
    fix: Fix | None = None
    weight: float = 0.0
    code: str = ""
    severity: Severity = "hint"
    cause: tuple[str, str, str] | None = None

    @property
    def stretches(self) -> tuple[tuple[int, int], ...]:
        """All affected stretches of frames; empty if it concerns no moment."""
        if self.start is None or self.end is None:
            return ()
        return self.moments or ((self.start, self.end),)

    @property
    def key(self) -> tuple[str, str, str]:
        """The key by which it is ignored; it does not change while the problem exists."""
        return (self.code, self.widget or self.variable, self.about)


class Check(Struct, frozen=True):
    """A type of finding. code: a stable word. help: what it detects, for the manual.

    widget: checks one valid widget at a time; rerun only if the widget or its surroundings change.
    project: checks everything at once.
    everywhere: it applies only if every recording has it, such as a band that never occurs.
    of_views: it concerns screens, and also judges a single view.
    many: one widget may have it at several moments, all of which are reported.
    follows: codes of possible causes, with what it shares with them; the most specific first.
    With its own code the first finding is the cause.
    """

    code: str
    severity: Severity
    help: str
    widget: Callable[[Case, BoundWidget], Iterable[Finding]] | None = None
    project: Callable[[Case], Iterable[Finding]] | None = None
    everywhere: bool = False
    many: bool = False
    of_views: bool = False
    follows: tuple[tuple[str, Shared], ...] = ()
