"""Undecided conflicts of a merge."""

from __future__ import annotations

from collections.abc import Iterator
from functools import partial

from avrin.findings.case import Case
from avrin.findings.finding import Check, Finding, Fix
from avrin.storage.merge import conflict_title, resolved, value_words

__all__ = ["CHECKS"]


def _undecided(case: Case) -> Iterator[Finding]:
    for conflict in case.project.conflicts:
        title = conflict_title(conflict)
        yield Finding(
            "", f"both changed {title}",
            f"Both changed {title}: ours is {value_words(conflict.ours)}, theirs {value_words(conflict.theirs)}",
            "Choose ours or theirs below the window's header", about="/".join(conflict.at),
            fix=Fix(f"keep ours: {title}", partial(resolved, conflict=conflict, theirs=False)),
        )  # fmt: skip


CHECKS = (
    Check("undecided-conflict", "error", "Two people changed the same part, and the conflict is undecided.", project=_undecided),
)  # fmt: skip
