"""`avrin merge`: merge two versions of a project; usable as git's merge driver."""

from __future__ import annotations

import argparse
from pathlib import Path

from avrin.printable import one_line
from avrin.project.project import Project
from avrin.storage.files import load, save
from avrin.storage.merge import conflict_title, merged, value_words

__all__ = ["add_arguments"]


def add_arguments(parser: argparse.ArgumentParser) -> None:
    """Add the command's arguments."""
    parser.set_defaults(run=_merge)
    parser.add_argument("base", type=Path, metavar="BASE", help="the common ancestor; an empty file for none")
    parser.add_argument("ours", type=Path, metavar="OURS", help="our version, replaced by the merged one")
    parser.add_argument("theirs", type=Path, metavar="THEIRS", help="their version")
    parser.add_argument("--out", type=Path, metavar="F", help="write the merged project here instead")


def _merge(arguments: argparse.Namespace) -> int:
    base, ours, theirs = (_version(path) for path in (arguments.base, arguments.ours, arguments.theirs))
    project = merged(base, ours, theirs)
    save(project, arguments.out or arguments.ours)
    for conflict in project.conflicts:
        sides = f"ours {value_words(conflict.ours)}, theirs {value_words(conflict.theirs)}"
        print(one_line(f"{conflict_title(conflict)}: {sides}"))
    if project.conflicts:
        count = len(project.conflicts)
        print(f"{count} conflict{'s' if count > 1 else ''}: ours is used; open the project to choose")
    return 1 if project.conflicts else 0


def _version(path: Path) -> Project:
    """Load a version; an empty file, as git gives for one that did not exist, is an empty project. Raises AvrinError."""
    if path.is_file() and not path.stat().st_size:
        return Project(title="")
    return load(path)[0]
