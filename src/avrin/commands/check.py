"""`avrin check`: run the checks over recordings, for build servers that reject a broken HUD."""

from __future__ import annotations

import argparse
import functools
import sys
from collections.abc import Callable
from pathlib import Path

from avrin.commands.arguments import progress
from avrin.commands.many import Many, add_many
from avrin.commands.shared import loaded
from avrin.errors import AvrinError
from avrin.execution.task import opened
from avrin.findings.batch import AT_ONCE, inspect_all
from avrin.findings.registry import CHECKS
from avrin.findings.reports import REPORTS, Report
from avrin.findings.suppression import suppressed
from avrin.storage.files import write
from avrin.trace.formats import ENDINGS, is_recording
from avrin.trace.frames import Trace

__all__ = ["add_arguments"]


def add_arguments(parser: argparse.ArgumentParser) -> None:
    """Add the command's arguments."""
    parser.set_defaults(run=_check)
    parser.add_argument("project", type=Path, metavar="P")
    parser.add_argument("--trace", type=Path, action="append", default=[], metavar="T",
                        help="a recording, or a folder of them; repeatable; the project's own by default")  # fmt: skip
    parser.add_argument("--format", choices=("text", "json", "sarif", "junit"), default="text")
    parser.add_argument("--fail-on", choices=("error", "warning", "hint", "never"), default="warning",
                        help="the least severity for which the exit status is 1 (%(default)s)")  # fmt: skip
    parser.add_argument("--out", type=Path, metavar="F", help="a file; standard output by default")
    add_many(parser)


def _check(arguments: argparse.Namespace) -> int:
    path: Path = arguments.project
    project = loaded(path)
    work = Many.of(arguments, project, arguments.trace and _files(arguments.trace))
    with work.crew(least=AT_ONCE, worth=AT_ONCE) as who:
        found = inspect_all(CHECKS, work.task, work.locations, who, progress, faulty=work.faulty)
    quiet = suppressed(project, found.findings)
    told = [finding for finding in found.findings if finding not in quiet]
    report = Report(
        project.title, path.name, path.read_text(encoding="utf-8").splitlines(), CHECKS, told, quiet,
        None if arguments.fail_on == "never" else arguments.fail_on, _times(work),
    )  # fmt: skip
    _write(REPORTS[arguments.format](report), arguments.out)
    work.leave_out(found.faults)
    return work.status or int(any(report.fails(finding) for finding in told))


def _files(wanted: list[Path]) -> list[Path]:
    """Return recordings, and those in folders. Raises AvrinError for an empty result."""
    files: list[Path] = []
    for one in wanted:
        if one.is_dir():
            inner = sorted(file for file in one.iterdir() if is_recording(file.name))
            if not inner:
                raise AvrinError(
                    f"there are no recordings in {one}", advice=f"Recordings have the endings {', '.join(ENDINGS)}"
                )
            files += inner
        else:
            files.append(one)
    return files


def _times(work: Many) -> Callable[[str, int], float | None]:
    """Return a function that gives a frame's seconds, reading the recording on first use."""
    named = {place.name: place for place in work.locations}

    @functools.lru_cache(maxsize=16)
    def trace_of(name: str) -> Trace | None:
        place = named.get(name)
        return opened(work.task, place) if place is not None else None

    def seconds(name: str, frame: int) -> float | None:
        trace = trace_of(name)
        return None if trace is None else round(float(trace.axis[min(frame, len(trace) - 1)]), 3)

    return seconds


def _write(content: str, out: Path | None) -> None:
    if out is None:
        sys.stdout.write(content)
        return
    write(out, content.encode())
