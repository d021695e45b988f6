"""Invalid rules, options and looks: unknown names, mismatched types, unbound inputs."""

from __future__ import annotations

from collections.abc import Callable, Iterator

from msgspec.structs import replace

from avrin.binding.binding import UnfedError
from avrin.binding.declarations import declared
from avrin.binding.places import RulePlace, rule_at, titled_words
from avrin.errors import AvrinError, nearest
from avrin.findings.case import Case
from avrin.findings.finding import Check, Finding, Fix
from avrin.findings.fixes import fix_rule, fix_widget
from avrin.kinds.registry import KINDS
from avrin.rules.errors import RuleError

__all__ = ["CHECKS"]


def _code(error: AvrinError) -> str:
    if isinstance(error, RuleError):
        return {"name": "unknown-name", "type": "wrong-type"}.get(error.sort, "broken-rule")
    return "unbound-input" if isinstance(error, UnfedError) else "broken-option"


def _of(code: str) -> Callable[[Case], Iterator[Finding]]:
    def check(case: Case) -> Iterator[Finding]:
        for place, error in case.bound.errors.items():
            if _code(error) == code:
                yield _rule_finding(case, place, error)

    return check


def _recorded(case: Case, place: RulePlace, error: AvrinError) -> Finding | None:
    """Return the finding for a recorded but undeclared name, which takes precedence over similar names."""
    if not isinstance(error, RuleError) or error.sort != "name":
        return None
    start, end = error.span
    name = rule_at(case.project, place)[start:end]
    trace = next((tracks.trace for tracks in case.tracks if name in tracks.trace.columns), None)
    if trace is None:
        return None
    where = ", ".join(titled_words(case.project, place))
    return Finding(
        place.widget, f"`{name}` is not declared", f"{where}: `{name}` is recorded, but not declared",
        f"Declare `{name}`", about=place.within, input=place.input,
        fix=Fix(f"declare {name}", lambda project: declared(project, trace, name)),
    )  # fmt: skip


def _rule_finding(case: Case, place: RulePlace, error: AvrinError) -> Finding:
    if (recorded := _recorded(case, place, error)) is not None:
        return recorded
    fix = None
    if isinstance(error, RuleError) and error.instead:
        text = rule_at(case.project, place)
        start, end = error.span
        mended = text[:start] + error.instead + text[end:]
        fix = fix_rule(f"write {error.instead}", place, mended)
    if place.part == "kind" and (kind := nearest(case.project.widget(place.widget).kind, KINDS)):
        fix = fix_widget(f"make it a {kind}", place.widget, lambda widget: replace(widget, kind=kind))
    inner = (
        () if isinstance(error, RuleError) else error.place
    )  # the field of a look; a rule is underlined at the error
    where = ", ".join((*titled_words(case.project, place), *inner))
    return Finding(
        place.widget,
        error.problem,
        f"{where}: {error.problem}",
        error.advice or (f"Write {error.instead}" if isinstance(error, RuleError) and error.instead else "Correct it"),
        about=place.within,
        input=place.input,
        fix=fix,
    )


CHECKS = (
    Check("unknown-name", "error", "A rule uses an unknown name.", project=_of("unknown-name"),
          follows=(("unknown-name", "words"),)),
    Check("wrong-type", "error", "A value has the wrong type, such as a number as a condition.", project=_of("wrong-type")),
    Check("broken-rule", "error", "A rule cannot be parsed or makes no sense.", project=_of("broken-rule")),
    Check("broken-option", "error", "An option, a look, a style or a kind cannot be used.", project=_of("broken-option")),
    Check("unbound-input", "error", "A required input of a widget is not bound.", project=_of("unbound-input")),
)  # fmt: skip
