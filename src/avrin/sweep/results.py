"""The tables of a sweep, merged from its parts in the order of the recordings, in constant memory."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterator, Sequence
from contextlib import contextmanager
from pathlib import Path
from typing import NamedTuple

import pyarrow as pa
import pyarrow.parquet as pq
from msgspec.structs import replace

from avrin.errors import AvrinError
from avrin.storage.atomic import atomic_file
from avrin.storage.folders import folder_for
from avrin.sweep.part_index import Where
from avrin.sweep.parts import STATES, Entry, Found, contents

__all__ = ["FAULTS", "FINDINGS", "check_outputs", "outputs", "put_together"]

ROWS = 100_000  # of a row group, independent of the parts
LATEST = 4  # parts cached in memory
FINDINGS = pa.schema(
    [
        ("recording", pa.string()), ("code", pa.string()), ("severity", pa.string()), ("widget", pa.string()),
        ("input", pa.string()), ("at", pa.float64()), ("sentence", pa.string()),
    ]
)  # fmt: skip
FAULTS = pa.schema([("recording", pa.string()), ("why", pa.string())])


def outputs(out: Path) -> tuple[Path, Path]:
    """Return the paths for findings and errors, next to the states."""
    return out.with_name(f"{out.stem}.findings{out.suffix}"), out.with_name(f"{out.stem}.faults{out.suffix}")


def check_outputs(out: Path) -> None:
    """Check that writing the tables overwrites no other file. Raises AvrinError."""
    for path, schema in zip((out, *outputs(out)), (STATES, FINDINGS, FAULTS), strict=True):
        try:
            known = pq.read_schema(path).names if path.exists() else schema.names
        except (OSError, pa.ArrowException):
            known = []
        if known != schema.names:
            raise AvrinError(
                "was not written by a sweep and would be overwritten", place=(str(path),),
                advice="Choose another name", command="Choose another --out",
            )  # fmt: skip


def put_together(where: Where, out: Path) -> int:
    """Write all tables and return the number of unreadable recordings. where: the part of each recording.

    Raises OSError if writing fails.
    """
    findings, faults = outputs(out)
    shared, wrong = _Shared(), 0
    with _written(folder_for(out), STATES) as states, _written(faults, FAULTS) as project_findings:
        for one in _each(where):
            states.add(one.states)
            shared.hear(one)
            if one.entry.fault:
                project_findings.add(pa.table([[one.entry.name], [one.entry.fault]], schema=FAULTS))
                wrong += 1
    with _written(findings, FINDINGS) as table:
        table.add(_rows(shared.project_findings()))
        for one in _each(where) if shared.others else ():
            table.add(_rows([each for each in one.findings if _is_its_own(each)]))
    return wrong


class _Told(NamedTuple):
    """The results of one recording."""

    entry: Entry
    states: pa.Table
    findings: Sequence[Found]


def _each(where: Where) -> Iterator[_Told]:
    """Yield all recordings in order, from any parts."""
    latest: dict[Path, dict[str, _Told]] = {}
    for place, path in where.each():
        if path not in latest:
            latest[path] = _of_part(path)
            if len(latest) > LATEST:
                latest.pop(next(iter(latest)))
        yield latest[path][place.name]


def _of_part(path: Path) -> dict[str, _Told]:
    part, states, findings = contents(path)
    project_findings, row, number = {}, 0, 0
    for entry in part.entries:
        mine = states.slice(row, entry.rows), findings[number : number + entry.findings]
        project_findings[entry.name] = _Told(entry, *mine)
        row, number = row + entry.rows, number + entry.findings
    return project_findings


def _is_its_own(finding: Found) -> bool:
    """Return whether a finding concerns its recording rather than the project or all recordings."""
    return finding.moment and not finding.everywhere


class _Shared:
    """Findings of the project, without duplicates; those that must hold everywhere only if they do."""

    def __init__(self) -> None:
        self.others = False  # whether any findings concern a recording
        self._recordings = 0
        self._first: dict[tuple[str, tuple[str, str, str]], Found] = {}
        self._times: Counter[tuple[str, tuple[str, str, str]]] = Counter()

    def hear(self, results: _Told) -> None:
        """Add the results of one recording."""
        self._recordings += not results.entry.fault
        self.others = self.others or any(map(_is_its_own, results.findings))
        mine = {(one.code, one.key): one for one in reversed(results.findings) if not _is_its_own(one)}
        for key, one in reversed(mine.items()):
            self._first.setdefault(key, one)
            self._times[key] += 1

    def project_findings(self) -> list[Found]:
        """Return the remaining findings, which belong to no recording."""
        return [
            replace(one, recording="", at=None)
            for key, one in self._first.items()
            if not one.everywhere or self._times[key] == self._recordings
        ]


def _rows(findings: Sequence[Found]) -> pa.Table:
    return pa.table([[getattr(one, name) for one in findings] for name in FINDINGS.names], schema=FINDINGS)


class _Table:
    """Rows collected into row groups of one size. Created by `_written`."""

    def __init__(self, writer: pq.ParquetWriter) -> None:
        self._writer, self._waiting, self._rows = writer, list[pa.Table](), 0

    def add(self, rows: pa.Table) -> None:
        """Append rows."""
        self._waiting.append(rows)
        self._rows += rows.num_rows
        while self._rows >= ROWS:
            self._write(ROWS)

    def end(self) -> None:
        """Write the remaining rows."""
        if self._rows:
            self._write(self._rows)

    def _write(self, count: int) -> None:
        every = pa.concat_tables(self._waiting)
        self._writer.write_table(every.slice(0, count).combine_chunks(), row_group_size=count)
        self._waiting, self._rows = [every.slice(count)], self._rows - count


@contextmanager
def _written(path: Path, schema: pa.Schema) -> Iterator[_Table]:
    """Write a Parquet table atomically."""
    with atomic_file(path) as file, pq.ParquetWriter(file, schema) as writer:
        table = _Table(writer)
        yield table
        table.end()
