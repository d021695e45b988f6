"""An action written in one line: label, key, variable and change."""

from __future__ import annotations

import pytest

from avrin.binding.binding import bind
from avrin.edits.action_line import action_line, parse_action
from avrin.errors import AvrinError
from avrin.project.project import Project, Variable

VARIABLES = (
    Variable(name="hull", type="float"), Variable(name="lives", type="int"), Variable(name="leak", type="bool"),
    Variable(name="phase", type="text"), Variable(name="player.hp", type="int"),
)  # fmt: skip
NAMED = {one.name: one for one in VARIABLES}


@pytest.mark.parametrize(
    ("text", "label", "key", "sets", "to"),
    [
        ("Hit H hull -20", "Hit", "H", "hull", "hull - 20"),
        ("Hit a rock h hull −20", "Hit a rock", "H", "hull", "hull - 20"),
        ("Patch 2 hull + 12,5", "Patch", "2", "hull", "hull + 12.5"),
        ("Die lives", "Die", "", "lives", "lives - 1"),
        ("hull -5", "hull -5", "", "hull", "hull - 5"),
        ("lives", "lives", "", "lives", "lives - 1"),
        ("Full F5 hull = 100", "Full", "F5", "hull", "100"),
        ("Half Ctrl+H hull hull / 2", "Half", "Ctrl+H", "hull", "hull / 2"),
        ("Heal hull K hull = hull + lives", "Heal hull", "K", "hull", "hull + lives"),
        ("hull down D hull -5", "hull down", "D", "hull", "hull - 5"),
        ("Spring L leak on", "Spring", "L", "leak", "true"),
        ("Seal leak off", "Seal", "", "leak", "false"),
        ("Turn leak", "Turn", "", "leak", "not leak"),
        ('Win W phase = "won"', "Win", "W", "phase", '"won"'),
        ("Ouch 1 player.hp -3", "Ouch", "1", "player.hp", "player.hp - 3"),
        ("1 hull -1", "hull -1", "1", "hull", "hull - 1"),
        ("A hull -1", "A", "", "hull", "hull - 1"),  # one word before the variable is the label
    ],
)  # fmt: skip
def test_a_line_is_label_key_variable_and_change(text: str, label: str, key: str, sets: str, to: str) -> None:
    action = parse_action(text, NAMED)
    (change,) = action.does
    assert (action.label, action.key, change.set, change.to) == (label, key, sets, to)


@pytest.mark.parametrize(
    ("text", "words"),
    [
        ("", "no variable is named"), ("Hit H hul -20", "did you mean 'hull'?"), ("Hit H -20", "no variable is named"),
        ("Win W lives", "there is an action 'Win' already"), (f"{'x' * 61} hull", "1 to 60 letters"),
    ],
)  # fmt: skip
def test_what_is_no_action_is_refused_with_an_example(text: str, words: str) -> None:
    with pytest.raises(AvrinError, match=words):
        parse_action(text, NAMED, ["Win"])


@pytest.mark.parametrize("name", NAMED)
def test_the_line_to_begin_with_is_an_action_that_binds(name: str) -> None:
    kind = {"float": "number", "int": "number", "bool": "flag", "text": "text"}[NAMED[name].type]
    action = parse_action(action_line("Action 1", "1", name, kind), NAMED)
    assert (action.label, action.key) == ("Action 1", "1")
    assert not bind(Project(variables=VARIABLES, actions=(action,))).errors
