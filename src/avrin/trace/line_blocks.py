"""Large text files in blocks of whole lines, for readers that parse a block at a time."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path

from avrin.errors import AvrinError
from avrin.trace.progress import tell

__all__ = ["line_blocks"]

BOM = b"\xef\xbb\xbf"
MAX_LINE_BYTES = 64 << 20


def line_blocks(path: Path, size: int) -> Iterator[bytes]:
    """Yield a file in blocks of whole lines and report progress.

    size: bytes read at once; a longer line makes its block longer. The last line may lack its line break. A byte order mark
    at the start is skipped. Raises OSError, and AvrinError for a line above MAX_LINE_BYTES.
    """
    total = max(1, path.stat().st_size)
    with path.open("rb") as file:
        rest = b""
        while read := file.read(size):
            begin = file.tell() - len(read)
            tell(begin / total)
            lines, newline, tail = (read if begin else read.removeprefix(BOM)).rpartition(b"\n")
            if newline:
                yield rest + lines + newline
                rest = tail
            else:
                rest += tail
            if len(rest) > MAX_LINE_BYTES:
                raise AvrinError("a line is longer than 64 MiB", advice="Check its line breaks")
        if rest:
            yield rest
