"""Options of the player that change nothing."""

from __future__ import annotations

from collections.abc import Iterator

from avrin.binding.player_options import adapted
from avrin.findings.case import Case
from avrin.findings.finding import Check, Finding

__all__ = ["CHECKS"]


def _changes_nothing(case: Case) -> Iterator[Finding]:
    looks = [look for widget in case.bound.widgets.values() for look in widget.looks.values()]
    for option in case.project.options:
        if (
            option.name == case.bound.option
            or option.scale != 1.0
            or any(adapted(look, option) != look for look in looks)
        ):
            continue
        yield Finding(
            "", f"{option.name}: no difference", f"The option {option.name} changes nothing that any widget shows",
            "Name a colour that a widget has, or another size, or remove the option", about=option.name,
        )  # fmt: skip


CHECKS = (
    Check("option-changes-nothing", "hint", "An option of the player changes nothing.", project=_changes_nothing),
)  # fmt: skip
