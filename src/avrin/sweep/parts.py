"""Parts of a sweep on disk: what some recordings showed, written whole as soon as it is known, and found again."""

from __future__ import annotations

import io
import logging
from collections.abc import Container, Iterator, Sequence
from pathlib import Path
from typing import BinaryIO

import msgspec
import pyarrow as pa
from msgspec import Struct

from avrin.model import write_whole
from avrin.trace import ColumnKind

__all__ = ["NEVER", "STATES", "Entry", "Found", "Kept", "Part", "contents", "encoded"]

log = logging.getLogger(__name__)
MAGIC = b"avrin-sweep/1\n"
END = ".part"
PIECES = 3  # of a part: its head, its states, its findings
NEVER = ()  # no file is like that: what is stamped so is looked at anew
STATES = pa.schema(
    [
        ("recording", pa.string()), ("run", pa.int32()), ("widget", pa.string()), ("state", pa.string()),
        ("frames", pa.int64()), ("seconds", pa.float64()), ("entries", pa.int64()), ("first", pa.float64()),
        ("longest", pa.float64()),
    ]
)  # fmt: skip


class Entry(Struct, frozen=True, array_like=True):
    """A recording in a part. digest: of its content.

    stamp: what its file was like on the disk; None of what is far, or was not there.
    rows: how many it has of the states; found: of the findings. fault: why it could not be read, "" where it could.
    events: what happens in it.
    """

    name: str
    digest: str
    stamp: tuple[int, ...] | None
    rows: int
    found: int
    fault: str
    events: dict[str, dict[str, ColumnKind]]


class Found(Struct, frozen=True, array_like=True):
    """A finding. at: seconds on its recording's axis. key: what makes two of one kind the same.

    everywhere: it holds only where every recording has it. moment: it is about that recording, and not about the project.
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
    """What stands first in its file. key: of all that its answers hang on; seen: of what happens in any recording."""

    key: str
    seen: str
    entries: tuple[Entry, ...]


_heads = msgspec.msgpack.Decoder(Part)
_found = msgspec.msgpack.Decoder(list[Found])


def encoded(part: Part, states: pa.Table, findings: Sequence[Found]) -> bytes:
    """A part's file: its head, its states as an Arrow stream, its findings, each after its length."""
    told = io.BytesIO()
    with pa.ipc.new_stream(told, STATES) as stream:
        stream.write_table(states)
    pieces = (msgspec.msgpack.encode(part), told.getvalue(), msgspec.msgpack.encode(findings))
    return MAGIC + b"".join(len(piece).to_bytes(8, "little") + piece for piece in pieces)


class Kept:
    """The parts in a folder. Only files that are parts are ever looked at, or taken away."""

    def __init__(self, folder: Path) -> None:
        self.folder = folder
        self._number = max((int(path.stem) for path in self._files() if path.stem.isdigit()), default=0)

    def _files(self) -> list[Path]:
        return sorted(self.folder.glob(f"*{END}"))

    def heads(self) -> Iterator[tuple[Path, Part]]:
        """Every part that can be read, by its name."""
        for path in self._files():
            try:
                with path.open("rb") as file:
                    if file.read(len(MAGIC)) == MAGIC and _is_whole(file):
                        yield path, _heads.decode(_piece(file))
            except (OSError, msgspec.MsgspecError) as error:
                log.info("%s is no part: %s", path, error)

    def put(self, data: bytes) -> tuple[Path, Part]:
        """Keep a part. Raises OSError where the disk does not take it."""
        self.folder.mkdir(parents=True, exist_ok=True)
        self._number += 1
        path = self.folder / f"{self._number:08}{END}"
        write_whole(path, data, lasting=False)
        return path, _heads.decode(_piece(io.BytesIO(data[len(MAGIC) :])))

    def clear(self, but: Container[Path] = ()) -> None:
        """Take away all parts but some, and the folder where nothing is left in it."""
        try:
            for path in self._files():
                if path not in but and _is_part(path):
                    path.unlink(missing_ok=True)
            self.folder.rmdir()
        except OSError as error:  # what cannot be taken away is in nobody's way
            log.info("parts stay: %s", error)


def contents(path: Path) -> tuple[Part, pa.Table, list[Found]]:
    """A part, its states and its findings, in the order of its entries. Raises OSError."""
    with path.open("rb") as file:
        file.seek(len(MAGIC))
        part = _heads.decode(_piece(file))
        states = pa.ipc.open_stream(_piece(file)).read_all()
        return part, states, _found.decode(_piece(file))


def _is_part(path: Path) -> bool:
    with path.open("rb") as file:
        return file.read(len(MAGIC)) == MAGIC


def _is_whole(file: BinaryIO) -> bool:
    """Whether all pieces are there: a part that was written last before the power went may be cut off."""
    here = file.tell()
    for _ in range(PIECES):
        file.seek(int.from_bytes(file.read(8), "little"), io.SEEK_CUR)
    end = file.tell()
    whole = end == file.seek(0, io.SEEK_END)
    file.seek(here)
    return whole


def _piece(file: BinaryIO) -> bytes:
    return file.read(int.from_bytes(file.read(8), "little"))
