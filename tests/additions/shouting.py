"""Labels in capitals: a family of checks that only a test knows."""

from __future__ import annotations

from collections.abc import Iterator

from avrin.binding.bound import BoundWidget
from avrin.findings.case import Case
from avrin.findings.finding import Check, Finding

__all__ = ["CHECKS"]


def _shouts(_case: Case, widget: BoundWidget) -> Iterator[Finding]:
    text = widget.widget.inputs.get("text", "")
    if text.isupper():
        yield Finding(widget.widget.id, "shouts", f"“{text}” is in capitals", "Write it in small letters")


CHECKS = (Check("shouts", "hint", "A label in capitals.", widget=_shouts),)
