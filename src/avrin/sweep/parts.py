"""Parts of a sweep on disk: results of some recordings, written atomically as they arrive, and reused."""

from __future__ import annotations

import io
import logging
from collections.abc import Container, Iterator, Sequence
from pathlib import Path
from typing import BinaryIO

import msgspec
import pyarrow as pa
from msgspec import Struct

from avrin.storage.atomic import atomic_write
from avrin.trace.frames import ColumnKind

__all__ = ["NEVER", "STATES", "Entry", "Found", "Kept", "Part", "contents", "encoded"]

log = logging.getLogger(__name__)
MAGIC = b"avrin-sweep/1\n"
END = ".part"
PIECES = 3  # of a part: its head, its states, its findings
NEVER = ()  # a stamp no file has, which forces processing
STATES = pa.schema(
    [
        ("recording", pa.string()), ("run", pa.int32()), ("widget", pa.string()), ("state", pa.string()),
        ("frames", pa.int64()), ("seconds", pa.float64()), ("entries", pa.int64()), ("first", pa.float64()),
        ("longest", pa.float64()),
    ]
)  # fmt: skip


class Entry(Struct, frozen=True, array_like=True):
    """A recording in a part. digest: of its content.

    stamp: of its file on the disk; None for a remote or missing one.
    rows: number of state rows; findings: number of findings. fault: its error, "" for none.
    events: its events.
    """

    name: str
    digest: str
    stamp: tuple[int, ...] | None
    rows: int
    findings: int
    fault: str
    events: dict[str, dict[str, ColumnKind]]


class Found(Struct, frozen=True, array_like=True):
    """A finding. at: seconds on its recording's axis. key: equal for equal findings.

    everywhere: it counts only if every recording has it. moment: it concerns the recording, not the project.
    """

    recording: str
    code: str
    severity: str
    widget: str
    input: str
    at: float | None
    sentence: str
    key: tuple[str, str, str]
    everywhere: bool
    moment: bool


class Part(Struct, frozen=True, array_like=True):
    """The head of its file. key: of everything its results depend on; events_key: of the events of all recordings."""

    key: str
    events_key: str
    entries: tuple[Entry, ...]


_heads = msgspec.msgpack.Decoder(Part)
_found = msgspec.msgpack.Decoder(list[Found])


def encoded(part: Part, states: pa.Table, findings: Sequence[Found]) -> bytes:
    """Encode a part: its head, its states as an Arrow stream, its findings, each after its length."""
    told = io.BytesIO()
    with pa.ipc.new_stream(told, STATES) as stream:
        stream.write_table(states)
    pieces = (msgspec.msgpack.encode(part), told.getvalue(), msgspec.msgpack.encode(findings))
    return MAGIC + b"".join(len(piece).to_bytes(8, "little") + piece for piece in pieces)


class Kept:
    """The parts in a folder. Other files are never touched."""

    def __init__(self, folder: Path) -> None:
        self.folder = folder
        self._number = max((int(path.stem) for path in self._files() if path.stem.isdigit()), default=0)

    def _files(self) -> list[Path]:
        return sorted(self.folder.glob(f"*{END}"))

    def heads(self) -> Iterator[tuple[Path, Part]]:
        """Yield every readable part, by name."""
        for path in self._files():
            try:
                with path.open("rb") as file:
                    if file.read(len(MAGIC)) == MAGIC and _is_whole(file):
                        yield path, _heads.decode(_piece(file))
            except (OSError, msgspec.MsgspecError) as error:
                log.info("%s is not a valid part: %s", path, error)

    def put(self, data: bytes) -> tuple[Path, Part]:
        """Store a part. Raises OSError if writing fails."""
        self.folder.mkdir(parents=True, exist_ok=True)
        self._number += 1
        path = self.folder / f"{self._number:08}{END}"
        atomic_write(path, data, lasting=False)
        return path, _heads.decode(_piece(io.BytesIO(data[len(MAGIC) :])))

    def clear(self, but: Container[Path] = ()) -> None:
        """Delete all parts but some, and the folder once it is empty."""
        try:
            for path in self._files():
                if path not in but and _is_part(path):
                    path.unlink(missing_ok=True)
            self.folder.rmdir()
        except OSError as error:  # leftovers are harmless
            log.info("parts could not be removed: %s", error)


def contents(path: Path) -> tuple[Part, pa.Table, list[Found]]:
    """Return a part, its states and its findings, in the order of its entries. Raises OSError."""
    with path.open("rb") as file:
        file.seek(len(MAGIC))
        part = _heads.decode(_piece(file))
        states = pa.ipc.open_stream(_piece(file)).read_all()
        return part, states, _found.decode(_piece(file))


def _is_part(path: Path) -> bool:
    with path.open("rb") as file:
        return file.read(len(MAGIC)) == MAGIC


def _is_whole(file: BinaryIO) -> bool:
    """Return whether the file is complete: a power failure may truncate the last part."""
    here = file.tell()
    for _ in range(PIECES):
        file.seek(int.from_bytes(file.read(8), "little"), io.SEEK_CUR)
    end = file.tell()
    whole = end == file.seek(0, io.SEEK_END)
    file.seek(here)
    return whole


def _piece(file: BinaryIO) -> bytes:
    return file.read(int.from_bytes(file.read(8), "little"))
