"""Work over many recordings: where they lie, and who does it: a loop, processes of this machine, or a cluster."""

from avrin.spread.bundle import Bundle, bundled, program, unpacked
from avrin.spread.crew import crew, usual_jobs
from avrin.spread.places import Place, at_hand, places, stamp
from avrin.spread.work import Crew, Lost

__all__ = [
    "Bundle",
    "Crew",
    "Lost",
    "Place",
    "at_hand",
    "bundled",
    "crew",
    "places",
    "program",
    "stamp",
    "unpacked",
    "usual_jobs",
]
