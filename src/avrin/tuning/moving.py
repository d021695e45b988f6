"""A band's limit put elsewhere in a project, as a person would write it."""

from __future__ import annotations

from msgspec.structs import replace

from avrin.model import Project
from avrin.tuning.signals import Question
from avrin.widgets import RulePlace, with_rule

__all__ = ["is_share", "level_said", "wait_said", "with_limit"]


def is_share(question: Question) -> bool:
    """Whether the band's limit is written as a share of full."""
    return (question.band.below or question.band.above).strip().endswith("%")


def level_said(value: float, *, share: bool) -> str:
    """A limit as people read it, to three digits."""
    return _written(value, share=share).replace("-", "−")


def _written(value: float, *, share: bool) -> str:
    """Likewise, as a rule has it."""
    rounded = float(f"{value * 100 if share else value:.3g}")
    return f"{rounded:.15g}" + ("%" if share else "")


def wait_said(seconds: float) -> str:
    """A duration as people write it in a rule."""
    return f"{seconds * 1000:.6g}ms" if seconds < 1 else f"{seconds:.6g}s"


def with_limit(project: Project, question: Question, value: float) -> Project:
    """The project in which a question's band begins at a value; a `back` that is a number moves along.

    Where the question is of a band that does not go back otherwise it has no `back`; `held` is as in the question.
    """
    ident, band = question.widget.widget.id, question.band
    place = RulePlace("widget", ident, "bands", band.name, "below" if question.below else "above")
    made = with_rule(project, place, _written(value, share=is_share(question)))
    if question.held != question.written_held:
        made = with_rule(made, replace(place, field="held"), wait_said(question.held) if question.held > 0 else "")
    if not question.sticky and band.back:
        return with_rule(made, replace(place, field="back"), "")
    if question.gap is None:
        return made
    percent = band.back.strip().endswith("%") if band.back else is_share(question)
    back = _written(value + question.gap, share=percent)
    return with_rule(made, replace(place, field="back"), back)
