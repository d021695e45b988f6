"""`avrin check`: a project over recordings, for a build server that refuses a broken HUD."""

from __future__ import annotations

import argparse
import functools
import os
import sys
from collections.abc import Callable
from pathlib import Path
from typing import Any

from avrin.commands.shared import loaded, progress, recordings
from avrin.model import AvrinError, Project, write

__all__ = ["add_check"]


def add_check(parser: argparse.ArgumentParser) -> None:
    """The command's arguments."""
    parser.set_defaults(run=_check)
    parser.add_argument("project", type=Path, metavar="P")
    parser.add_argument("--trace", type=Path, action="append", default=[], metavar="T",
                        help="a recording, or a folder of them; may be said again; the project's own if unsaid")  # fmt: skip
    parser.add_argument("--format", choices=("text", "json", "sarif", "junit"), default="text")
    parser.add_argument("--fail-on", choices=("error", "warning", "hint", "never"), default="warning",
                        help="the least severity for which the exit status is 1 (%(default)s)")  # fmt: skip
    parser.add_argument("--out", type=Path, metavar="F", help="a file; standard output if unsaid")
    parser.add_argument(
        "--jobs", type=int, default=0, metavar="N", help="processes; as many as there are cores if unsaid"
    )


def _check(arguments: argparse.Namespace) -> int:
    from avrin.audit import CHECKS, hushed
    from avrin.audit.batch import inspect_all
    from avrin.audit.reports import REPORTS, Report

    path: Path = arguments.project
    project = loaded(path)
    sources = _sources(project, path, arguments.trace)
    jobs = arguments.jobs or len(os.sched_getaffinity(0))
    found = inspect_all(CHECKS, path, sources, jobs, progress)
    quiet = hushed(project, found)
    told = [finding for finding in found if finding not in quiet]
    report = Report(
        project.title, path.name, path.read_text(encoding="utf-8").splitlines(), CHECKS, told, quiet,
        None if arguments.fail_on == "never" else arguments.fail_on, _times(project, sources),
    )  # fmt: skip
    _write(REPORTS[arguments.format](report), arguments.out)
    return int(any(report.fails(finding) for finding in told))


def _sources(project: Project, path: Path, wanted: list[Path]) -> list[Any]:
    """The recordings that are asked for, with the time told as the project says. Raises AvrinError where there is none."""
    from avrin.audit.batch import Source
    from avrin.trace import ENDINGS

    files: list[Path] = []
    for one in wanted:
        if one.is_dir():
            inner = sorted(file for file in one.iterdir() if file.suffix.lower() in ENDINGS and not _is_events(file))
            if not inner:
                raise AvrinError(
                    f"there are no recordings in {one}", advice=f"A recording ends in {', '.join(ENDINGS)}"
                )
            files += inner
        else:
            files.append(one)
    return [Source(*source) for source in recordings(project, path, files if wanted else None)]


def _is_events(file: Path) -> bool:
    """Whether a file holds the events of the recording beside it."""
    return file.name.endswith(".events.jsonl")


def _times(project: Project, sources: list[Any]) -> Callable[[str, int], float | None]:
    """Seconds of a frame, looked up in the recording of a name when first asked."""
    from avrin.trace import Trace, open_listed

    named = {source.name: source for source in sources}

    @functools.cache
    def opened(name: str) -> Trace | None:
        source = named.get(name)
        return open_listed(source.path, project.all_variables(), source.listed, name) if source is not None else None

    def seconds(name: str, frame: int) -> float | None:
        trace = opened(name)
        return None if trace is None else round(float(trace.axis[min(frame, len(trace) - 1)]), 3)

    return seconds


def _write(content: str, out: Path | None) -> None:
    if out is None:
        sys.stdout.write(content)
        return
    write(out, content.encode())
