"""The one error every package raises for bad input: where, why, and what to do about it."""

from __future__ import annotations

from collections.abc import Iterable

__all__ = ["AvrinError", "nearest"]


class AvrinError(Exception):
    """Something the user gave cannot be used.

    place: where it is, outermost first ("brinehook.avrin", "widget 'hull_bar'", …); may be empty.
    problem: why, in one sentence without a full stop.
    advice: what to do; may be empty.
    command: what to do on the command line, where that is something else; no window shows it.
    """

    def __init__(self, problem: str, *, place: Iterable[str] = (), advice: str = "", command: str = "") -> None:
        super().__init__(problem)
        self.place = tuple(place)
        self.problem = problem
        self.advice = advice
        self.command = command

    def within(self, *outer: str) -> AvrinError:
        """The same error, told from further out."""
        return AvrinError(self.problem, place=(*outer, *self.place), advice=self.advice, command=self.command)

    def __str__(self) -> str:
        return self._with(self.advice)

    def on_command_line(self) -> str:
        """The same for who typed a command."""
        return self._with(self.command or self.advice)

    def _with(self, advice: str) -> str:
        text = ": ".join((", ".join(self.place), self.problem)) if self.place else self.problem
        return f"{text}. {advice}" if advice else text


def nearest(word: str, known: Iterable[str]) -> str:
    """The known word most like `word`, or "" when none is close."""
    import difflib

    close = difflib.get_close_matches(word, list(known), n=1, cutoff=0.6)
    return close[0] if close else ""
