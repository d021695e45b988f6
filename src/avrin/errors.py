"""The one error every package raises for bad input: where, why, and what to do about it."""

from __future__ import annotations

from collections.abc import Iterable

__all__ = ["AvrinError", "nearest", "reason_of"]

MAX_REASON_CHARS = 120


class AvrinError(Exception):
    """Input from the user cannot be used.

    place: where the problem is, outermost first ("brinehook.avrin", "widget 'hull_bar'", …); may be empty.
    problem: the reason, one sentence without a full stop.
    advice: what to do; may be empty.
    command: what to do on the command line if that differs; never shown in the window.
    """

    def __init__(self, problem: str, *, place: Iterable[str] = (), advice: str = "", command: str = "") -> None:
        super().__init__(problem)
        self.place = tuple(place)
        self.problem = problem
        self.advice = advice
        self.command = command

    def within(self, *outer: str) -> AvrinError:
        """Return the same error with outer places in front."""
        return AvrinError(self.problem, place=(*outer, *self.place), advice=self.advice, command=self.command)

    def __str__(self) -> str:
        return self._with(self.advice)

    def on_command_line(self) -> str:
        """Return the message for the command line."""
        return self._with(self.command or self.advice)

    def _with(self, advice: str) -> str:
        text = ": ".join((", ".join(self.place), self.problem)) if self.place else self.problem
        return f"{text}. {advice}" if advice else text


def nearest(word: str, words: Iterable[str]) -> str:
    """Return the words word most similar to `word`, or "" if none is close."""
    import difflib  # late: 7 ms

    close = difflib.get_close_matches(word, list(words), n=1, cutoff=0.6)
    return close[0] if close else ""


def reason_of(error: BaseException) -> str:
    """Return why something outside Avrin failed, in one line for a message: the system's text, or the error's own."""
    if system := getattr(error, "strerror", None):
        return str(system).lower()
    line = next(iter(str(error).splitlines()), "") or type(error).__name__
    return line if len(line) <= MAX_REASON_CHARS else f"{line[:MAX_REASON_CHARS]}…"
