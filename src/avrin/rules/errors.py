"""Errors in a rule, with their position in its text."""

from __future__ import annotations

from collections.abc import Iterable
from typing import Literal

from avrin.errors import AvrinError

__all__ = ["RuleError"]


Sort = Literal["", "name", "type", "circle"]


class RuleError(AvrinError):
    """A rule that cannot be used. span: the first character and the one after the last, counted from 0.

    sort: unknown name, mismatched kinds, values that require each other, or other.
    instead: the correct text for the span, if known.
    """

    def __init__(
        self,
        problem: str,
        span: tuple[int, int],
        *,
        place: Iterable[str] = (),
        advice: str = "",
        sort: Sort = "",
        instead: str = "",
    ) -> None:
        outer = tuple(place)
        super().__init__(problem, place=(*outer, f"column {span[0] + 1}"), advice=advice)
        self.span = span
        self.outer = outer
        self.sort = sort
        self.instead = instead

    def within(self, *outer: str) -> RuleError:
        """Return the same error with outer places in front."""
        return self._again(self.span, (*outer, *self.outer))

    def moved(self, by: int) -> RuleError:
        """Return the same error for a longer text in which the rule starts at character `by`."""
        span = (self.span[0] + by, self.span[1] + by)
        return self._again(span, self.outer)

    def _again(self, span: tuple[int, int], place: Iterable[str]) -> RuleError:
        return RuleError(self.problem, span, place=place, advice=self.advice, sort=self.sort, instead=self.instead)
