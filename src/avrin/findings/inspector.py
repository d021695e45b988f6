"""Run checks over a project, and after an edit only those affected by it."""

from __future__ import annotations

import logging
from collections.abc import Callable, Sequence
from functools import partial

from msgspec.structs import replace

from avrin.binding.binding import bind
from avrin.binding.bound import Bound, BoundWidget
from avrin.binding.player_options import option_named
from avrin.binding.tracks import Tracks
from avrin.errors import AvrinError
from avrin.findings.case import Case, Memory
from avrin.findings.causes import caused
from avrin.findings.finding import SEVERITIES, Check, Finding
from avrin.findings.merging import merged
from avrin.findings.views import View
from avrin.i18n.languages import in_language
from avrin.i18n.own_language import OWN
from avrin.logs import log_file
from avrin.trace.frames import Trace

__all__ = ["Inspector"]

log = logging.getLogger(__name__)
MAX_PLAYERS = 8  # further players whose HUD is checked
_Viewer = tuple[int | None, str]  # a player's slot, and the name of an option
Known = tuple[BoundWidget, tuple[object, ...], tuple[Finding, ...]]


class Inspector:
    """Caches findings per widget. Not thread-safe."""

    def __init__(self, checks: Sequence[Check]) -> None:
        self._checks = checks
        self._known: dict[tuple[str, str], Known] = {}
        self._memory = Memory()
        self._under: tuple[object, ...] = ()
        self._traces: list[Trace] = []
        self._looks = 0  # inspections of these recordings
        self._aside: tuple[list[Trace], dict[tuple[str, str], Known], Memory] | None = None
        self._further: dict[_Viewer, Inspector] = {}

    def branch(self) -> Inspector:
        """Return an inspector of another version of the project that begins with everything this one knows."""
        other = Inspector(self._checks)
        other._known, other._memory = dict(self._known), self._memory.copy()
        other._under, other._traces, other._looks = self._under, self._traces, self._looks
        return other

    def inspect(
        self,
        bound: Bound,
        tracks: Sequence[Tracks],
        breathe: Callable[[], None] = lambda: None,
        *,
        thorough: bool = True,
    ) -> list[Finding]:
        """Return all findings, errors first, then in the order of checks and widgets; including suppressed ones.

        breathe: called every few milliseconds; it may wait, or raise to cancel. thorough: decode films that are not analysed
        yet, which may take minutes.
        """
        found = self.inspect_as_bound(bound, tracks, breathe, thorough=thorough)
        viewers = _further_viewers(bound)
        self._further = {viewer: self._further.get(viewer) or Inspector(self._checks) for viewer in viewers}
        if not viewers:
            return caused(self._checks, sorted(found, key=lambda one: SEVERITIES.index(one.severity)), bound)
        parts = [found]
        for (slot, option), inspector in self._further.items():
            other = bind(bound.project, bound, bound.events, bound.folder, slot=slot, option=option)
            differing = frozenset(
                ident for ident, one in other.widgets.items() if not _looks_same(one, bound.widgets[ident])
            )
            alone = option == bound.option and any(
                view.slot == slot for one in bound.project.screens for view in one.views
            )
            chosen = option_named(bound.project, option) if option != bound.option else None
            if not alone and not differing and (chosen is None or chosen.scale == 1.0):
                continue  # this player sees what the first one sees
            seen = [Tracks(other, one.trace, one) for one in tracks]
            told = inspector.inspect_as_bound(other, seen, breathe, further=alone, thorough=thorough)
            whose = f"with {option}" if option != bound.option else f"as {_player(bound, slot, alone=alone)} sees it"
            parts.append(_as_seen_by(whose, told, found))
        return caused(self._checks, merged(self._checks, parts), bound)

    def inspect_views(
        self, bound: Bound, tracks: Sequence[Tracks], views: Sequence[View], breathe: Callable[[], None] = lambda: None
    ) -> list[tuple[Finding, ...]]:
        """Return the findings of each view, by the checks about screens only.

        bound, tracks: as last inspected, whose cache is used. A view in an unreadable language is checked
        in the project's own.
        """
        breath = _Breath(breathe)
        self._memory.breathe = breath
        spoken: dict[str, tuple[Bound, tuple[Tracks, ...]]] = {OWN: (bound, tuple(tracks))}
        return [self._of_view(*_spoken(spoken, view.language), view, breath) for view in views]

    def _of_view(self, bound: Bound, tracks: tuple[Tracks, ...], view: View, breath: _Breath) -> tuple[Finding, ...]:
        case = Case(bound, tracks, self._memory, thorough=False, view=view)
        found: list[Finding] = []
        for check in (one for one in self._checks if one.of_views):
            breath()
            if check.project is not None:
                found += _guarded(check, "", breath, partial(_of_project, check, case))
            if check.widget is not None:
                for ident, widget in bound.widgets.items():
                    if ident not in case.faulty:
                        found += _guarded(check, ident, breath, partial(_of_widget, check, case, widget))
        return tuple(sorted(found, key=lambda finding: SEVERITIES.index(finding.severity)))

    def inspect_as_bound(
        self,
        bound: Bound,
        tracks: Sequence[Tracks],
        breathe: Callable[[], None],
        *,
        further: bool = False,
        thorough: bool = True,
    ) -> list[Finding]:
        """Return all findings for the player the HUD is bound for, in the order of checks and widgets, without causes.

        further: what is equal for all players was checked before.
        """
        breath = _Breath(breathe)
        under = _under(bound)
        if under != self._under:
            self._aside = None
            self._memory.clear()
        self._under = under
        self._go_to([one.trace for one in tracks])
        self._memory.breathe = breath
        case = Case(bound, tuple(tracks), self._memory, further=further, thorough=thorough)
        found: list[Finding] = []
        for check in self._checks:
            if check.project is not None:
                breath()
                found += _guarded(check, "", breath, partial(_of_project, check, case))
            if check.widget is not None:
                for ident, widget in bound.widgets.items():
                    if ident not in case.faulty:
                        breath()
                        found += self._of_widget(check, case, ident, widget, under, breath)
        self._known = {key: known for key, known in self._known.items() if key[1] in bound.widgets}
        self._memory.keep(bound.widgets.values())
        return found

    def _go_to(self, traces: list[Trace]) -> None:
        """Switch the cache to these recordings, or drop it if they differ.

        A cache used more than once is set aside: driving by hand creates another recording for each inspection, and
        then returns to the previous ones.
        """
        if _same(traces, self._traces):
            self._looks += 1
            return
        known, memory, looks = self._known, self._memory, self._looks
        if self._aside is not None and _same(traces, self._aside[0]):
            before, (_, self._known, self._memory) = self._traces, self._aside
            self._aside, self._looks = None, 2
        else:
            before, self._known, self._memory, self._looks = self._traces, {}, Memory(), 1
        if looks > 1:
            self._aside = (before, known, memory)
        self._traces = traces

    def _of_widget(
        self, check: Check, case: Case, ident: str, widget: BoundWidget, under: tuple[object, ...], breath: _Breath
    ) -> tuple[Finding, ...]:
        key = (check.code, ident)
        known = self._known.get(key)
        if known is None or known[0] is not widget or known[1] != under:
            found = _guarded(check, ident, breath, partial(_of_widget, check, case, widget))
            known = self._known[key] = (widget, under, found)
        return known[2]


def _spoken(cache: dict[str, tuple[Bound, tuple[Tracks, ...]]], code: str) -> tuple[Bound, tuple[Tracks, ...]]:
    """Return the binding and tracks in a language, created on first use."""
    if code not in cache:
        bound, tracks = cache[OWN]
        try:
            there = in_language(bound, code)
        except AvrinError:
            return cache[OWN]  # reported as an unreadable catalogue
        cache[code] = there, tuple(Tracks(there, one.trace, one) for one in tracks)
    return cache[code]


def _same(some: Sequence[Trace], others: Sequence[Trace]) -> bool:
    return len(some) == len(others) and all(a is b for a, b in zip(some, others, strict=True))


class _Breath:
    """Calls the function that yields to other threads, and records its exception: a cancellation is not a failed check."""

    def __init__(self, breathe: Callable[[], None]) -> None:
        self._breathe = breathe
        self.raised: BaseException | None = None

    def __call__(self) -> None:
        try:
            self._breathe()
        except BaseException as error:
            self.raised = error
            raise


def _of_project(check: Check, case: Case) -> tuple[Finding, ...]:
    assert check.project is not None
    return tuple(_signed(check, finding) for finding in check.project(case))


def _of_widget(check: Check, case: Case, widget: BoundWidget) -> tuple[Finding, ...]:
    return tuple(_signed(check, finding) for finding in _of_copies(check, case, widget))


def _guarded(check: Check, ident: str, breath: _Breath, look: Callable[[], tuple[Finding, ...]]) -> tuple[Finding, ...]:
    """Return a check's findings; if it fails, only its own are lost."""
    try:
        return look()
    except MemoryError:
        raise
    except Exception as error:
        if error is breath.raised:
            raise
        log.exception("the check %s failed", check.code)
        why = str(error) if isinstance(error, AvrinError) else f"an internal error, {type(error).__name__}: {error}"
        found = Finding(
            ident, "could not be checked", f"The check ‘{check.code}’ could not run here: {why}",
            f"Its result is unknown. The log has details: {log_file()}", about=check.code,
        )  # fmt: skip
        return (_signed(CHECKS[0], found),)


def _further_viewers(bound: Bound) -> list[_Viewer]:
    """Return who else sees the HUD: every other player, and the player with each option."""
    slots = [slot for slot in bound.project.slots if slot != bound.slot][:MAX_PLAYERS]
    options = [option.name for option in bound.project.options if option.name != bound.option]
    return [*((slot, bound.option) for slot in slots), *((bound.slot, name) for name in options)]


def _looks_same(one: BoundWidget, other: BoundWidget) -> bool:
    """Return whether two bindings of a widget show the same over any recording."""
    return one.steps() == other.steps() and one.looks == other.looks


def _player(bound: Bound, slot: int | None, *, alone: bool) -> str:
    return f"slot {slot}" if alone or not bound.project.players else f"player {(slot or 0) + 1}"


def _as_seen_by(whose: str, findings: list[Finding], before: list[Finding]) -> list[Finding]:
    """Label findings that only another viewer has, unless a screen says so."""
    known = {finding.key for finding in before}
    return [one if one.screen or one.key in known else replace(one, why=f"{one.why}, {whose}") for one in findings]


def _under(bound: Bound) -> tuple[object, ...]:
    """Return everything findings of a valid widget depend on besides itself and the recordings."""
    project = bound.project
    return (
        project.variables, project.rosters, project.groups, project.screens, project.plates, project.reference,
        project.fit, project.placeholder, bound.folder,
    )  # fmt: skip


def _of_copies(check: Check, case: Case, widget: BoundWidget) -> list[Finding]:
    """Return a check's findings for a widget and its copies; if it must hold everywhere, for all copies."""
    assert check.widget is not None
    each = [list(check.widget(case, copy)) for copy in widget.each()]
    if len(each) == 1:
        return each[0]
    found = {finding.key: finding for copy in reversed(each) for finding in copy}  # the first copy's finding wins
    if check.everywhere:
        found = {key: one for key, one in found.items() if all(any(f.key == key for f in copy) for copy in each)}
    return [finding for copy in each for finding in copy if check.many or found.get(finding.key) is finding]


def _signed(check: Check, finding: Finding) -> Finding:
    return replace(finding, code=check.code, severity=check.severity)


CHECKS = (Check("check-failed", "warning", "A check failed; the other checks ran without it."),)
