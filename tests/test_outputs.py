"""What commands that write pictures and tables do with what cannot be drawn, and with what they wrote before."""

from __future__ import annotations

from pathlib import Path

import pytest
from PIL import Image

from avrin.binding.binding import bind
from avrin.binding.tracks import Tracks
from avrin.cli import main
from avrin.errors import AvrinError
from avrin.findings.inspector import Inspector
from avrin.findings.registry import CHECKS
from avrin.project.project import Place, Plate, Project, Recording, Variable, Widget
from avrin.storage.files import save
from avrin.trace.frames import Trace
from avrin.video.analysis import film_shades
from avrin.video.open_video import open_footage, refusal_of
from avrin.video.stills import close_stills, footage_seconds, still_file
from films import film

PICTURE = Widget(id="p", kind="picture", place=Place(size=(80.0, 80.0)), options={"asset": "art.png"})
TRACE = "t,hp\n" + "\n".join(f"{k / 10},{100 - k}" for k in range(30)) + "\n"


@pytest.fixture
def folder(tmp_path: Path) -> Path:
    """A project with a picture that was cut short."""
    Image.effect_noise((64, 64), 90).save(tmp_path / "whole.png")
    (tmp_path / "art.png").write_bytes((tmp_path / "whole.png").read_bytes()[:900])
    (tmp_path / "t.csv").write_text(TRACE)
    save(Project(widgets=(PICTURE,), traces=(Recording(path="t.csv"),)), tmp_path / "p.avrin")
    return tmp_path


@pytest.mark.parametrize("command", [["frame", "--out", "f.svg"], ["screens", "--out", "s.svg"]])
def test_what_cannot_be_drawn_is_one_line_and_status_1(
    folder: Path, command: list[str], capsys: pytest.CaptureFixture[str], monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.chdir(folder)
    said = [command[0], "p.avrin", "--trace", "t.csv", "--at", "1", *command[1:]]
    assert main(said) == 1
    assert capsys.readouterr().err == "avrin: art.png is damaged. The picture shows a mark in its place\n"
    assert (folder / command[2]).exists()
    (folder / "art.png").write_bytes((folder / "whole.png").read_bytes())
    assert main(said) == 0
    assert capsys.readouterr().err == ""


def test_track_writes_over_what_it_wrote_before(folder: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.chdir(folder)
    for out in ("o.csv", "o.csv", "o.parquet", "o.parquet", "o.jsonl", "o.csv"):
        assert main(["track", "p.avrin", "--trace", "t.csv", "--out", out]) == 0
    counter = Widget(id="c", kind="counter", inputs={"value": "hp"})
    hp = Variable(name="hp", type="float")
    plain = Project(variables=(hp,), widgets=(counter,), traces=(Recording(path="t.csv"),))
    save(plain, folder / "p.avrin")  # another table with all the data in its cells
    assert main(["track", "p.avrin", "--trace", "t.csv", "--out", "o.csv"]) == 0


@pytest.mark.parametrize("spoil", ["cut", "zeros", "noise", "head", "empty"])
def test_a_damaged_film_is_refused_in_words_or_shown(tmp_path: Path, spoil: str) -> None:
    whole = film(tmp_path / "whole.mp4", list(range(12))).read_bytes()
    half = len(whole) // 2
    content = {
        "cut": whole[:half], "zeros": whole[:half] + bytes(len(whole) - half), "noise": whole[:200] + whole[200:][::-1],
        "head": whole[:40], "empty": b"",
    }[spoil]  # fmt: skip
    path = tmp_path / "film.mp4"
    path.write_bytes(content)
    for look in (lambda: open_footage(path).at(0.2), lambda: still_file(path, 0.2), lambda: film_shades(path)):
        try:
            look()
        except AvrinError as error:
            assert error.problem
    assert isinstance(refusal_of(path), str)
    close_stills()


def test_a_stream_of_an_unknown_coding_is_refused_in_words(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    class Unknown:
        """What the library returns for a stream without a decoder: no size and no context."""

        codec_context = None

    class Opened:
        """A file with such a stream."""

        streams = type("Streams", (), {"video": [Unknown()]})

        def close(self) -> None:
            pass

    (tmp_path / "film.mp4").write_bytes(b"film")
    monkeypatch.setattr("av.open", lambda *_, **__: Opened())
    assert refusal_of(tmp_path / "film.mp4") == "is coded in a way that is not known here"


def test_files_that_cannot_be_read_are_a_finding_each_and_end_no_checks(tmp_path: Path) -> None:
    Image.new("RGB", (8, 8)).save(tmp_path / "n-01.png")
    for number in range(1, 5):
        (tmp_path / f"n-{number:02}.png").write_bytes(b"\x89PNG\r\n\x1a\nspoilt")
    (tmp_path / "film.mp4").write_bytes(b"\0\0\0\x18ftypmp42spoilt")
    Image.effect_noise((64, 64), 90).save(tmp_path / "whole.png")
    (tmp_path / "cut.png").write_bytes((tmp_path / "whole.png").read_bytes()[:900])
    plates = (
        Plate(name="film", film="film.mp4"), Plate(name="numbered", film="n-##.png"), Plate(name="cut", picture="cut.png"),
    )  # fmt: skip
    label = Widget(id="l", kind="label", inputs={"text": "Hull"}, place=Place(size=(200.0, 40.0)))
    bound = bind(Project(plates=plates, widgets=(label,)), folder=tmp_path)
    found = Inspector(CHECKS).inspect(bound, [Tracks(bound, Trace.make("t", [0.0, 0.1], {}))])
    missing = {one.plate for one in found if one.code == "asset-missing"}
    assert missing == {"film", "numbered", "cut"}
    assert not [one for one in found if one.code == "check-failed"]


def test_decoders_of_films_that_give_way_are_closed(tmp_path: Path) -> None:
    files = [film(tmp_path / f"{number}.mp4", list(range(8))) for number in range(5)]

    def held() -> int:
        return len(list(Path("/proc/self/fd").iterdir()))

    close_stills()
    before = held()
    for path in files:
        assert footage_seconds(path) > 0
        still_file(path, 0.1)
    assert held() <= before + 2
    close_stills()
    assert held() == before


def test_a_project_is_used_by_its_name_alone(folder: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.chdir(folder)
    (folder / "in").mkdir()
    (folder / "in/a.csv").write_text(TRACE)
    said = ["sweep", "p.avrin", "--folder", ".", "--recordings", "in", "--out", "s.parquet", "--jobs", "1"]
    assert main(said) == 0
    assert main(["check", "p.avrin", "--format", "json", "--fail-on", "never"]) == 0
