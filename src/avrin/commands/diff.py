"""`avrin diff`: what a change changed, in the file and over recordings."""

from __future__ import annotations

import argparse
import sys
from pathlib import Path
from typing import TYPE_CHECKING

from avrin.commands.shared import recordings
from avrin.model import AvrinError

if TYPE_CHECKING:
    from avrin.comparing import Stretch
    from avrin.widgets import Tracks

__all__ = ["add_diff"]


def add_diff(parser: argparse.ArgumentParser) -> None:
    """The command's arguments."""
    parser.set_defaults(run=_diff)
    parser.add_argument("old", metavar="OLD", help="a project, or FILE@REVISION of a git repository")
    parser.add_argument("new", metavar="NEW", nargs="?", help="likewise; unsaid, OLD is told alone, a line an entry")
    parser.add_argument("--trace", type=Path, action="append", metavar="T",
                        help="a recording; may be said again; NEW's own if unsaid")  # fmt: skip
    parser.add_argument(
        "--format", choices=("text", "json", "junit", "html"), default="text", help="how it is told (text)"
    )
    parser.add_argument("--out", type=Path, metavar="F", help="a file; standard output if unsaid")


def _diff(arguments: argparse.Namespace) -> int:
    from avrin.comparing import DIFFS, Difference, both_bound, entries, page, project_at, stretches
    from avrin.model import write
    from avrin.trace import open_listed
    from avrin.widgets import Tracks as Over

    if arguments.new is None:
        return _alone(arguments)
    (old, old_file), (new, new_file) = project_at(arguments.old), project_at(arguments.new)
    listed = recordings(new, new_file, arguments.trace)
    declared = {**old.all_variables(), **new.all_variables()}
    traces = [open_listed(file, declared, one, name) for file, one, name in listed]
    folders = (old_file.absolute().parent, new_file.absolute().parent)
    before, after = both_bound(old, new, traces, folders)
    for bound, said in ((before, arguments.old), (after, arguments.new)):
        try:
            bound.raise_first()
        except AvrinError as error:
            raise error.within(str(said)) from None
    found: list[Stretch] = []
    tracks: dict[str, tuple[Tracks, Tracks]] = {}
    for trace in traces:
        there = Over(before, trace)
        tracks[trace.name] = there, Over(after, trace, there)
        found += stretches(*tracks[trace.name])
    difference = Difference(f"{arguments.old} and {arguments.new}", entries(old, new), found)
    if arguments.format == "html":
        told = page(difference, lambda one: _pair(one, *tracks[one.trace], folders))
    else:
        told = DIFFS[arguments.format](difference)
    if arguments.out is not None:
        write(arguments.out, told.encode())
    else:
        sys.stdout.write(told)
    return int(bool(difference))


def _alone(arguments: argparse.Namespace) -> int:
    """One project as lines that line by line tools compare."""
    from avrin.comparing import flat, project_at
    from avrin.model import write

    told = flat(project_at(arguments.old)[0]).encode()
    if arguments.out is not None:
        write(arguments.out, told)
    else:
        sys.stdout.write(told.decode())
    return 0


def _pair(stretch: Stretch, old: Tracks, new: Tracks, folders: tuple[Path, Path]) -> tuple[str, str]:
    """The HUD before and after at a stretch's first frame, each on its first screen over the plate there."""
    return _drawn(old, stretch.start, folders[0]), _drawn(new, stretch.start, folders[1])


def _drawn(tracks: Tracks, frame: int, folder: Path) -> str:
    from avrin.comparing import side
    from avrin.model import Screen

    project = tracks.bound.project
    screen = next(iter(project.whole_screens), Screen(name="reference", size=project.reference))
    return side(tracks, frame, screen, tracks.plate(frame) or next(iter(project.plates), None), folder)
