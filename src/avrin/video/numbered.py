"""Numbered pictures as a film: `dive-####.png`, at a constant frame rate, the lowest number first."""

from __future__ import annotations

import re
from bisect import bisect_right
from collections.abc import Callable, Iterable, Iterator
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from avrin.errors import AvrinError
from avrin.storage.assets import FILM, FileSort, take_in
from avrin.storage.reading import DAMAGED_PICTURE
from avrin.video.film import LARGEST, Still

__all__ = ["ENDS", "Numbered", "files_of", "numbered_name", "take_in_numbered"]

ENDS = (".png", ".jpg", ".jpeg", ".webp", ".bmp", ".tif", ".tiff")
USUAL = 30.0  # default pictures per second
MIN_PICTURES = 8  # pictures with consecutive names needed to make a film


def files_of(path: Path) -> dict[int, Path]:
    """Return the pictures that match a name with `#` for digits, by number, in order."""
    before, marks, after = _parts(path.name)
    if not marks:
        return {}
    wanted = re.compile(rf"{re.escape(before)}(\d{{{len(marks)},}}){re.escape(after)}")
    try:
        found = [(int(match[1]), one) for one in path.parent.iterdir() if (match := wanted.fullmatch(one.name))]
    except OSError:
        return {}
    return dict(sorted(found))


def numbered_name(paths: Iterable[Path]) -> Path | None:
    """Return the common name of pictures that differ in their last number; None if they are not a film."""
    several = list(paths)
    names = set()
    for path in several:
        match = re.fullmatch(r"(.*?)(\d+)(\.\w+)", path.name)
        if match is None or match[3].lower() not in ENDS:
            return None
        names.add((path.parent, match[1], match[3]))
    if len(names) != 1 or len(several) < MIN_PICTURES:
        return None
    digits = min(len(re.findall(r"\d+", path.name)[-1]) for path in several)
    ((folder, before, after),) = names
    return folder / f"{before}{'#' * digits}{after}"


def take_in_numbered(paths: Iterable[Path], folder: Path, progress: Callable[[int], None] = lambda _: None) -> str:
    """Copy numbered pictures into a project's folder unless they are there, and return their common name.

    Raises AvrinError if they are not a film or cannot be copied.
    """
    several = list(paths)
    name = numbered_name(several)
    if name is None:
        raise AvrinError("these pictures are not a film: their names differ in more than one number")
    if name.resolve().is_relative_to(folder.resolve()):
        return name.resolve().relative_to(folder.resolve()).as_posix()
    stem = re.sub(r"[#_.\- ]+$", "", name.stem) or "pictures"
    own, number = stem, 1
    while (folder / FILM.folder / own).exists():
        number += 1
        own = f"{stem}-{number}"
    sort = FileSort("picture", ENDS, f"{FILM.folder}/{own}", "Choose pictures")
    (folder / FILM.folder).mkdir(exist_ok=True)
    for path in several:
        take_in(path, folder, sort, progress)
    return f"{sort.folder}/{name.name}"


def _parts(name: str) -> tuple[str, str, str]:
    match = re.fullmatch(r"(.*?)(#+)([^#]*)", name)
    return (match[1], match[2], match[3]) if match else (name, "", "")


class Numbered:
    """Pictures of one size, `rate` per second, 0 for the default of thirty. A missing number repeats the previous picture.

    Raises AvrinError if there are none.
    """

    def __init__(self, path: Path, rate: float = 0.0) -> None:
        found = files_of(path)
        if not found:
            raise AvrinError(
                "there are no such pictures", place=(path.name,), advice="Write # for each digit, as in dive-####.png"
            )
        self._numbers, self._files = list(found), list(found.values())
        self.rate = rate or USUAL
        self.seconds = (self._numbers[-1] - self._numbers[0] + 1) / self.rate
        self.size = (0, 0)
        first = self.at(0.0)
        self.size = (first.pixels.shape[1], first.pixels.shape[0])

    def at(self, second: float, wide: int = 0) -> Still:
        """Implement `Footage.at`."""
        number = self._numbers[0] + int(np.floor(max(0.0, second) * self.rate + 1e-3))
        place = max(0, bisect_right(self._numbers, number) - 1)
        began = (self._numbers[place] - self._numbers[0]) / self.rate
        last = place + 1 == len(self._numbers)
        until = float("inf") if last else (self._numbers[place + 1] - self._numbers[0]) / self.rate
        return Still(self._read(self._files[place], wide), began, until)

    def near(self, second: float, wide: int = 0) -> Still:
        """Implement `Footage.near`: every picture is a key frame."""
        return self.at(second, wide)

    def reaches(self, _second: float) -> bool:
        """Implement `Footage.reaches`."""
        return True

    def small(self, wide: int, high: int) -> Iterator[tuple[NDArray[np.uint8], float]]:
        """Implement `Footage.small`: shape (high, wide, 3)."""
        from PIL import Image  # late: 12 ms

        for number, file in zip(self._numbers, self._files, strict=True):
            whole = Image.fromarray(self._read(file, 0)).resize((wide, high), Image.Resampling.BOX)
            yield np.asarray(whole, np.uint8), (number - self._numbers[0]) / self.rate

    def close(self) -> None:
        """Implement `Footage.close`: there is nothing to close."""

    @staticmethod
    def _read(path: Path, wide: int) -> NDArray[np.uint8]:
        from PIL import Image  # late: 12 ms

        try:
            with Image.open(path) as image:
                if max(image.size) > LARGEST:
                    raise AvrinError(
                        f"is {image.width} × {image.height} pixels large", place=(path.name,),
                        advice=f"Up to {LARGEST:,} a side can be drawn",
                    )  # fmt: skip
                whole = image.convert("RGB")
                if wide and whole.width > wide:
                    high = max(1, round(whole.height * wide / whole.width))
                    whole = whole.resize((wide, high), Image.Resampling.BILINEAR)
                return np.asarray(whole, np.uint8)
        except (*DAMAGED_PICTURE, Image.DecompressionBombError):
            raise AvrinError("cannot be read as a picture", place=(path.name,), advice="Save it again") from None
