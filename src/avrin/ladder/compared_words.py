"""Words that rules compare a text with: the thresholds of a text."""

from __future__ import annotations

from collections.abc import Iterable

from avrin.rules.steps import Graph, Step

__all__ = ["compared_words"]


def compared_words(steps: Iterable[Step], graph: Graph, name: str) -> list[str]:
    """Return the words some steps, or their arguments, compare a variable with, in order."""
    found: dict[str, None] = {}
    waiting = list(steps)
    seen: set[Step] = set()
    while waiting:
        step = waiting.pop()
        if step in seen:
            continue
        seen.add(step)
        waiting += step.args
        if any(arg.op.name == "column" and arg.kind == "text" and arg.params[0] == name for arg in step.args):
            constants = [arg.constant for arg in step.args if arg.kind == "text" and arg.constant is not None]
            words = [graph.words.text(int(constant[0])) for constant in constants]
            found.update((word, None) for word in words if word is not None)
    return list(found)
