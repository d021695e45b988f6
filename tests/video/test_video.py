"""Films show exactly the picture that has begun, in any order of access; files that are not films are reported in one line."""

from __future__ import annotations

from bisect import bisect_right
from pathlib import Path

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from avrin.errors import AvrinError
from avrin.project.project import Plate, Project, Recording
from avrin.storage.folders import cache_folder
from avrin.video.analysis import CELLS, are_known, film_shades
from avrin.video.fast_copy import quick_copy
from avrin.video.film import Footage
from avrin.video.numbered import numbered_name, take_in_numbered
from avrin.video.open_video import footage_files, open_footage, refusal_of
from avrin.video.stills import footage_seconds, still_file
from avrin.video.timing import film_second
from films import film, number_of, pictures

EVEN = [number / 30 for number in range(150)]
# As a capture that drops pictures has them: some stay for long, some come quickly one after another.
UNEVEN = [0.0, 0.033, 0.066, 0.4, 0.42, 0.5, 1.9, 1.95, 2.0, 2.4, 2.433, 2.466, 2.5, 3.0]


@pytest.fixture(scope="module")
def folder(tmp_path_factory: pytest.TempPathFactory) -> Path:
    return tmp_path_factory.mktemp("films")


@pytest.fixture(scope="module")
def films(folder: Path) -> dict[str, tuple[Footage, list[float]]]:
    """Films of several containers, one that drops pictures, and a quick copy, with the seconds at which their pictures begin."""
    long = film(folder / "long.mp4", EVEN, keys=1000)
    made = {
        "mp4": (long, EVEN), "mkv": (film(folder / "dive.mkv", EVEN), EVEN),
        "webm": (film(folder / "dive.webm", EVEN, codec="libvpx-vp9"), EVEN),
        "uneven": (film(folder / "uneven.mp4", UNEVEN), UNEVEN), "copy": (quick_copy(long), EVEN),
    }  # fmt: skip
    assert made["copy"][0] != long
    return {name: (open_footage(path), times) for name, (path, times) in made.items()}


@given(st.sampled_from(["mp4", "mkv", "webm", "uneven", "copy"]), st.floats(-1, 7))
def test_the_picture_that_has_begun_is_shown(
    films: dict[str, tuple[Footage, list[float]]], name: str, second: float
) -> None:
    footage, times = films[name]
    if any(0 < abs(second - item) < 2e-3 for item in times):
        second = min(times, key=lambda item: abs(second - item)) + 2e-3  # containers round to a thousandth of a second
    still = footage.at(second)
    wanted = max(0, bisect_right(times, second) - 1)
    assert number_of(still.pixels) == wanted
    assert still.second == pytest.approx(times[wanted], abs=1.1e-3)
    assert still.until == (pytest.approx(times[wanted + 1], abs=1.1e-3) if wanted + 1 < len(times) else float("inf"))
    assert footage.at(second, 60).pixels.shape == (34, 60, 3)


def test_a_picture_is_there_from_its_very_beginning_on(films: dict[str, tuple[Footage, list[float]]]) -> None:
    for name in ("mp4", "uneven", "copy"):
        footage, times = films[name]
        for number, begins in enumerate(times):
            assert number_of(footage.at(begins + 1e-9).pixels) == number
            assert number_of(footage.at(begins - 2e-4).pixels) == max(0, number - 1)


def test_a_film_that_begins_late_begins_at_its_first_picture(tmp_path: Path) -> None:
    footage = open_footage(film(tmp_path / "late.mkv", [number / 30 for number in range(60, 150)]))
    assert [number_of(footage.at(second).pixels) for second in (0.0, 0.05, 1.01, 2.0, 9.0)] == [0, 1, 30, 60, 89]
    assert footage.seconds == pytest.approx(3.0, abs=0.05)


@given(st.floats(0, 6))
def test_a_key_picture_close_before_is_had_at_once(
    films: dict[str, tuple[Footage, list[float]]], second: float
) -> None:
    footage, _ = films["mkv"]
    still = footage.near(second)
    assert number_of(still.pixels) % 60 == 0
    assert still.second <= second + 1e-3


def test_films_tell_how_long_they_run(films: dict[str, tuple[Footage, list[float]]], folder: Path) -> None:
    for footage, times in films.values():
        assert footage.size == (240, 136)
        assert footage.seconds == pytest.approx(times[-1], abs=0.2)
    assert footage_seconds(folder / "dive.mkv") == pytest.approx(5.0, abs=0.1)


def test_a_torn_film_shows_what_is_left_of_it(folder: Path) -> None:
    whole = (
        (folder / "dive.mkv").read_bytes()
        if (folder / "dive.mkv").exists()
        else film(folder / "t.mkv", EVEN).read_bytes()
    )
    torn = folder / "torn.mkv"
    torn.write_bytes(whole[: len(whole) // 2])
    footage = open_footage(torn)
    assert number_of(footage.at(0.5).pixels) == 15
    assert 30 < number_of(footage.at(1e6).pixels) < 149
    assert number_of(footage.at(0.1).pixels) == 3


NO_FILM = "cannot be read as a film (invalid data found when processing input). Choose a film, such as an .mp4"


@pytest.mark.parametrize(
    ("name", "content", "text"),
    [
        ("gone.mp4", None, "there is no such film. Copy it into the project's folder"),
        ("words.mp4", b"these are words\n" * 40, NO_FILM),
        ("empty.mkv", b"", NO_FILM),
        ("none-###.png", None, "there are no such pictures. Write # for each digit, as in dive-####.png"),
    ],
)  # fmt: skip
def test_what_is_no_film_is_reported_in_a_line(tmp_path: Path, name: str, content: bytes | None, text: str) -> None:
    if content is not None:
        (tmp_path / name).write_bytes(content)
    with pytest.raises(AvrinError) as caught:
        open_footage(tmp_path / name)
    assert str(caught.value) == f"{name}: {text}"
    assert refusal_of(tmp_path / name) == caught.value.problem


# -- numbered pictures -------------------------------------------------------------------------------------------------


def test_numbered_pictures_are_a_film_and_one_before_a_gap_stands_for_it(tmp_path: Path) -> None:
    files = pictures(tmp_path, [7, 8, 9, 12, 13])
    (tmp_path / "shot_0001.txt").touch()
    footage = open_footage(tmp_path / "shot_####.png", 10)
    assert footage_files(tmp_path / "shot_####.png") == files
    assert (footage.seconds, footage.rate, footage.size) == (0.7, 10, (120, 68))
    shown = {0.0: 7, 0.05: 7, 0.1: 8, 0.2: 9, 0.3: 9, 0.49: 9, 0.5: 12, 0.6: 13, 9.0: 13, -2.0: 7}
    assert {second: number_of(footage.at(second).pixels) for second in shown} == shown
    assert [footage.at(second).until for second in (0.0, 0.3, 0.6)] == [0.1, 0.5, float("inf")]


@pytest.mark.parametrize(
    ("names", "together"),
    [
        ([f"shot_{i:04d}.png" for i in range(8)], "shot_####.png"),
        ([f"shot_{i}.jpg" for i in range(96, 106)], "shot_##.jpg"),
        ([f"take2 {i:02d}.webp" for i in range(9)], "take2 ##.webp"),
        ([f"shot_{i}.png" for i in range(7)], None),
        ([f"{name}_{i}.png" for i in range(4) for name in "ab"], None),
        ([f"shot_{i}.csv" for i in range(9)], None),
        (["reef.png"] * 9, None),
    ],
)  # fmt: skip
def test_pictures_that_differ_in_a_number_are_found_to_be_one_film(names: list[str], together: str | None) -> None:
    found = numbered_name([Path("/x") / name for name in names])
    assert found == (Path("/x") / together if together is not None else None)


def test_numbered_pictures_are_taken_in_together_and_never_mixed(tmp_path: Path) -> None:
    project = tmp_path / "game"
    project.mkdir()
    first = take_in_numbered(pictures(tmp_path / "a", range(9)), project)
    second = take_in_numbered(pictures(tmp_path / "b", range(20, 29)), project)
    assert (first, second) == ("films/shot/shot_####.png", "films/shot-2/shot_####.png")
    assert number_of(open_footage(project / first).at(0).pixels) == 0
    assert number_of(open_footage(project / second).at(0).pixels) == 20
    assert take_in_numbered(footage_files(project / second), project) == second


# -- copies ------------------------------------------------------------------------------------------------------------


def test_a_copy_is_made_once_and_made_anew_when_it_was_spoilt(tmp_path: Path) -> None:
    source = film(tmp_path / "long.mp4", EVEN, keys=1000)
    copy = quick_copy(source)
    made = copy.stat().st_mtime_ns
    assert copy.parent == cache_folder() / "films"
    assert quick_copy(source) == copy
    assert copy.stat().st_mtime_ns == made
    whole = copy.read_bytes()
    other = film(tmp_path / "other.mp4", EVEN[:90]).read_bytes()
    for spoilt in (b"", whole[:-40], whole[:2000] + b"x" * 200 + whole[2200:], other):
        copy.write_bytes(spoilt)
        assert number_of(open_footage(quick_copy(source)).at(4.01).pixels) == 120


def test_a_film_whose_key_pictures_are_near_is_looked_through_as_it_is(tmp_path: Path) -> None:
    source = film(tmp_path / "near.mp4", EVEN, keys=6)
    assert quick_copy(source) == source


def test_a_copy_nobody_waits_for_is_not_kept_and_no_cache_is_no_fault(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    source = film(tmp_path / "long.mp4", EVEN, keys=1000)
    monkeypatch.setenv("AVRIN_CACHE", str(tmp_path / "cache"))
    with pytest.raises(AvrinError):
        quick_copy(source, lambda: False)
    assert not any((tmp_path / "cache").rglob("*.mp4"))
    (tmp_path / "file").touch()
    monkeypatch.setenv("AVRIN_CACHE", str(tmp_path / "file"))
    assert quick_copy(source) == source


# -- moments -----------------------------------------------------------------------------------------------------------


def test_a_picture_is_taken_out_as_a_file(tmp_path: Path) -> None:
    from PIL import Image

    source = film(tmp_path / "long.mp4", EVEN)
    with Image.open(still_file(source, 2.51)) as image:
        assert number_of(np.asarray(image)) == 75
    with Image.open(still_file(source, 2.51, wide=120)) as image:
        assert image.size == (120, 68)
    with Image.open(still_file(source, 2.51, exact=False)) as image:
        assert number_of(np.asarray(image)) == 60
    film(source, EVEN[:60])  # another film of that name
    with Image.open(still_file(source, 2.51)) as image:
        assert number_of(np.asarray(image)) == 59


def test_a_film_keeps_step_with_its_own_recording() -> None:
    project = Project(traces=(Recording(path="traces/a.csv"), Recording(path="traces/b.csv")))
    plate = Plate(name="dive", film="films/dive.mp4", trace="traces/a.csv", offset=-12.5)
    assert film_second(project, plate, "a", 20.0) == 7.5
    assert film_second(project, plate, "a", 2.0) == -10.5
    assert film_second(project, plate, "b", 20.0) is None
    assert film_second(project, Plate(name="any", film="films/dive.mp4", offset=1.0), "b", 20.0) == 21.0


def test_a_film_from_afar_is_each_of_its_pictures_and_is_decoded_once(tmp_path: Path) -> None:
    seconds = [0.0, 0.1, 0.5, 0.6]
    path = film(tmp_path / "dive.mp4", seconds)
    assert not are_known(path)
    analysis = film_shades(path)
    assert analysis.seconds == pytest.approx(seconds, abs=1e-4)
    assert analysis.cells.shape == (4, CELLS[1], CELLS[0], 3)
    lower = analysis.cells[:, 20:].reshape(4, -1, 3).mean(axis=1)
    assert lower == pytest.approx(np.array([[n * 37 % 200, n * 11 % 200, n * 5 % 200] for n in range(4)]), abs=6)
    assert analysis.shown(np.array([-1.0, 0.0, 0.09, 0.1, 0.49, 0.5, 9.0])).tolist() == [0, 0, 0, 1, 1, 2, 3]
    assert are_known(path)
    forgotten()
    looked = []
    again = film_shades(path, breathe=lambda: looked.append(1))
    assert (again.cells == analysis.cells).all()
    assert not looked


def test_a_spoilt_note_of_a_film_from_afar_is_made_anew(tmp_path: Path) -> None:
    path = film(tmp_path / "dive.mp4", [0.0, 0.1])
    analysis = film_shades(path)
    forgotten()
    for note in (cache_folder() / "films").glob("*.shades"):
        note.write_bytes(note.read_bytes()[:-100])
    looked = []
    assert (film_shades(path, breathe=lambda: looked.append(1)).cells == analysis.cells).all()
    assert len(looked) == 2


def test_who_no_longer_waits_ends_the_look_and_nothing_half_is_kept(tmp_path: Path) -> None:
    path = film(tmp_path / "dive.mp4", [0.0, 0.1, 0.2])

    def breathe() -> None:
        raise AvrinError("no caller waits")

    with pytest.raises(AvrinError, match="no caller waits"):
        film_shades(path, breathe=breathe)
    assert not are_known(path)


def forgotten() -> None:
    """As another program would find it."""
    from avrin.video import analysis

    analysis._remembered.clear()
