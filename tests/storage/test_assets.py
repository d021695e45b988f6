"""Pictures that are taken into the project's folder."""

from __future__ import annotations

from pathlib import Path

import pytest

from avrin.errors import AvrinError
from avrin.storage.assets import FONT, take_in


def built(path: Path, content: bytes = b"one") -> Path:
    path.parent.mkdir(exist_ok=True)
    path.write_bytes(content)
    return path


def test_a_picture_is_copied_once_and_another_of_its_name_gets_a_number(tmp_path: Path) -> None:
    folder = tmp_path / "project"
    folder.mkdir()
    first = built(tmp_path / "a" / "heart.PNG")
    assert take_in(first, folder) == take_in(first, folder) == "art/heart.png"
    assert take_in(built(tmp_path / "b" / "heart.png", b"two"), folder) == "art/heart-2.png"
    assert take_in(built(tmp_path / "c" / "heart.png", b"two"), folder) == "art/heart-2.png"
    assert sorted(p.read_bytes() for p in (folder / "art").iterdir()) == [b"one", b"two"]


def test_what_lies_in_the_folder_stays_where_it_is(tmp_path: Path) -> None:
    assert take_in(built(tmp_path / "plates" / "a.svg"), tmp_path) == "plates/a.svg"
    assert not (tmp_path / "art").exists()


def test_a_font_has_a_folder_of_its_own_and_is_no_picture(tmp_path: Path) -> None:
    folder = tmp_path / "project"
    folder.mkdir()
    font = built(tmp_path / "a" / "Deep.TTF")
    assert take_in(font, folder, FONT) == "fonts/Deep.ttf"
    with pytest.raises(AvrinError, match=r"Deep\.TTF is not a picture"):
        take_in(font, folder)


@pytest.mark.parametrize("name", ["notes.txt", "gone.png"])
def test_what_cannot_be_taken_in_is_reported(name: str, tmp_path: Path) -> None:
    if name.endswith("txt"):
        built(tmp_path / name)
    (tmp_path / "project").mkdir()
    with pytest.raises(AvrinError, match=name):
        take_in(tmp_path / name, tmp_path / "project")
    assert list((tmp_path / "project").iterdir()) == []
