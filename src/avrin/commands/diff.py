"""`avrin diff`: differences of two projects, in the file and over recordings."""

from __future__ import annotations

import argparse
import functools
import sys
from collections.abc import Callable
from pathlib import Path

from msgspec.structs import replace

from avrin.binding.bound import Bound
from avrin.binding.tracks import Tracks
from avrin.commands.many import Many, add_many
from avrin.diff.entries import entries
from avrin.diff.flat import flat
from avrin.diff.page import page, side
from avrin.diff.pictures import PictureStretch, picture_stretches
from avrin.diff.reports import DIFFS, Difference
from avrin.diff.revisions import project_at
from avrin.diff.stretches import Stretch, both_bound, stretches
from avrin.errors import AvrinError
from avrin.execution.bundle import unpacked
from avrin.execution.event_discovery import Happening, discover_events
from avrin.execution.task import Task, asks_events, opened, seen_key, task
from avrin.project.project import Screen
from avrin.storage.files import write
from avrin.trace.frames import Trace

__all__ = ["add_arguments"]


def add_arguments(parser: argparse.ArgumentParser) -> None:
    """Add the command's arguments."""
    parser.set_defaults(run=_diff)
    parser.add_argument("old", metavar="OLD", help="a project, or FILE@REVISION of a git repository")
    parser.add_argument(
        "new", metavar="NEW", nargs="?", help="likewise; without it, OLD is printed alone, one line per entry"
    )
    parser.add_argument("--trace", type=Path, action="append", metavar="T",
                        help="a recording; repeatable; NEW's own by default")  # fmt: skip
    parser.add_argument(
        "--format", choices=("text", "json", "junit", "html"), default="text", help="output format (text)"
    )
    add_many(parser)
    parser.add_argument("--out", type=Path, metavar="F", help="a file; standard output by default")


def _diff(arguments: argparse.Namespace) -> int:
    if arguments.new is None:
        return _alone(arguments)
    (old, old_file), (new, new_file) = project_at(arguments.old), project_at(arguments.new)
    folders = (old_file.absolute().parent, new_file.absolute().parent)
    work = Many.of(arguments, new, arguments.trace, new_file)
    before = task(old, folders[0], {}, far=bool(arguments.on))
    with work.crew() as who:
        seen: Happening = {}
        work = replace(work, task=replace(work.task, more=old.all_variables()))
        if asks_events(old, folders[0]) or asks_events(new, folders[1]):
            discover_events(who, work.task, work.locations, seen)
        work, before = replace(work, task=replace(work.task, events=seen)), replace(before, events=seen)
        for bound, said in zip(_both(before, work.task), (arguments.old, arguments.new), strict=True):
            try:
                bound.raise_first()
            except AvrinError as error:
                raise error.within(str(said)) from None
        told_each = [told for _, told in work.gather(who, _otherwise, before)]
    found = [one for shown, _ in told_each for one in shown]
    pictures = [one for _, drawn in told_each for one in drawn]
    difference = Difference(f"{arguments.old} and {arguments.new}", entries(old, new), found, pictures)
    told = (
        page(difference, _pairs(before, work, folders))
        if arguments.format == "html"
        else DIFFS[arguments.format](difference)
    )
    if arguments.out is not None:
        write(arguments.out, told.encode())
    else:
        sys.stdout.write(told)
    return work.status or int(bool(difference))


_bound: dict[tuple[object, ...], tuple[Bound, Bound]] = {}  # the latest, in the worker's process


def _both(old: Task, new: Task) -> tuple[Bound, Bound]:
    """Return both projects, bound on one graph."""
    key = (old.bundle.digest, new.bundle.digest, seen_key(new.events))
    if key not in _bound:
        (before, there), (after, here) = unpacked(old.bundle), unpacked(new.bundle)
        _bound.clear()
        _bound[key] = both_bound(before, after, new.events, (there, here))
    return _bound[key]


def _tracks(new: Task, old: Task, trace: Trace) -> tuple[Tracks, Tracks]:
    before, after = _both(old, new)
    there = Tracks(before, trace)
    return there, Tracks(after, trace, there)


def _otherwise(new: Task, old: Task, trace: Trace) -> tuple[list[Stretch], list[PictureStretch]]:
    """Return the differences over one recording in values and in pictures; runs on any executor."""
    both = _tracks(new, old, trace)
    return list(stretches(*both)), picture_stretches(*both)


def _pairs(old: Task, work: Many, folders: tuple[Path, Path]) -> Callable[[Stretch], tuple[str, str]]:
    """Return a function that draws the HUD before and after at a stretch's first frame, each on its first screen."""
    named = {place.name: place for place in work.locations}

    @functools.lru_cache(maxsize=4)
    def tracks(name: str) -> tuple[Tracks, Tracks]:
        return _tracks(work.task, old, opened(work.task, named[name]))

    def pair(stretch: Stretch) -> tuple[str, str]:
        before, after = tracks(stretch.trace)
        return _drawn(before, stretch.start, folders[0]), _drawn(after, stretch.start, folders[1])

    return pair


def _alone(arguments: argparse.Namespace) -> int:
    """Print one project as lines for line-based diff tools."""
    told = flat(project_at(arguments.old)[0]).encode()
    if arguments.out is not None:
        write(arguments.out, told)
    else:
        sys.stdout.write(told.decode())
    return 0


def _drawn(tracks: Tracks, frame: int, folder: Path) -> str:
    project = tracks.bound.project
    screen = next(iter(project.whole_screens), Screen(name="reference", size=project.reference))
    return side(tracks, frame, screen, tracks.plate(frame) or next(iter(project.plates), None), folder)
