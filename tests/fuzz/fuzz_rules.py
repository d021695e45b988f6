"""Coverage-guided fuzzing of the rule language, by hand: `pip install atheris`, then `python tests/fuzz/fuzz_rules.py`.

Whatever is written must become a tree, steps and values, or a RuleError whose place is in the text; never another
exception, and never a hang. Options of libFuzzer follow, such as `-max_total_time=60`.
"""

from __future__ import annotations

import sys
from pathlib import Path

sys.path.insert(0, str(Path(__file__).parents[2] / "src"))

import atheris

with atheris.instrument_imports(include=["avrin.rules", "lark"]):
    import numpy as np

    from avrin.rules.check import Scope
    from avrin.rules.errors import RuleError
    from avrin.rules.parse import _parsed
    from avrin.rules.parts import part_at, word_before
    from avrin.rules.rename import renamed
    from avrin.rules.scan import evaluate
    from avrin.trace.frames import Column, Event, Trace

LANGUAGE = """
if then else otherwise and or not in true false missing slot now hull air leak phase crew[0].scrap held since latch
ease mean prev delay blink text event last count max clamp share 0.5 25% 2s 10 "low" ( ) , + - * / < <= == != .. { } |
0.0 m:ss
"""
WORDS = LANGUAGE.split()
TRACE = Trace.make(
    "fuzz",
    [0.0, 0.5, 1.0, 0.0, 1.0],
    {
        "hull": Column.of([1.0, None, 30.0, 0.0, -2.0]),
        "air": Column.of([0.0, 5.0, 5.0, None, 1e9]),
        "crew[0].scrap": Column.of([1.0, 2.0, 3.0, 4.0, 5.0]),
        "leak": Column.of([True, False, None, True, True]),
        "phase": Column.of(["dive", None, "", "lost", "dive"]),
    },
    [1, 1, 1, 2, 2],
    [Event(0.2, "hit", {"points": 3.0})],
)
KINDS = {name: column.kind for name, column in TRACE.columns.items()}


def once(data: bytes) -> None:
    """One text, made of bytes and of words of the language."""
    provider = atheris.FuzzedDataProvider(data)
    parts = []
    for _ in range(provider.ConsumeIntInRange(1, 24)):
        if provider.ConsumeIntInRange(0, 5):
            parts.append(WORDS[provider.ConsumeIntInRange(0, len(WORDS) - 1)])
        else:
            parts.append(provider.ConsumeUnicodeNoSurrogates(4))
    text = " ".join(parts)
    scope = Scope(KINDS, {"d": "hull / 2"}, events={"hit": {"points": "number"}})
    for check in (scope.rule, scope.template):
        try:
            if check == scope.rule:
                _parsed(text)  # not from the trees that are kept
            step = check(text)
        except RuleError as error:
            assert 0 <= error.span[0] <= len(text) + 1
            assert "\n" not in str(error)
            continue
        whole = evaluate([step], TRACE, scope.graph)[0]
        cut = evaluate([step], TRACE, scope.graph, chunk=1)[0]
        assert np.array_equal(whole, cut, equal_nan=step.kind == "number")
    part_at(text, len(text) // 2)
    word_before(text, len(text))
    renamed(text, "hull", "body")


if __name__ == "__main__":
    atheris.Setup(sys.argv, once)
    atheris.Fuzz()
