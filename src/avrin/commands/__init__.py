"""Commands of the command line with more than a few lines, one module each, and what they share."""

from avrin.commands.check import add_check
from avrin.commands.diff import add_diff
from avrin.commands.frame import add_frame
from avrin.commands.ladder import add_ladder
from avrin.commands.new import add_new
from avrin.commands.screens import add_screens
from avrin.commands.sweep import add_sweep
from avrin.commands.texts import add_texts
from avrin.commands.trace import add_trace_commands
from avrin.commands.tune import add_tune

__all__ = [
    "add_check",
    "add_diff",
    "add_frame",
    "add_ladder",
    "add_new",
    "add_screens",
    "add_sweep",
    "add_texts",
    "add_trace_commands",
    "add_tune",
]
