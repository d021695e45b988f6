"""The tables of a sweep, put together of its parts, in the order of the recordings, never all of it in memory."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterator, Sequence
from contextlib import contextmanager
from pathlib import Path
from typing import NamedTuple

import pyarrow as pa
import pyarrow.parquet as pq
from msgspec.structs import replace

from avrin.model import AvrinError, folder_for, whole_file
from avrin.sweep.parts import STATES, Entry, Found, contents
from avrin.sweep.where import Where

__all__ = ["FAULTS", "FINDINGS", "check_outputs", "outputs", "put_together"]

ROWS = 100_000  # of a group of rows: the same however the parts were cut
LATEST = 4  # parts that are held in memory
FINDINGS = pa.schema(
    [
        ("recording", pa.string()), ("code", pa.string()), ("severity", pa.string()), ("widget", pa.string()),
        ("input", pa.string()), ("at", pa.float64()), ("sentence", pa.string()),
    ]
)  # fmt: skip
FAULTS = pa.schema([("recording", pa.string()), ("why", pa.string())])


def outputs(out: Path) -> tuple[Path, Path]:
    """Where findings and faults are written, beside the states."""
    return out.with_name(f"{out.stem}.findings{out.suffix}"), out.with_name(f"{out.stem}.faults{out.suffix}")


def check_outputs(out: Path) -> None:
    """See that nothing else lies where the tables are to be written. Raises AvrinError."""
    for path, schema in zip((out, *outputs(out)), (STATES, FINDINGS, FAULTS), strict=True):
        try:
            known = pq.read_schema(path).names if path.exists() else schema.names
        except (OSError, pa.ArrowException):
            known = []
        if known != schema.names:
            raise AvrinError(
                "is something else than a sweep wrote, and would be written over", place=(str(path),),
                advice="Choose another name", command="Choose another --out",
            )  # fmt: skip


def put_together(where: Where, out: Path) -> int:
    """Write all tables. where: in which part each recording is told. Returns how many could not be read.

    Raises OSError where the disk does not take them.
    """
    findings, faults = outputs(out)
    shared, wrong = _Shared(), 0
    with _written(folder_for(out), STATES) as states, _written(faults, FAULTS) as told:
        for one in _each(where):
            states.add(one.states)
            shared.hear(one)
            if one.entry.fault:
                told.add(pa.table([[one.entry.name], [one.entry.fault]], schema=FAULTS))
                wrong += 1
    with _written(findings, FINDINGS) as table:
        table.add(_rows(shared.told()))
        for one in _each(where) if shared.others else ():
            table.add(_rows([each for each in one.findings if _is_its_own(each)]))
    return wrong


class _Told(NamedTuple):
    """What is told of one recording."""

    entry: Entry
    states: pa.Table
    findings: Sequence[Found]


def _each(where: Where) -> Iterator[_Told]:
    """All recordings in their order, from whichever parts they are told in."""
    latest: dict[Path, dict[str, _Told]] = {}
    for place, path in where.each():
        if path not in latest:
            latest[path] = _of_part(path)
            if len(latest) > LATEST:
                latest.pop(next(iter(latest)))
        yield latest[path][place.name]


def _of_part(path: Path) -> dict[str, _Told]:
    part, states, findings = contents(path)
    told, row, number = {}, 0, 0
    for entry in part.entries:
        mine = states.slice(row, entry.rows), findings[number : number + entry.found]
        told[entry.name] = _Told(entry, *mine)
        row, number = row + entry.rows, number + entry.found
    return told


def _is_its_own(found: Found) -> bool:
    """Whether a finding is about its recording, and not about the project or about all recordings."""
    return found.moment and not found.everywhere


class _Shared:
    """Findings that are about the project, each once; of those that must hold everywhere, the ones that do."""

    def __init__(self) -> None:
        self.others = False  # whether there are any that are about a recording
        self._recordings = 0
        self._first: dict[tuple[str, tuple[str, str, str]], Found] = {}
        self._times: Counter[tuple[str, tuple[str, str, str]]] = Counter()

    def hear(self, told: _Told) -> None:
        """What is told of one more recording."""
        self._recordings += not told.entry.fault
        self.others = self.others or any(map(_is_its_own, told.findings))
        mine = {(one.code, one.key): one for one in reversed(told.findings) if not _is_its_own(one)}
        for key, one in reversed(mine.items()):
            self._first.setdefault(key, one)
            self._times[key] += 1

    def told(self) -> list[Found]:
        """Those that are left, of no recording."""
        return [
            replace(one, recording="", at=None)
            for key, one in self._first.items()
            if not one.everywhere or self._times[key] == self._recordings
        ]


def _rows(found: Sequence[Found]) -> pa.Table:
    return pa.table([[getattr(one, name) for one in found] for name in FINDINGS.names], schema=FINDINGS)


class _Table:
    """Rows gathered into groups of one size. Made by `_written`."""

    def __init__(self, writer: pq.ParquetWriter) -> None:
        self._writer, self._waiting, self._rows = writer, list[pa.Table](), 0

    def add(self, rows: pa.Table) -> None:
        """More rows."""
        self._waiting.append(rows)
        self._rows += rows.num_rows
        while self._rows >= ROWS:
            self._write(ROWS)

    def end(self) -> None:
        """There are no more."""
        if self._rows:
            self._write(self._rows)

    def _write(self, count: int) -> None:
        every = pa.concat_tables(self._waiting)
        self._writer.write_table(every.slice(0, count).combine_chunks(), row_group_size=count)
        self._waiting, self._rows = [every.slice(count)], self._rows - count


@contextmanager
def _written(path: Path, schema: pa.Schema) -> Iterator[_Table]:
    """A table of Parquet that is there whole when it is ended, or not at all."""
    with whole_file(path) as file, pq.ParquetWriter(file, schema) as writer:
        table = _Table(writer)
        yield table
        table.end()
