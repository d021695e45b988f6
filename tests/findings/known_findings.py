"""What is found, word for word, in every seeded fault and in the troubled demo: written by this module, then read by a person."""

from __future__ import annotations

import json
import sys
import tempfile
from collections.abc import Iterable
from pathlib import Path
from typing import Any

if __name__ == "__main__":  # by hand: where the tests find what they share
    sys.path[:0] = [str(Path(__file__).parents[1]), str(Path(__file__).parents[2] / "src")]

from avrin.binding.binding import bind
from avrin.binding.tracks import Tracks
from avrin.demo.install import install_demo
from avrin.findings.finding import Finding
from avrin.findings.inspector import Inspector
from avrin.findings.registry import CHECKS
from avrin.storage.files import load
from avrin.trace.store import open_trace
from seeded import SEEDS, inspected

__all__ = ["KNOWN", "SORTS", "written"]

KNOWN = Path(__file__).parent / "known"


def _report(listed: Iterable[Finding]) -> list[dict[str, Any]]:
    """Findings as what they say, without what is left at its default."""
    rows = []
    for one in listed:
        row = {
            "code": one.code, "widget": one.widget, "short": one.short, "why": one.why, "advice": one.advice, "about": one.about,
            "input": one.input, "variable": one.variable, "trace": one.trace, "start": one.start, "end": one.end,
            "moments": [list(moment) for moment in one.moments], "screen": one.screen, "plate": one.plate,
            "fix": one.fix.label if one.fix is not None else "", "cause": list(one.cause or ()),
        }  # fmt: skip
        rows.append({key: value for key, value in row.items() if value not in ("", None, [])})
    return rows


def _seeds(_demo: Path) -> dict[str, list[dict[str, Any]]]:
    listed = {}
    for code, (seed, _) in SEEDS.items():
        with tempfile.TemporaryDirectory() as folder:
            listed[code] = _report(inspected(seed, Path(folder))[1])
    return listed


def _troubled(demo: Path) -> list[dict[str, Any]]:
    path = install_demo(demo, troubled=True)
    project, _ = load(path)
    declared = project.all_variables()
    traces = [open_trace(path.parent / one.path, declared) for one in project.traces]
    kinds = {name: args for trace in traces for name, args in trace.event_kinds.items()}
    bound = bind(project, events=kinds, folder=path.parent)
    return _report(Inspector(CHECKS).inspect(bound, [Tracks(bound, trace) for trace in traces]))


SORTS = {"seeds": _seeds, "troubled": _troubled}


def written(sort: str, demo: Path) -> str:
    """One sort as JSON, a value a line. demo: the sample's folder."""
    return json.dumps(SORTS[sort](demo), indent=1, ensure_ascii=False) + "\n"


if __name__ == "__main__":
    with tempfile.TemporaryDirectory() as made:
        for name in SORTS:
            (KNOWN / f"{name}.json").write_text(written(name, Path(made) / "b"))
