"""What can be wrong with a rule, and where in its text."""

from __future__ import annotations

from collections.abc import Iterable

from avrin.model import AvrinError

__all__ = ["RuleError"]


class RuleError(AvrinError):
    """A rule that cannot be used. span: first character and the one after the last, counted from 0."""

    def __init__(self, problem: str, span: tuple[int, int], *, place: Iterable[str] = (), advice: str = "") -> None:
        outer = tuple(place)
        super().__init__(problem, place=(*outer, f"column {span[0] + 1}"), advice=advice)
        self.span = span
        self.outer = outer

    def within(self, *outer: str) -> RuleError:
        """The same error, told from further out."""
        return RuleError(self.problem, self.span, place=(*outer, *self.outer), advice=self.advice)

    def moved(self, by: int) -> RuleError:
        """The same error in a longer text in which the rule starts at character `by`."""
        span = (self.span[0] + by, self.span[1] + by)
        return RuleError(self.problem, span, place=self.outer, advice=self.advice)
