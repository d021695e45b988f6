"""Write a new limit of a band into a project, in readable form."""

from __future__ import annotations

from msgspec.structs import replace

from avrin.binding.places import RulePlace, with_rule
from avrin.project.project import Project
from avrin.tuning.signals import Question

__all__ = ["duration_text", "is_share", "limit_text", "with_limit"]


def is_share(question: Question) -> bool:
    """Return whether the band's limit is a share of full."""
    return (question.band.below or question.band.above).strip().endswith("%")


def limit_text(value: float, *, share: bool) -> str:
    """Return a limit for people, with three significant digits."""
    return _written(value, share=share).replace("-", "−")


def _written(value: float, *, share: bool) -> str:
    """Return a limit for a rule."""
    rounded = float(f"{value * 100 if share else value:.3g}")
    return f"{rounded:.15g}" + ("%" if share else "")


def duration_text(seconds: float) -> str:
    """Return a duration for a rule."""
    return f"{seconds * 1000:.6g}ms" if seconds < 1 else f"{seconds:.6g}s"


def with_limit(project: Project, question: Question, value: float) -> Project:
    """Return the project with the question's band starting at a value; a numeric `back` moves along.

    If the question has no `back`, the band gets none; `held` is set as in the question.
    """
    ident, band = question.widget.widget.id, question.band
    place = RulePlace("widget", ident, "bands", band.name, "below" if question.below else "above")
    made = with_rule(project, place, _written(value, share=is_share(question)))
    if question.held != question.written_held:
        made = with_rule(made, replace(place, field="held"), duration_text(question.held) if question.held > 0 else "")
    if not question.sticky and band.back:
        return with_rule(made, replace(place, field="back"), "")
    if question.gap is None:
        return made
    percent = band.back.strip().endswith("%") if band.back else is_share(question)
    back = _written(value + question.gap, share=percent)
    return with_rule(made, replace(place, field="back"), back)
