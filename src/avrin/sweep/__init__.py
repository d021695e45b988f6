"""A project over thousands of recordings: which states each showed, what is found in each, what could not be read."""

from avrin.sweep.parts import STATES
from avrin.sweep.results import FAULTS, FINDINGS, outputs
from avrin.sweep.shown import OfWidget, Outline, Shown, outline
from avrin.sweep.sweeping import Progress, Summary, Wanted, sweep

__all__ = [
    "FAULTS",
    "FINDINGS",
    "STATES",
    "OfWidget",
    "Outline",
    "Progress",
    "Shown",
    "Summary",
    "Wanted",
    "outline",
    "outputs",
    "sweep",
]
