"""Constructors of fixes, each one edit of the project."""

from __future__ import annotations

from collections.abc import Callable

from msgspec.structs import replace

from avrin.binding.declarations import with_variable
from avrin.binding.places import RulePlace, with_rule
from avrin.findings.finding import Fix
from avrin.project.project import Place, Variable, Widget

__all__ = ["fix_options", "fix_place", "fix_rule", "fix_variable", "fix_widget"]


def fix_rule(label: str, place: RulePlace, text: str) -> Fix:
    """Return a fix that replaces the rule at a place."""
    return Fix(label, lambda project: with_rule(project, place, text))


def fix_widget(label: str, ident: str, change: Callable[[Widget], Widget]) -> Fix:
    """Return a fix that changes a widget."""
    return Fix(label, lambda project: project.with_widget(change(project.widget(ident))))


def fix_options(label: str, ident: str, **options: object) -> Fix:
    """Return a fix that sets options of a widget."""
    return fix_widget(label, ident, lambda widget: replace(widget, options={**widget.options, **options}))


def fix_place(label: str, ident: str, change: Callable[[Place], Place]) -> Fix:
    """Return a fix that changes a widget's place."""
    return fix_widget(label, ident, lambda widget: replace(widget, place=change(widget.place)))


def fix_variable(label: str, variable: Variable, **changes: object) -> Fix:
    """Return a fix that changes a variable's declaration."""
    return Fix(label, lambda project: with_variable(project, variable.name, **changes))
