"""Projects, recordings and pictures spoilt at random: each is used, or refused in words, and nothing else ever happens.

`test_attacks.py` runs some of them in every test run; `python tests/fuzz/attacks.py project 0 5000` more, by hand: the sort, the
first seed, how many. A seed always spoils the same.
"""

from __future__ import annotations

import functools
import json
import os
import random
import sys
import tempfile
from collections.abc import Callable
from pathlib import Path
from typing import Any

import numpy as np
from msgspec.structs import replace

if __name__ == "__main__":  # by hand: where the tests find what they share
    sys.path[:0] = [str(Path(__file__).parents[1])]

from avrin.binding.binding import bind
from avrin.binding.tracks import Tracks
from avrin.errors import AvrinError
from avrin.findings.inspector import Inspector
from avrin.findings.registry import CHECKS
from avrin.project.project import Screen
from avrin.render.artwork import artwork, refusal
from avrin.render.pixels import pixels
from avrin.render.scene import scene
from avrin.render.svg import svg
from avrin.storage.files import dumps, loads
from avrin.trace.frames import Column, Event, Trace
from avrin.trace.store import open_trace, save_trace
from sample import shared_demo

__all__ = ["ATTACKS"]

FRAMES = 240
ODD: tuple[Any, ...] = (
    None, "", "x", " ", "∞", "{", "}", "{hull", "hull", "hull +", "1/0", "true", "#12345", "#ffffff", "../../etc", "a" * 5000,
    "\0", "crew[9].scrap", "if", 0, 1, -1, 0.5, 1e308, -1e308, 10**30, True, False, [], {}, [[]], {"": ""}, [None] * 3, "m:ss",
)  # fmt: skip


@functools.cache
def demo() -> tuple[Path, str, Trace]:
    """The sample's folder, its project as text, and the beginning of a recording."""
    path = shared_demo()
    project, _ = loads(path.read_bytes())
    whole = open_trace(path.parent / project.traces[0].path, project.all_variables())
    columns = {name: Column(c.kind, c.data[::80][:FRAMES], c.words) for name, c in whole.columns.items()}
    trace = Trace(whole.name, whole.t[::80][:FRAMES], whole.run[::80][:FRAMES], columns, whole.events[:20])
    return path.parent, path.read_text(), trace


def spoil(value: Any, chance: random.Random, depth: int = 0) -> Any:
    """A JSON value with something in it replaced, left out, doubled or put elsewhere."""
    if isinstance(value, dict) and value and (depth == 0 or chance.random() < 0.9):
        key = chance.choice([*value])
        how = chance.random()
        if how < 0.08:
            return {k: v for k, v in value.items() if k != key}
        if how < 0.14:
            return {**value, chance.choice(["", "bands", "look", "x", key + "s"]): value[key]}
        return {**value, key: spoil(value[key], chance, depth + 1)}
    if isinstance(value, list) and value and chance.random() < 0.9:
        at = chance.randrange(len(value))
        how = chance.random()
        if how < 0.08:
            return [*value[:at], *value[at + 1 :]]
        if how < 0.16:
            return [*value, value[at]]
        return [*value[:at], spoil(value[at], chance, depth + 1), *value[at + 1 :]]
    if isinstance(value, str) and value and chance.random() < 0.4:
        at = chance.randrange(len(value))
        return value[:at] + chance.choice(["", "(", ")", "{", "}", '"', " ", ".", "-", "0", "é", ","]) + value[at + 1 :]
    return chance.choice(ODD)


def project(seed: int) -> None:
    """A spoilt project is refused, or bound, evaluated, checked and drawn; and what was read is written as it was."""
    folder, text, trace = demo()
    chance = random.Random(seed)
    raw = json.loads(text)
    for _ in range(chance.randint(1, 6)):
        raw = spoil(raw, chance)
    try:
        found, _ = loads(json.dumps(raw).encode())
    except AvrinError as error:
        assert str(error).strip()
        assert "\n" not in str(error)
        return
    again, _ = loads(dumps(found).encode())
    assert dumps(again) == dumps(found)
    bound = bind(found, events=trace.event_kinds, folder=folder)
    tracks = Tracks(bound, trace)
    screens = [*found.screens[:2], Screen(name="s", size=(640, 360))]
    for screen in screens:
        for frame in (0, FRAMES // 2):
            svg([placed.group for placed in scene(tracks, frame, screen)], *screen.size)
    Inspector(CHECKS).inspect(bound, [tracks])


PIECES = (
    b"", b'"', b",", b"\n", b"\r", b";", b"nan", b"inf", b"1e999", b"-", b"9" * 40, b"{", b"}", b"null", b"\xff", b"\0", b"<g>",
    b"</g>", b'<use href="#a"/>', b"&amp;", b"&x;",
)  # fmt: skip


def _bytes(content: bytes, chance: random.Random) -> bytes:
    """Some bytes replaced, cut, doubled, or pieces that mean something put among them."""
    for _ in range(chance.randint(1, 6)):
        at, until = sorted(chance.randrange(len(content) + 1) for _ in range(2))
        piece = chance.choice([*PIECES, content[at : at + 9], bytes([chance.randrange(256)])])
        content = content[:at] + piece + content[chance.choice([at, at + 1, min(until, at + 40)]) :]
        if not content:
            break
    return content


@functools.cache
def _recordings() -> dict[str, bytes]:
    columns = {
        "hull": Column.of([1.0, None, 2.5, -3.0, 1e9, 0.0]), "leak": Column.of([True, False, None, True, False, True]),
        "phase": Column.of(["dive", "a,b", 'q"q', "", None, "ende\n"]), "crew[0].scrap": Column.of([float(i) for i in range(6)]),
    }  # fmt: skip
    happened = [Event(0.1, "hit", {"points": 3.0, "who": "Ona"}), Event(0.3, "hit", {"points": None})]
    trace = Trace.make("a", [0.0, 0.1, 0.2, 0.0, 0.1, 0.3], columns, [1, 1, 1, 2, 2, 2], happened)
    found = {}
    with tempfile.TemporaryDirectory() as folder:
        for end in (".csv", ".jsonl", ".parquet"):
            save_trace(trace, Path(folder) / f"a{end}")
            found[end] = (Path(folder) / f"a{end}").read_bytes()
    return found


def recording(seed: int) -> None:
    """A spoilt recording is refused in words, or is one that can be looked at."""
    chance = random.Random(seed)
    end = chance.choice([".csv", ".csv", ".jsonl", ".jsonl", ".parquet"])
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / f"a{end}"
        path.write_bytes(_bytes(_recordings()[end], chance))
        try:
            trace = open_trace(path)
        except AvrinError as error:
            assert str(error).strip()
            return
        assert all(len(column.data) == len(trace) for column in trace.columns.values())
        assert all(np.isfinite(c.data[~c.is_missing()]).all() for c in trace.columns.values() if c.kind == "number")
        for name in trace.event_kinds:
            trace.find(f"{name}()")
        save_trace(replace(trace, name="b"), Path(folder) / f"b{chance.choice(['.csv', '.jsonl', '.parquet'])}")


PICTURE = b"""<svg xmlns="http://www.w3.org/2000/svg" xmlns:x="http://www.w3.org/1999/xlink" width="40" height="30">
<defs><linearGradient id="b"><stop offset="0" stop-color="#123456"/><stop offset="1" stop-color="red"/></linearGradient>
<g id="a"><rect width="4" height="5" fill="url(#b)"/><path d="M0 0L9 9C1 2 3 4 5 6Z"/></g></defs>
<style>.c { fill: #00ff00; }</style><use href="#a" x="9"/><use x:href="#a" y="9"/>
<text x="3" y="9" class="c">words</text><clipPath id="k"><rect width="9" height="9"/></clipPath>
<g clip-path="url(#k)" transform="scale(2) rotate(9)"><circle cx="5" cy="5" r="4"/></g>
</svg>"""


def picture(seed: int) -> None:
    """A spoilt picture is refused in words, or drawn, without anything active in it."""
    chance = random.Random(seed)
    content = _bytes(PICTURE, chance)
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "a.svg"
        path.write_bytes(content)
        found = artwork(str(path))
        assert (found is None) == bool(refusal(str(path)))
        if found is not None:
            assert b"<script" not in found
            pixels(str(path), 20, 15)


ATTACKS: dict[str, Callable[[int], None]] = {"project": project, "recording": recording, "picture": picture}


def main() -> None:
    """Run many, by hand, and name the seed of the first that did what it must not."""
    sort, first, count = sys.argv[1], int(sys.argv[2]), int(sys.argv[3])
    os.environ.setdefault("AVRIN_CACHE", tempfile.mkdtemp(prefix="avrin-attack-cache-"))
    for seed in range(first, first + count):
        try:
            ATTACKS[sort](seed)
        except BaseException:
            print(f"{sort} {seed}", file=sys.stderr)
            raise


if __name__ == "__main__":
    main()
