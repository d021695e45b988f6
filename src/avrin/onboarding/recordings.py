"""Add recordings to a project: names for their columns, and declarations from the recorded values."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from pathlib import PurePath

from msgspec.structs import replace

from avrin.binding.declarations import all_declared
from avrin.errors import AvrinError
from avrin.project.project import Project, Recording
from avrin.project.unique_names import unique_names
from avrin.trace.frames import Trace
from avrin.trace.naming import Naming, proposed, with_project_names

__all__ = ["begun", "listed_as", "named_like", "taken_in"]

TITLE = "Untitled"


def begun(recordings: Sequence[tuple[Recording, Trace]], title: str = TITLE) -> tuple[Project, list[Trace]]:
    """Return a project over some recordings, and each recording under the project's names.

    recordings: with the names in their files. Raises AvrinError.
    """
    project = Project(title=title)
    traces: list[Trace] = []
    for recording, trace in recordings:
        project, named = taken_in(project, recording, trace)
        traces.append(named)
    return project, traces


def taken_in(project: Project, recording: Recording, trace: Trace) -> tuple[Project, Trace]:
    """Return the project with one more recording, everything in it declared, and the recording under the project's names.

    trace: with the names in its file. Names the project knows are kept, mappings of other recordings are
    reused, the rest is proposed.
    """
    names = {**named_like(project, trace).names, **recording.names}
    named = with_project_names(trace, names)
    listed = replace(recording, names={own: new for own, new in names.items() if own in trace.columns})
    others = tuple(one for one in project.traces if one.path != recording.path)
    return all_declared(replace(project, traces=(*others, listed)), named), named


def named_like(project: Project, trace: Trace) -> Naming:
    """Return project names for a recording's columns. trace: with the names in its file."""
    known = project.all_variables()
    before: dict[str, str] = {}
    for listed in project.traces:
        for own, new in listed.names.items():
            before.setdefault(own, new)
    same = {own: before[own] for own in trace.columns if own in before and own not in known and before[own] in known}
    rest = {name: column for name, column in trace.columns.items() if name not in known and name not in same}
    taken = {
        *(v.name for v in project.variables),
        *(d.name for d in project.derived),
        *(r.name for r in project.rosters),
    }
    found = proposed(rest, taken)
    return replace(found, names={**same, **found.names})


def listed_as(paths: Iterable[PurePath], taken: Iterable[str] = ()) -> list[str]:
    """Return paths in a project's folder for external recordings: `traces/` and an unused name.

    Equal file names are disambiguated by their folders. taken: used paths. Raises AvrinError for a name that
    no file can have.
    """
    files, used, found = list(paths), {path.lower() for path in taken}, []
    for path, apart in zip(files, unique_names(files), strict=True):
        stem = apart.replace("/", "-").removesuffix(path.suffix) or path.stem
        if not path.suffix:
            raise AvrinError("has no file ending", place=(path.name,))
        name, number = f"traces/{stem}{path.suffix}", 2
        while name.lower() in used:
            name, number = f"traces/{stem}-{number}{path.suffix}", number + 1
        used.add(name.lower())
        found.append(name)
    return found
