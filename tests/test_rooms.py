"""A room's parts are loaded when something in them is first asked for."""

from __future__ import annotations

import ast
import importlib
import subprocess
import sys
from collections.abc import Iterator
from pathlib import Path

import pytest

import avrin
from avrin.rooms import open_when_wanted

SOURCE = Path(avrin.__file__).parent
ROOMS = [
    ".".join(("avrin", *page.parent.relative_to(SOURCE).parts))
    for page in sorted(SOURCE.glob("*/**/__init__.py"))
    if "app" not in page.relative_to(SOURCE).parts
]


def _in_a_process(code: str) -> None:
    done = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, check=False)
    assert done.returncode == 0, done.stderr


@pytest.mark.parametrize("room", ROOMS)
def test_a_room_gives_out_what_its_page_imports(room: str) -> None:
    loaded = importlib.import_module(room)
    page = Path(str(loaded.__file__))
    given = {
        name.asname or name.name: (str(line.module), name.name)
        for line in ast.parse(page.read_text("utf-8")).body
        if isinstance(line, ast.ImportFrom) and str(line.module).startswith(f"{room}.")
        for name in line.names
    }
    for name, (part, own) in given.items():
        assert getattr(loaded, name) is getattr(importlib.import_module(part), own), name
        assert name in dir(loaded)
    assert set(getattr(loaded, "__all__", ())) <= {*given, *vars(loaded)}


def test_nothing_is_loaded_that_was_not_asked_for() -> None:
    _in_a_process(
        "import sys\nimport avrin.rules\nassert 'avrin.rules.parse' not in sys.modules\n"
        "from avrin.rules import RuleError\nassert 'avrin.rules.errors' in sys.modules\n"
        "assert 'avrin.rules.parse' not in sys.modules and 'numpy' not in sys.modules"
    )


def test_a_part_called_as_what_it_gives_stands_behind_it_whichever_is_loaded_first() -> None:
    _in_a_process(
        "import avrin.render.svg\nfrom avrin.render import svg\nassert svg.__name__ == 'svg' and callable(svg), svg\n"
        "import sys\nassert svg is sys.modules['avrin.render.svg'].svg"
    )
    _in_a_process(
        "from avrin.render import svg\nimport avrin.render.svg\nfrom avrin.render import svg as again\nassert svg is again"
    )


def test_a_name_that_a_room_has_not_is_an_error() -> None:
    import avrin.rules

    with pytest.raises(AttributeError, match=r"module 'avrin\.rules' has no attribute 'nothing'"):
        _ = avrin.rules.nothing  # type: ignore[attr-defined]
    _in_a_process(
        "try:\n    from avrin.rules import nothing\nexcept ImportError as error:\n    assert 'nothing' in str(error)"
    )


def test_what_is_set_on_a_room_is_what_it_gives(monkeypatch: pytest.MonkeyPatch) -> None:
    import avrin.rules

    monkeypatch.setattr(avrin.rules, "parse", 7)
    from avrin.rules import parse

    assert parse == 7  # type: ignore[comparison-overlap]


@pytest.fixture
def house(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> Iterator[str]:
    """A package with one room of three parts, one of them called as what it gives, and a part that is not a room."""
    room = tmp_path / "house" / "room"
    room.mkdir(parents=True)
    (tmp_path / "house" / "__init__.py").write_text("")
    (tmp_path / "house" / "cellar.py").write_text("from house.room.chair import Chair\n")
    (room / "__init__.py").write_text(
        "'''A room.'''\nimport json\nfrom house.room.chair import Chair\nfrom house.room.lamp import lamp as light, lamp\n"
        "TALL = 3\n"
    )
    (room / "chair.py").write_text("class Chair: pass\n")
    (room / "lamp.py").write_text("def lamp(): return 'lit'\n")
    monkeypatch.syspath_prepend(str(tmp_path))
    monkeypatch.setattr(sys, "meta_path", list(sys.meta_path))
    open_when_wanted("house")
    yield "house.room"
    for name in [name for name in sys.modules if name.split(".")[0] == "house"]:
        del sys.modules[name]


def test_a_part_is_loaded_by_its_first_name(house: str) -> None:
    room = importlib.import_module(house)
    assert (room.__doc__, room.TALL, room.json.__name__) == ("A room.", 3, "json")
    assert {"house.room.chair", "house.room.lamp"}.isdisjoint(sys.modules)
    assert {"Chair", "light", "lamp", "TALL"} <= {*dir(room)}
    assert room.Chair.__name__ == "Chair"
    assert "house.room.lamp" not in sys.modules
    assert room.light is room.lamp
    assert room.lamp() == "lit"
    assert room.lamp is sys.modules["house.room.lamp"].lamp
    with pytest.raises(AttributeError, match=r"module 'house\.room' has no attribute 'table'"):
        _ = room.table


def test_what_is_no_room_is_loaded_as_ever(house: str) -> None:
    cellar = importlib.import_module("house.cellar")
    assert cellar.Chair is sys.modules["house.room.chair"].Chair
    assert "house.room.lamp" not in sys.modules
    assert type(cellar).__name__ == "module"
    importlib.import_module("house.room.lamp")
    assert callable(importlib.import_module(house).lamp), "its attribute precedes the part of the same name"
