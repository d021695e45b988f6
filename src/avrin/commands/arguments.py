"""Arguments of several commands, and their progress bar. Does not load NumPy, which every start of a command would wait for."""

from __future__ import annotations

import argparse
import sys
from pathlib import Path

from avrin.trace.formats import ENDINGS_IN_WORDS

__all__ = ["add_clock", "add_trace", "progress"]


def add_trace(parser: argparse.ArgumentParser) -> None:
    """Add the arguments for a recording and its time."""
    parser.add_argument("--trace", type=Path, required=True, metavar="T", help=f"a recording, {ENDINGS_IN_WORDS}")
    add_clock(parser)


def add_clock(parser: argparse.ArgumentParser) -> None:
    """Add the arguments for a recording's time, to override guesses."""
    parser.add_argument("--time", default="", metavar="COL", help="the time column")
    parser.add_argument("--unit", default="", choices=("s", "ms", "us", "frames"), help="the unit of the time column")
    parser.add_argument("--rate", type=float, default=0.0, metavar="N", help="frames per second, for a time in frames")
    parser.add_argument(
        "--run",
        dest="runs",
        default="",
        metavar="COL",
        help="the run column, none, or restarts: one begins wherever the time starts over",
    )


def progress(done: int, of: int, seconds_left: float | None = None) -> None:
    """Show a progress bar on a terminal. seconds_left: estimated seconds remaining."""
    if of < 2 or not sys.stderr.isatty():
        return
    wide = 40
    filled = round(wide * done / of)
    end = "\n" if done == of else ""
    rest = "" if seconds_left is None or done == of else f", {_minutes(seconds_left)} left"
    line = f"{'█' * filled}{'░' * (wide - filled)} {done} of {of}{rest}"
    print(f"\r{line:<{wide + 30}}", end=end, file=sys.stderr, flush=True)


def _minutes(seconds: float) -> str:
    minutes = seconds / 60
    return f"{minutes / 60:.1f} h" if minutes >= 90 else f"{minutes:.0f} min" if minutes >= 1 else "less than a minute"
