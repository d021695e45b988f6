"""What the checks think is wrong: where, when, why, and what to do; and what a check is."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from typing import Literal

from msgspec import Struct

from avrin.audit.case import Case
from avrin.model import Project
from avrin.widgets import BoundWidget

__all__ = ["SEVERITIES", "Check", "Finding", "Fix", "Severity", "Shared"]

Severity = Literal["error", "warning", "hint"]
Shared = Literal["widget", "about", "input", "words", "variable", "group", "field"]  # what two findings have in common
SEVERITIES: tuple[Severity, ...] = ("error", "warning", "hint")


class Fix(Struct, frozen=True):
    """A change that mends a finding. label: what it does, as a button says it; those of one label are equal."""

    label: str
    apply: Callable[[Project], Project]

    def __eq__(self, other: object) -> bool:
        return isinstance(other, Fix) and self.label == other.label

    def __hash__(self) -> int:
        return hash(self.label)


class Finding(Struct, frozen=True):
    """One thing found.

    widget: its id, "" for the whole project. short: a few words for the lane. why: one sentence. advice: what to do.
    about: what tells it from another of the same code and widget, such as a band's name. input: which one it is about.
    trace: the recording's name; start, end: frames of it, end not included; None where it is about no moment.
    moments: all stretches of that recording it is about, where there are several. variable: the one it is about, or "".
    screen, plate, language: the ones on which it shows, or "".
    weight: of several of one key found in different recordings, the one with the largest is told.
    code, severity: the check's; cause: the key of the finding it follows from. Filled in by who runs it.
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
        """All stretches of frames it is about; none where it is about no moment."""
        if self.start is None or self.end is None:
            return ()
        return self.moments or ((self.start, self.end),)

    @property
    def key(self) -> tuple[str, str, str]:
        """What it is hushed by: the same as long as nobody mended it."""
        return (self.code, self.widget or self.variable, self.about)


class Check(Struct, frozen=True):
    """One kind of finding. code: a stable word. help: what it catches, for the manual.

    widget: looks at one sound widget at a time, and again only when it or what it is looked at under changed.
    project: looks at all at once.
    everywhere: it holds only if every recording has it, as that nothing ever shows a band.
    of_views: it is about screens, and judges one way to look at the HUD by itself as well.
    many: one widget may have it at several moments, and all are told.
    follows: kinds of findings it may follow from, and what it has in common with its cause; those first that say most.
    With its own kind the first one found is the cause.
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
