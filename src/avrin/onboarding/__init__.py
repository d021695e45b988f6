"""From recordings to a first HUD: names and rosters, declarations, placed widgets. Knows no Qt."""

from avrin.onboarding.first_hud import first_hud, with_room
from avrin.onboarding.matching import Difference, differences
from avrin.onboarding.recordings import begun, listed_as, named_like, taken_in
from avrin.onboarding.rosters import found_by, rename_roster, widened, with_roster, without_roster
from avrin.onboarding.sizing import sized

__all__ = [
    "Difference",
    "begun",
    "differences",
    "first_hud",
    "found_by",
    "listed_as",
    "named_like",
    "rename_roster",
    "sized",
    "taken_in",
    "widened",
    "with_room",
    "with_roster",
    "without_roster",
]
