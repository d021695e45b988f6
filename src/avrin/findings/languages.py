"""Translations: missing or outdated ones, and translated texts that exceed their box."""

from __future__ import annotations

import functools
from collections.abc import Iterator

from avrin.binding.bound import Bound, BoundWidget
from avrin.binding.tracks import Tracks
from avrin.errors import AvrinError
from avrin.findings.case import Case
from avrin.findings.finding import Check, Finding
from avrin.findings.fitting import larger
from avrin.i18n.catalogue import catalogue_stamp
from avrin.i18n.languages import Fault, Translation, in_language, language_codes, translation
from avrin.i18n.messages import Message
from avrin.i18n.own_language import OWN
from avrin.i18n.pseudo import MADE_UP
from avrin.render.extent import Extent, beyond, extent

__all__ = ["CHECKS"]

SHOWN = 40  # characters of a quoted text


def _codes(case: Case) -> list[str]:
    """Return the translated languages: not the project's own, and no pseudo-languages."""
    return [code for code in language_codes(case.project, case.bound.folder) if code != OWN and code not in MADE_UP]


def _read(case: Case) -> Iterator[tuple[str, Translation | AvrinError]]:
    for code in _codes(case):
        try:
            yield code, translation(case.bound, code)
        except AvrinError as error:
            yield code, error


def _short(text: str) -> str:
    return text if len(text) <= SHOWN else f"{text[: SHOWN - 1]}…"


def _widget(fault: Fault) -> str:
    return fault.message.places[0].widget if fault.message is not None and fault.message.places else ""


def _title(case: Case, fault: Fault) -> str:
    return case.bound.widgets[_widget(fault)].widget.title


def _unreadable(case: Case) -> Iterator[Finding]:
    for code, read in _read(case):
        if isinstance(read, AvrinError):
            yield Finding(
                "", f"{code} cannot be read", f"The catalogue of {code} {read.problem}", read.advice, about=code,
                language=code,
            )  # fmt: skip


def _faults(case: Case, *sorts: str) -> Iterator[tuple[str, Fault]]:
    for code, read in _read(case):
        if not isinstance(read, AvrinError):
            yield from ((code, fault) for fault in read.faults if fault.sort in sorts)


def _untranslated(case: Case) -> Iterator[Finding]:
    lacking: dict[str, list[tuple[str, Fault]]] = {}
    for code, fault in _faults(case, "untranslated"):
        lacking.setdefault(fault.text, []).append((code, fault))
    for text, found in lacking.items():
        codes, fault = ", ".join(code for code, _ in found), found[0][1]
        yield Finding(
            _widget(fault), f"not in {codes}",
            f"{_title(case, fault)} says “{_short(text)}”, which has no translation in {codes}",
            "Translate it on the Screens desk, or in the catalogue", about=text, language=found[0][0],
        )  # fmt: skip


def _stale(case: Case) -> Iterator[Finding]:
    for code, fault in _faults(case, "unsure"):
        yield Finding(
            _widget(fault), f"changed since it was in {code}",
            f"{_title(case, fault)} says “{_short(fault.text)}”, which changed since it was translated into {code}",
            "Review the translation and remove its `fuzzy` mark", about=f"{code}: {fault.text}", language=code,
        )  # fmt: skip
    gone: dict[str, list[str]] = {}
    for code, fault in _faults(case, "gone"):
        gone.setdefault(code, []).append(fault.text)
    for code, texts in gone.items():  # a catalogue of another game has thousands
        more = f" and {len(texts) - 1} more" if len(texts) > 1 else ""
        yield Finding(
            "", f"{len(texts)} gone, but still in {code}",
            f"The catalogue of {code} has “{_short(texts[0])}”{more}, which the project does not contain",
            f"Run `avrin texts update P {code}`", about=code, language=code,
        )  # fmt: skip


def _mismatched(case: Case) -> Iterator[Finding]:
    for code, fault in _faults(case, "mismatch"):
        yield Finding(
            _widget(fault), f"unusable in {code}",
            f"{_title(case, fault)} says “{_short(fault.text)}”, whose translation cannot be used: {fault.why}",
            "Use the same values as the text", about=f"{code}: {fault.text}", language=code,
        )  # fmt: skip


def _outgrows(case: Case) -> Iterator[Finding]:
    for code, read in _read(case):
        if isinstance(read, AvrinError):
            continue
        spoken = _InLanguage(case, code)
        ours = dict.fromkeys(place.widget for one in _all_messages(read) for place in one.places)
        for ident in ours:
            if ident in case.bound.widgets and ident not in case.faulty:
                yield from spoken.outgrown(case.bound.widgets[ident])


def _all_messages(read: Translation) -> list[Message]:
    return [one for one in read.messages if one.text in read.language.translations]


class _InLanguage:
    """A case's recordings in a language, created only if something is not cached."""

    def __init__(self, case: Case, code: str) -> None:
        self.case = case
        self.code = code
        self.stamp = catalogue_stamp(case.bound.folder, code)
        self._tracks: dict[int, Tracks] = {}

    @functools.cached_property
    def bound(self) -> Bound:
        return in_language(self.case.bound, self.code)

    def tracks(self, number: int) -> Tracks:
        if number not in self._tracks:
            own = self.case.tracks[number]
            self._tracks[number] = Tracks(self.bound, own.trace, own)
        return self._tracks[number]

    def outgrown(self, widget: BoundWidget) -> Iterator[Finding]:
        """Yield what does not fit in the language but does in the project's own."""
        for number, own in enumerate(self.case.tracks):
            for copy in widget.each():
                known = self.case.extent(own, copy)
                if known is not None and beyond(copy, known):
                    return  # reported for any language
                key = ("extent in", self.code, self.stamp, number)
                got = self.case.memory.get(copy, key, functools.partial(self._extent, copy, number))
                if got is not None and (by := beyond(copy, got)):
                    wide, high = copy.widget.place.size
                    yield Finding(
                        copy.widget.id, f"outgrows its box by {by:.0f} in {self.code}",
                        f"{copy.widget.title} reaches {by:.0f} pixels beyond its box of {wide:.0f} × {high:.0f} in {self.code}",
                        "Make its box larger, or the translation shorter", about=self.code, trace=own.trace.name,
                        start=got.frame, end=got.frame + 1, language=self.code, fix=larger(copy, got.most),
                    )  # fmt: skip
                    return

    def _extent(self, widget: BoundWidget, number: int) -> Extent | None:
        there = self.bound.widgets[widget.widget.id].each()[widget.slot]
        return extent(self.tracks(number), there)


CHECKS = (
    Check("broken-catalogue", "error", "A translation catalogue cannot be read.", project=_unreadable),
    Check("mismatched-text", "error", "A translation uses a value that its text does not have.", project=_mismatched),
    Check("outgrows-in", "warning", "A text outgrows its box in another language.", project=_outgrows),
    Check("untranslated", "hint", "A text has no translation in a language that has a catalogue.", project=_untranslated),
    Check("stale-text", "hint", "A translation belongs to a text that has changed or been removed.", project=_stale),
)  # fmt: skip
