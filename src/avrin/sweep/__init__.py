"""Sweeps of a project over thousands of recordings: states, findings and errors of each."""

from avrin.sweep.parts import STATES
from avrin.sweep.results import FAULTS, FINDINGS, outputs
from avrin.sweep.state_table import OfWidget, Outline, Shown, outline
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
