"""Examples of the rule language with the variables of the current project instead of the manual's."""

from __future__ import annotations

import re

from avrin.project.project import Project

__all__ = ["own_example"]

# The manual's variables used in examples, by the type of the project's variable that replaces them.
NUMBERS, FLAGS, TEXTS = ("hull", "air", "hull_max"), ("leak",), ("phase",)
NAME = re.compile(r"[^\W\d]\w*(?!\w*\()")


def own_example(example: str, project: Project) -> str:
    """Return an example with the project's own variables; the manual's variable if the project lacks its type."""
    own: dict[str, str] = {}
    for names, types in ((NUMBERS, ("int", "float")), (FLAGS, ("bool",)), (TEXTS, ("text",))):
        theirs = [one.name for one in project.variables if one.type in types]
        if theirs and not set(names) & {one.name for one in project.variables}:
            own |= {name: theirs[i % len(theirs)] for i, name in enumerate(names)}
    return NAME.sub(lambda match: own.get(match[0], match[0]), example)
