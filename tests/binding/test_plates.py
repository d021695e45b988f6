"""The recording chooses the plate: the first whose rule is true, at every frame; a rule that is broken chooses none."""

from __future__ import annotations

import numpy as np
from msgspec.structs import replace

from avrin.binding.binding import bind
from avrin.binding.declarations import rename
from avrin.binding.places import RulePlace
from avrin.binding.tracks import Tracks
from avrin.project.project import Plate, Project, Variable
from avrin.trace.frames import Column, Trace

REEF = Plate(name="reef", picture="reef.png", when="depth < 20")
WRECK = Plate(name="wreck", picture="wreck.png", when="depth < 50")
NEVER = Plate(name="cave", picture="cave.png")
GAME = Project(variables=(Variable(name="depth", type="float"),), plates=(NEVER, REEF, WRECK))
TRACE = Trace.make("t", np.arange(4) / 10, {"depth": Column("number", np.array([5.0, 30.0, 70.0, np.nan]))})


def shown(project: Project) -> list[str]:
    tracks = Tracks(bind(project), TRACE)
    return [plate.name if (plate := tracks.plate(frame)) is not None else "" for frame in range(4)]


def test_the_first_whose_rule_is_true_is_shown() -> None:
    assert shown(GAME) == ["reef", "wreck", "", ""]
    assert shown(replace(GAME, plates=(WRECK, REEF))) == ["wreck", "wreck", "", ""]


def test_a_broken_rule_is_reported_at_its_place_and_chooses_nothing() -> None:
    broken = replace(GAME, plates=(replace(REEF, when="dept < 20"), WRECK))
    assert str(bind(broken).errors[RulePlace("plate", "reef", "when")]).count("depth") == 1
    assert shown(broken) == ["wreck", "wreck", "", ""]


def test_its_rule_follows_a_rename() -> None:
    made = rename(GAME, "depth", "how_deep")
    assert [plate.when for plate in made.plates] == ["", "how_deep < 20", "how_deep < 50"]
