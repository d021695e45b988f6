"""Work that is attacked at random: edits, saves, second windows, other programs, full disks, kills, spoilt caches.

After each step: the project's file is one that somebody wrote, whole; nobody wrote over what he had not seen; what was kept
long enough is found again; what a recording shows is what it holds. `python tests/fuzz/trust.py 0 200` runs many rounds, by
hand: the first seed, and how many; `test_trust.py` runs a few in every test run.
"""

from __future__ import annotations

import hashlib
import json
import os
import random
import subprocess
import sys
import tempfile
from pathlib import Path
from typing import Any

__all__ = ["run"]

HERE = Path(__file__).parent
STEPS = 9
LONG = 1200  # milliseconds after which an edit is kept
PROJECT = {"format": "avrin/1", "title": "begun", "traces": ["one.csv", "two.csv"]}


class Window:
    """One actor, and what is known of it. edits: titles that it made and has not saved."""

    def __init__(self, project: Path, env: dict[str, str]) -> None:
        self.process = subprocess.Popen(
            [sys.executable, str(HERE / "trust_actor.py"), str(project)], stdin=subprocess.PIPE, stdout=subprocess.PIPE,
            stderr=subprocess.DEVNULL, text=True, env=env,
        )  # fmt: skip
        self.edits: list[str] = []
        self.waited = 0  # milliseconds that it was awake since the latest edit
        self.full = False
        self.cannot = False  # whether it said that it cannot keep
        self.last: dict[str, Any] = {}

    def ask(self, line: str) -> dict[str, Any]:
        assert self.process.stdin is not None
        assert self.process.stdout is not None
        self.process.stdin.write(line + "\n")
        self.process.stdin.flush()
        answer = self.process.stdout.readline()
        assert answer, f"a window ended at '{line}'"
        self.last = json.loads(answer)
        self.cannot = self.cannot or any("cannot be kept" in text for text in self.last["said"])
        return self.last

    def kill(self) -> None:
        self.process.kill()
        self._closed()

    def quit(self) -> None:
        self.ask("quit")
        self._closed()

    def _closed(self) -> None:
        self.process.wait()
        for stream in (self.process.stdin, self.process.stdout):
            assert stream is not None
            stream.close()


class Round:
    """One folder, and everything that was made in it. versions: contents that somebody wrote into the project's file."""

    def __init__(self, seed: int, folder: Path) -> None:
        self.random = random.Random(seed)
        self.folder = folder
        self.project = folder / "game" / "p.avrin"
        self.env = {**os.environ, "AVRIN_STATE": str(folder / "state"), "AVRIN_CACHE": str(folder / "cache"),
                    "AVRIN_DATA": str(folder / "data")}  # fmt: skip
        self.project.parent.mkdir()
        self.number = 0
        for at, name in enumerate(("one", "two")):
            rows = "".join(f"{i / 10},{(i * (3 + at)) % 71}\n" for i in range(400))
            table = self.project.parent / f"{name}.csv"
            table.write_text("t,hull\n" + rows)
            os.utime(table, (1_000_000, 1_000_000))  # long untouched, so that notes of it are kept
        self.versions: set[bytes] = set()
        self.outside(PROJECT)
        self.windows: list[Window] = []
        self.values: dict[str, str] = {}
        self.log: list[str] = []

    # -- what happens ---------------------------------------------------------------------------------------------------

    def outside(self, content: dict[str, Any]) -> None:
        data = json.dumps(content).encode()
        self.project.write_bytes(data)
        self.versions.add(data)

    def open(self) -> None:
        window = Window(self.project, self.env)
        self.windows.append(window)
        told = window.ask("open")
        assert not told["wrong"] or "cannot be read" in told["wrong"], told
        window.ask("values")
        self.check_values(window)

    def edit(self, window: Window) -> None:
        self.number += 1
        title = f"edit {self.number}"
        window.ask(f"edit {title}")
        window.edits.append(title)
        window.waited = 0

    def wait(self, window: Window, milliseconds: int) -> None:
        window.ask(f"wait {milliseconds}")
        window.waited += milliseconds

    def save(self, window: Window) -> None:
        before, seen = self.content(), window.last.get("seen")
        told = window.ask("save")
        if told["wrong"]:
            assert self.content() == before, "a save that failed changed the file"
            return
        now = self.content()
        if now != before:
            assert not before or digest(before) == seen, "it wrote over what it had not seen"
        self.versions.add(now)
        window.edits.clear()

    def step(self) -> None:
        words = ["edit", "edit", "save", "wait", "outside", "poison", "kill", "open", "quit", "full", "room", "answer"]
        word = self.random.choice(words)
        window = self.random.choice(self.windows) if self.windows else None
        self.log.append(word)
        if word == "open" and len(self.windows) < 3:
            self.open()
        elif word == "outside":
            self.number += 1
            self.outside({**PROJECT, "title": f"outside {self.number}"})
        elif word == "poison":
            self.poison()
        elif window is None:
            self.open()
        elif word == "edit":
            self.edit(window)
        elif word == "save":
            self.save(window)
        elif word == "wait":
            self.wait(window, self.random.choice((300, 1300)))
        elif word in ("full", "room"):
            window.full = window.full or word == "full"
            window.ask(word)
        elif word == "answer":
            window.ask(f"answer {self.random.choice(('take theirs', 'keep mine', 'restore them', 'take it over'))}")
            window.edits.clear()  # what was chosen against is not looked for
        elif word in ("kill", "quit"):
            self.end(window, killed=word == "kill")

    def end(self, window: Window, *, killed: bool) -> None:
        """A window ends; what it had not saved is looked for where the next start looks."""
        if killed and self.random.random() < 0.5:
            self.wait(window, 1300)
        title, edited = window.last.get("title"), window.last.get("edited")
        made = window.edits[-1] if window.edits else None
        (window.kill if killed else window.quit)()
        self.windows.remove(window)
        long_ago = not killed or window.waited >= LONG
        if made is not None and edited and title == made and long_ago and not window.full:
            assert title in self.left(), f"{made} is lost"
        if window.full and edited and made is not None and long_ago and title not in self.left():
            assert window.cannot or not killed, "a full disk was not told of"

    def poison(self) -> None:
        files = [path for path in (self.folder / "cache").rglob("*") if path.is_file()]
        for path in self.random.sample(files, min(3, len(files))):
            data = bytearray(path.read_bytes())
            match self.random.choice(("cut", "empty", "spoil", "swap", "gone")):
                case "cut":
                    os.truncate(path, len(data) // 2)
                case "empty":
                    path.write_bytes(b"")
                case "spoil" if data:
                    data[self.random.randrange(len(data))] ^= 0xFF
                    path.write_bytes(data)
                case "swap":
                    other = self.random.choice(files)
                    path.write_bytes(other.read_bytes() if other.exists() else b"")
                case _:
                    path.unlink(missing_ok=True)

    # -- what must hold -------------------------------------------------------------------------------------------------

    def content(self) -> bytes:
        return self.project.read_bytes() if self.project.exists() else b""

    def left(self) -> set[str]:
        """Titles of what is kept for the next start."""
        script = "from avrin.storage.journal import left_behind\nfor _, one in left_behind(): print(one.opened().title)"
        told = subprocess.run([sys.executable, "-c", script], env=self.env, capture_output=True, text=True, check=True)
        return set(told.stdout.splitlines())

    def check_values(self, window: Window) -> None:
        name, values = window.last["recording"], window.last["values"]
        assert self.values.setdefault(name, values) == values, "a recording shows what it does not hold"

    def check(self) -> None:
        assert self.content() in self.versions, "the file is none that anybody wrote"
        for path in self.project.parent.iterdir():
            assert not path.name.endswith(".part") or self.windows, f"{path.name} was left"


def digest(data: bytes) -> str:
    return hashlib.blake2b(data, digest_size=20).hexdigest()


def run(seed: int) -> None:
    """One round. Raises AssertionError where anything is lost, false, or not told."""
    with tempfile.TemporaryDirectory() as folder:
        one = Round(seed, Path(folder))
        try:
            one.open()
            for _ in range(STEPS):
                one.step()
                one.check()
            for window in [*one.windows]:
                one.end(window, killed=one.random.random() < 0.5)
            one.open()
            one.check()
        except AssertionError as error:
            raise AssertionError(f"seed {seed}, after {' '.join(one.log)}: {error}") from error
        finally:
            for window in one.windows:
                window.kill()


if __name__ == "__main__":
    first, count = (int(word) for word in sys.argv[1:3])
    failed = 0
    for number in range(first, first + count):
        try:
            run(number)
        except AssertionError as error:
            failed += 1
            print(error, flush=True)
    print(f"{count} rounds, {failed} failed")
