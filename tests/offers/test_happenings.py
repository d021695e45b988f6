"""Which events a recording of columns suggests: by what the columns do, with names second."""

from __future__ import annotations

import pytest

from avrin.kinds.subject import Seen
from avrin.offers.happenings import happenings
from avrin.project.project import EventKind, Project, Roster, Variable
from avrin.trace.frames import Column, Event, Trace, Value

WHO: list[Value] = [None, "Ona", "Ona", "Ona", "Teo", "Teo", "Ona", "Ona"]
WHOM: list[Value] = [None, "Teo", "Teo", "Teo", "Mika", "Mika", "Mika", "Mika"]
COUNT: list[Value] = [0, 1, 1, 2, 3, 3, 4, 4]
CELLS = {"x": [*[0] * 10, *[1] * 6] * 2, "y": [*[5] * 14, 4, 4] * 2}


def suggested(
    columns: dict[str, list[Value]], recorded: list[Event] | None = None, **more: object
) -> dict[str, tuple[str, ...]]:
    trace = Trace.make("t", list(range(len(next(iter(columns.values()))))), {n: Column.of(v) for n, v in columns.items()},
                       events=recorded or [])  # fmt: skip
    types = {"number": "int", "text": "text", "flag": "bool"}
    variables = tuple(
        Variable(name=name, type=types[column.kind])  # type: ignore[arg-type]
        for name, column in trace.columns.items() if "[" not in name
    )  # fmt: skip
    found = happenings(Project(variables=variables, **more), Seen(trace))  # type: ignore[arg-type]
    return {one.event.name: (one.event.when, *one.event.values.values()) for one in found}


@pytest.mark.parametrize(
    ("columns", "expected"),
    [
        # A count that steps with two texts is preferred: it sees the second of two equal ones.
        ({"killer": WHO, "victim": WHOM, "kill_id": COUNT}, {"kill": ("changed(kill_id)", "killer", "victim")}),
        # Odd names: the count is found by what it does.
        ({"lastAttacker": WHO, "target_name": WHOM, "zz": COUNT}, {"zz": ("changed(zz)", "lastAttacker", "target_name")}),
        # Names that no event may have are not taken over.
        ({"killer": WHO, "victim": WHOM, "if_": COUNT}, {"defeat": ("changed(if_)", "killer", "victim")}),
        ({"killer": WHO, "victim": WHOM, "a2_kills": COUNT}, {"a_2_kill": ("changed(a2_kills)", "killer", "victim")}),
        # Without a count, the texts alone, and only where there is one.
        ({"killer": WHO, "victim": WHOM},
         {"defeat": ("(changed(killer) or changed(victim)) and length(killer) > 0", "killer", "victim")}),
        # A count that falls is compared, not only looked at.
        ({"killer": WHO, "victim": WHOM, "combo": [0, 1, 1, 2, 3, 3, 4, 2]},
         {"combo": ("change(combo) > 0", "killer", "victim")}),
        # One that steps far more often counts something else.
        ({"last_message": [None, "a", "a", "a", "b", "b", "b", "b"], "frames": [0, 1, 2, 3, 4, 5, 6, 7]},
         {"news": ("changed(last_message) and length(last_message) > 0", "last_message")}),
        # Texts that say what is, and texts that do not change together, are no events.
        ({"phase": ["dive", "dock"] * 4, "weapon": ["a", "b"] * 4}, {}),
        ({"killer": WHO, "victim": [None, None, "Teo", None, None, "Mika", None, None]}, {}),
        ({"player_x": CELLS["x"], "player_y": CELLS["y"]}, {"player_step": ("changed(player_x) or changed(player_y)",)}),
        ({"col": CELLS["x"], "row": CELLS["y"]}, {"step": ("changed(col) or changed(row)",)}),
        # What moves all the time, in fractions or in space, is not in cells.
        ({"x": list(range(16)), "y": list(range(16))}, {}),
        ({"x": [value + 0.5 for value in CELLS["x"]], "y": CELLS["y"]}, {}),
        ({"x": CELLS["x"], "y": CELLS["y"], "z": CELLS["y"]}, {}),
        ({"killer": WHO[:1], "victim": WHOM[:1], "x": [1], "y": [1]}, {}),
    ],
)  # fmt: skip
def test_events_are_suggested_by_what_columns_do(
    columns: dict[str, list[Value]], expected: dict[str, tuple[str, ...]]
) -> None:
    assert suggested(columns) == expected


def test_each_who_scores_is_an_event_if_nobody_loses_points() -> None:
    fields = (Variable(name="name", type="text"), Variable(name="frags", type="int"))
    roster = Roster(name="p", slots=2, fields=fields)
    columns: dict[str, list[Value]] = {
        "p[0].name": ["Ona"] * 4, "p[1].name": ["Teo"] * 4, "p[0].frags": [0, 1, 1, 2], "p[1].frags": [0, 0, 0, 0],
    }  # fmt: skip
    assert suggested(columns, rosters=(roster,)) == {
        "frag_up": ("change(p[slot].frags) > 0", "p[slot].name", "change(p[slot].frags)")
    }
    assert suggested({**columns, "p[1].frags": [3, 3, 2, 2]}, rosters=(roster,)) == {}
    unnamed = Roster(name="p", slots=2, fields=fields[1:])
    assert suggested(columns, rosters=(unnamed,)) == {}


def test_what_is_recorded_or_derived_already_is_not_suggested() -> None:
    columns: dict[str, list[Value]] = {"killer": WHO, "victim": WHOM, "kill_id": COUNT}
    assert suggested(columns, [Event(1.0, "kill")]) == {}
    assert suggested(columns, events=(EventKind(name="defeat", when="rose(killer == victim)"),)) == {}
