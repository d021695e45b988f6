"""Short unique names for files."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable, Sequence
from pathlib import PurePath

__all__ = ["unique_names"]


def unique_names(paths: Sequence[str | PurePath]) -> list[str]:
    """Return a unique name for each file: without its ending, with it, or with as many folders as it takes."""
    files = [PurePath(path) for path in paths]
    names = [path.stem for path in files]
    for longer in ([path.name for path in files], *_with_folders(files)):
        taken = Counter(names)
        names = [more if taken[name] > 1 else name for name, more in zip(names, longer, strict=True)]
    return names


def _with_folders(files: Sequence[PurePath]) -> Iterable[list[str]]:
    deepest = max((len(path.parts) for path in files), default=0)
    return ([PurePath(*path.parts[-depth:]).as_posix() for path in files] for depth in range(2, deepest + 1))
