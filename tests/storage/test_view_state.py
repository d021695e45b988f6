"""How a project is looked at is kept beside it, for each file its own; what cannot be read is as at first."""

from __future__ import annotations

from pathlib import Path

import pytest

from avrin.storage.view_state import ViewState, load_view_state, save_view_state

SOME = ViewState(hidden=("bar",), locked=("log", "bar"), unfolded=("crew",), order="by hand", by_hand=("widget bar",))


@pytest.fixture(autouse=True)
def _state(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setenv("AVRIN_STATE", str(tmp_path / "state"))


def test_it_comes_back_for_that_file_alone(tmp_path: Path) -> None:
    one, other = tmp_path / "a" / "game.avrin", tmp_path / "b" / "game.avrin"
    save_view_state(one, SOME)
    assert load_view_state(one) == SOME
    assert load_view_state(other) == ViewState()
    save_view_state(one, ViewState())
    assert list((tmp_path / "state").rglob("*.json")) == [], "what is as at first needs no file"


@pytest.mark.parametrize("text", ["", "{", '{"order": "by luck"}', '{"hidden": 3}'])
def test_what_cannot_be_read_is_as_at_first(tmp_path: Path, text: str) -> None:
    save_view_state(tmp_path / "game.avrin", SOME)
    (file,) = (tmp_path / "state").rglob("*.json")
    file.write_text(text)
    assert load_view_state(tmp_path / "game.avrin") == ViewState()


def test_a_folder_that_cannot_be_written_costs_comfort_alone(tmp_path: Path) -> None:
    (tmp_path / "state").write_text("a file in the way")
    save_view_state(tmp_path / "game.avrin", SOME)
    assert load_view_state(tmp_path / "game.avrin") == ViewState()
