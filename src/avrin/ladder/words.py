"""The words that rules compare a text with: its thresholds."""

from __future__ import annotations

from collections.abc import Iterable

from avrin.rules import Graph, Step

__all__ = ["compared_words"]


def compared_words(steps: Iterable[Step], graph: Graph, name: str) -> list[str]:
    """Those that some steps, or what they come of, compare a variable with, in the order they are met."""
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
