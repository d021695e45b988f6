"""Read files that users or other programs name: only regular files, and never more than a limit."""

from __future__ import annotations

import stat
import struct
import zlib
from pathlib import Path

from avrin.errors import AvrinError, reason_of

__all__ = ["DAMAGED_PICTURE", "plain_file", "read_whole"]

MIB = 2**20
# What the picture library raises for truncated or corrupt files, besides its own errors, which are OSErrors.
DAMAGED_PICTURE = (
    OSError,
    ValueError,
    SyntaxError,
    EOFError,
    IndexError,
    KeyError,
    TypeError,
    struct.error,
    zlib.error,
)


def plain_file(path: Path) -> int:
    """Return a file's size in bytes. Raises AvrinError if it is not a regular file: a folder, a pipe, a device or missing."""
    try:
        known = path.stat()
    except (OSError, ValueError) as error:
        raise AvrinError(f"cannot be read ({reason_of(error)})", place=(str(path),), advice="Check the path") from None
    if not stat.S_ISREG(known.st_mode):
        what = next((word for is_one, word in SORTS if is_one(known.st_mode)), "not a regular file")
        raise AvrinError(f"is {what}, not a file", place=(str(path),), advice="Choose a file")
    return known.st_size


SORTS = (
    (stat.S_ISDIR, "a folder"), (stat.S_ISFIFO, "a pipe"), (stat.S_ISCHR, "a device"), (stat.S_ISBLK, "a device"),
    (stat.S_ISSOCK, "a socket"),
)  # fmt: skip


def read_whole(path: Path, most: int) -> bytes:
    """Return a file's content. Raises AvrinError if it is not a regular file, exceeds `most` bytes or cannot be read."""
    size = plain_file(path)
    if size > most:
        raise AvrinError(f"is larger than {most // MIB} MiB", place=(str(path),), advice="Choose a smaller file")
    try:
        with path.open("rb") as file:
            content = file.read(
                most + 1
            )  # it may grow while being read, or report a wrong size, as files of the kernel do
    except OSError as error:
        raise AvrinError(f"cannot be read ({reason_of(error)})", place=(str(path),), advice="Check the path") from None
    if len(content) > most:
        raise AvrinError(f"is larger than {most // MIB} MiB", place=(str(path),), advice="Choose a smaller file")
    return content
