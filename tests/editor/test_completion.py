"""What a rule is completed with: what contains the typed text, what begins with it first."""

from __future__ import annotations

import numpy as np
import pytest

from avrin.editor.completion import entries
from avrin.editor.opening import begin
from avrin.editor.snapshot import Snapshot
from avrin.project.project import Derived, Project, Variable
from avrin.trace.frames import Column, Trace

NOW = begin(
    Snapshot.empty(), None,
    Project(
        variables=(Variable(name="hull", type="float", low=0, high=100, unit="%"), Variable(name="hull_max", type="float")),
        derived=(Derived(name="ratio", rule="hull / hull_max"),),
    ),
    None, Trace.make("a", np.zeros(1), {name: Column("number", np.array([50.0])) for name in ("hull", "overhull", "no name")}),
)  # fmt: skip


@pytest.mark.parametrize(
    ("begun", "offered"),
    [
        ("hul", ["hull", "hull_max", "overhull"]),
        ("HUL", ["hull", "hull_max", "overhull"]),
        ("hull", ["hull", "hull_max", "overhull"]),  # typed completely, it is still first: Enter takes it
        ("hull_max", []),  # nothing else to offer
        ("rati", ["ratio"]),
        ("no na", []),  # no rule can name it
        ("clam", ["clamp"]),
        ("an", ["and"]),
        ("and", []),
        ("zzz", []),
    ],
)
def test_what_is_offered(begun: str, offered: list[str]) -> None:
    found = [entry.text for entry in entries(NOW, begun)]
    assert found[: len(offered)] == offered
    assert bool(found) == bool(offered)


def test_each_says_its_value_and_what_it_is() -> None:
    hull, *_, over = entries(NOW, "hull")
    assert (hull.beside, hull.help, hull.call) == ("50 %", "float, 0 to 100", False)
    assert over.help == "recorded; declared when it is used"
    (ratio,) = entries(NOW, "rati")
    assert ratio.help == "is hull / hull_max"
    (clamp,) = entries(NOW, "clamp")
    assert clamp.call
    assert clamp.beside.startswith("(")
    assert {entry.text[0] for entry in entries(NOW, "@")} == {"@"}
