"""`avrin new`: create a project over recordings with everything declared, without a window."""

from __future__ import annotations

import argparse
from pathlib import Path

from avrin.commands.arguments import add_clock
from avrin.errors import AvrinError
from avrin.onboarding.first_hud import first_hud
from avrin.onboarding.recordings import begun, listed_as
from avrin.project.project import Recording
from avrin.storage.files import dumps, loads, save
from avrin.storage.folders import folder_for
from avrin.trace.clock import Clock
from avrin.trace.copying import beside, copy_file, files_of
from avrin.trace.formats import ENDINGS_IN_WORDS
from avrin.trace.store import open_trace

__all__ = ["add_arguments"]


def add_arguments(parser: argparse.ArgumentParser) -> None:
    """Add the command's arguments."""
    parser.set_defaults(run=_new)
    parser.add_argument("project", type=Path, metavar="P", help="a new .avrin file")
    parser.add_argument(
        "--trace",
        type=Path,
        action="append",
        default=[],
        metavar="T",
        help=f"a recording, {ENDINGS_IN_WORDS}; may be said again",
    )
    parser.add_argument("--first-hud", action="store_true", help="add a first HUD of six widgets")
    parser.add_argument("--title", default="", metavar="TEXT", help="the project's title; its file's name by default")
    add_clock(parser)


def _new(arguments: argparse.Namespace) -> int:
    path: Path = arguments.project
    if path.suffix != ".avrin":
        raise AvrinError(f"'{path.name}' is not a project file name", advice="Use the ending .avrin")
    if path.exists():
        raise AvrinError("already exists", place=(str(path),), advice="Choose another name, or open it")
    if arguments.first_hud and not arguments.trace:
        raise AvrinError("a first HUD needs a recording", advice="Name one with --trace")
    folder = path.absolute().parent
    files: list[Path] = arguments.trace
    outside = [file for file in files if not file.resolve().is_relative_to(folder.resolve())]
    taken = [f"traces/{one.name}" for one in (folder / "traces").iterdir()] if (folder / "traces").is_dir() else []
    copies = dict(zip(outside, listed_as([file.absolute() for file in outside], taken), strict=True))
    names = [copies.get(file) or file.resolve().relative_to(folder.resolve()).as_posix() for file in files]
    if len(set(names)) < len(names):
        raise AvrinError("a recording is named twice", advice="Name each once")
    clock = Clock(arguments.time, arguments.unit, arguments.rate, arguments.runs)
    listed = [Recording(path=name, time=clock.time, unit=clock.unit, rate=clock.rate, run=clock.run) for name in names]
    traces = [open_trace(file, None, clock) for file in files]
    project, named = begun(list(zip(listed, traces, strict=True)), arguments.title or path.stem)
    if arguments.first_hud:
        project = first_hud(project, named[0])
    project, _ = loads(dumps(project).encode())  # verify that the written file can be read
    folder_for(path)
    for file, name in copies.items():
        for one in files_of(file):
            copy_file(one, folder / name if one == file else beside(folder / name))
    save(project, path)
    rosters = "".join(f", roster {one.name} of {one.slots}" for one in project.rosters)
    widgets = f", {len(project.widgets)} widgets" if project.widgets else ""
    print(f"{path}: {len(project.variables)} variables{rosters}{widgets}")
    return 0
