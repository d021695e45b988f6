"""Locations of many recordings: files, folders and URLs, through Arrow's file systems."""

from __future__ import annotations

import os
import stat
import urllib.parse
from collections.abc import Iterator, Sequence
from contextlib import contextmanager
from pathlib import Path, PurePosixPath
from tempfile import TemporaryDirectory
from typing import Any

from msgspec import Struct
from msgspec.structs import replace

from avrin.errors import AvrinError, reason_of
from avrin.trace.copying import beside
from avrin.trace.formats import ENDINGS, is_recording

__all__ = ["Location", "at_hand", "locations", "stamp"]

SECONDS = 5.0  # for a server to accept a connection, tried twice
MAX_BYTES = 8 << 30  # bytes downloaded for one recording
CHUNK = 1 << 20


class Location(Struct, frozen=True, gc=False):
    """A recording's file. There may be a million, so common parts are shared.

    root: a folder, or the start of a URL; inner: the path below it. tail: the URL's query. size: bytes, 0 if unknown.
    display_name: its name if that is not `inner`.
    why: an error known before reading, such as an unreadable folder.
    """

    root: str
    inner: str
    size: int = 0
    tail: str = ""
    display_name: str = ""
    why: str = ""

    @classmethod
    def at(cls, path: Path, name: str = "", size: int = 0) -> Location:
        """Return the location of a local file."""
        return cls(str(path.parent), path.name, size, display_name=name if name != path.name else "")

    @property
    def name(self) -> str:
        """Its name: the path relative to the requested location."""
        return self.display_name or self.inner

    @property
    def path(self) -> str:
        """The file's path, or its full URL."""
        if self.is_far:
            return f"{self.root.rstrip('/')}/{urllib.parse.quote(self.inner)}{self.tail}"
        return os.path.join(self.root, self.inner)  # noqa: PTH118  (of a hundred thousand)

    @property
    def is_far(self) -> bool:
        """Whether it is behind a URL."""
        return "://" in self.root


def locations(wanted: Sequence[str], but: Sequence[Path] = ()) -> list[Location]:
    """Return recordings in files, folders and URLs, sorted by name, without duplicates.

    but: files to exclude, such as those about to be written. Raises AvrinError for an empty result.
    """
    known = {file.absolute() for file in but}
    every: list[Location] = []
    for one in wanted:
        here = sorted(_far(one) if "://" in one and not one.startswith("file://") else _near(one, known), key=_name)
        if not here:
            raise AvrinError(
                f"there are no recordings in {one}", advice=f"Recordings have the endings {', '.join(ENDINGS)}"
            )
        every = _with_more(every, here, one) if every else here
    return every


def _with_more(every: list[Location], more: list[Location], where: str) -> list[Location]:
    """Add recordings of another location: each file once, each under a unique name."""
    names, paths = {place.name for place in every}, {place.path for place in every}
    fresh = [place for place in more if place.path not in paths]
    called = [
        replace(place, display_name=f"{where.rstrip('/')}/{place.name}") if place.name in names else place
        for place in fresh
    ]
    return sorted([*every, *called], key=_name)


def _name(place: Location) -> str:
    return place.name


# -- on this machine ---------------------------------------------------------------------------------------------------


def _near(wanted: str, but: set[Path]) -> list[Location]:
    path = Path(urllib.parse.unquote(urllib.parse.urlsplit(wanted).path) if wanted.startswith("file://") else wanted)
    try:
        told = path.stat()
    except (OSError, ValueError) as error:
        raise AvrinError(f"cannot be read ({reason_of(error)})", place=(wanted,), advice="Check the path") from None
    if not stat.S_ISDIR(told.st_mode):
        if not is_recording(path.name):
            raise AvrinError(
                "is not a recording", place=(wanted,), advice=f"Recordings have the endings {', '.join(ENDINGS)}"
            )
        if path.absolute() in but:
            raise AvrinError("is an input and would be overwritten", place=(wanted,), advice="Choose another name")
        return [Location.at(path.absolute(), size=told.st_size)]
    return [one for one in _within(path.absolute()) if not but or Path(one.path) not in but]


def _within(folder: Path) -> Iterator[Location]:
    """Yield all files below a folder; folders reached twice through links are visited once."""
    root = str(folder)
    waiting, seen = [(root, "")], set[tuple[int, int]]()
    while waiting:
        there, name = waiting.pop()
        try:
            told = Path(there).stat()
            if (told.st_dev, told.st_ino) in seen:
                continue
            seen.add((told.st_dev, told.st_ino))
            with os.scandir(there) as entries:
                for entry in entries:
                    if entry.is_dir():
                        waiting.append((entry.path, f"{name}{entry.name}/"))
                    elif is_recording(entry.name):
                        yield Location(root, name + entry.name, _size(entry))
        except OSError as error:
            if not name:
                raise AvrinError(
                    f"cannot be read ({reason_of(error)})", place=(there,), advice="Check the folder"
                ) from None
            yield Location(root, name.rstrip("/"), why=f"the folder cannot be read ({reason_of(error)})")


def _size(entry: os.DirEntry[str]) -> int:
    try:
        return entry.stat().st_size
    except OSError:
        return 0  # deleted, or a broken link: reported when it is read


# -- behind a URL ------------------------------------------------------------------------------------------------------


def _far(url: str) -> list[Location]:
    from pyarrow.fs import FileSelector, FileType  # late: 46 ms

    system, root = _system(url)
    base = url.split("?", 1)
    query, whole = f"?{base[1]}" if len(base) > 1 else "", base[0].rstrip("/")
    try:
        (told,) = system.get_file_info([root])
        if told.type == FileType.NotFound:
            raise AvrinError("there is nothing", place=(_plain(url),), advice="Check the URL")
        if told.type == FileType.File:
            if not is_recording(told.path):
                raise AvrinError(
                    "is not a recording",
                    place=(_plain(url),),
                    advice=f"Recordings have the endings {', '.join(ENDINGS)}",
                )
            return [Location(whole.rpartition("/")[0], PurePosixPath(told.path).name, told.size or 0, query)]
        inner = system.get_file_info(FileSelector(root, recursive=True))
    except OSError as error:
        raise _unanswered(url, error) from None
    start = root.rstrip("/") + "/"
    names = [(one.path.removeprefix(start), one.size or 0) for one in inner if one.type == FileType.File]
    return [Location(whole, name, size, query) for name, size in names if is_recording(name)]


def _system(url: str) -> tuple[Any, str]:
    """Return a URL's file system and the path in it. Raises AvrinError for an unknown scheme."""
    import pyarrow as pa  # late: 39 ms
    from pyarrow import fs

    try:
        parts = urllib.parse.urlsplit(url)
        if parts.scheme == "s3":
            said = dict(urllib.parse.parse_qsl(parts.query))
            known = {"region", "scheme", "endpoint_override"}
            if set(said) - known:
                raise AvrinError(
                    f"'{min(set(said) - known)}' is not an option of it", place=(_plain(url),),
                    advice=f"It takes {', '.join(sorted(known))}",
                )  # fmt: skip
            keys = {"access_key": parts.username, "secret_key": parts.password} if parts.username else {}
            host = parts.netloc.rpartition("@")[2]
            if not host:
                raise AvrinError("it names no bucket", place=(url,), advice="Write it as s3://BUCKET/FOLDER")
            made = fs.S3FileSystem(
                **said, **{name: urllib.parse.unquote(key or "") for name, key in keys.items()},
                connect_timeout=SECONDS, request_timeout=4 * SECONDS,
                retry_strategy=fs.AwsStandardS3RetryStrategy(max_attempts=2),
            )  # fmt: skip
            return made, host + urllib.parse.unquote(parts.path)
        found: tuple[Any, str] = fs.FileSystem.from_uri(url)
        return found
    except (OSError, ValueError, pa.ArrowException, TypeError) as error:
        raise _unanswered(url, error) from None


def _plain(url: str) -> str:
    """Return a URL without secrets."""
    parts = urllib.parse.urlsplit(url)
    return urllib.parse.urlunsplit((parts.scheme, parts.netloc.rpartition("@")[2], parts.path, "", ""))


def _unanswered(url: str, error: Exception) -> AvrinError:
    first = (str(error).splitlines() or [type(error).__name__])[0]
    return AvrinError(
        f"cannot be read ({first})", place=(_plain(url),), advice="Check the URL, and whether its server runs"
    )


# -- reading -----------------------------------------------------------------------------------------------------------


@contextmanager
def at_hand(place: Location) -> Iterator[Path]:
    """Yield a recording's local file: itself, or a temporary copy with the files next to it.

    Raises AvrinError if it cannot be read.
    """
    if not place.is_far:
        yield Path(place.path)
        return
    system, path = _system(place.path)
    with TemporaryDirectory(prefix="avrin-") as folder:
        copy = Path(folder) / PurePosixPath(path).name
        try:
            _fetch(system, path, copy)
            more = str(PurePosixPath(path).with_name(beside(copy).name))
            if more != path and system.get_file_info([more])[0].is_file:
                _fetch(system, more, beside(copy))
        except OSError as error:
            raise _unanswered(place.path, error) from None
        yield copy


def _fetch(system: Any, path: str, copy: Path) -> None:  # noqa: ANN401  (the library's file systems have no types)
    with system.open_input_stream(path) as source, copy.open("wb") as file:
        left = MAX_BYTES
        while piece := source.read(min(CHUNK, left + 1)):
            left -= len(piece)
            if left < 0:
                raise AvrinError(f"is larger than {MAX_BYTES >> 30} GiB", place=(_plain(path),), advice="Cut it")
            file.write(piece)


def stamp(place: Location) -> tuple[int, ...] | None:
    """Return a stamp that changes when a local file or its events file is written; None for a remote or missing one."""
    if place.is_far:
        return None
    try:
        told = _looks(place.path)
    except OSError:
        return None
    try:
        return (*told, *_looks(beside(Path(place.path))))
    except OSError:
        return told


def _looks(path: str | Path) -> tuple[int, ...]:
    found = os.stat(path)  # noqa: PTH116  (a hundred thousand of them)
    return found.st_ino, found.st_size, found.st_mtime_ns, found.st_ctime_ns
