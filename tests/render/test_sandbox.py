"""Drawings from files are made in a process that ends where they take too much."""

from __future__ import annotations

import os
import sys
from pathlib import Path

import pytest

from avrin.errors import AvrinError
from avrin.render import sandbox
from avrin.render.pixels import undrawable
from avrin.render.sandbox import Confined

HEAD = '<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 64 64">'
PLAIN = f'{HEAD}<rect width="64" height="64" fill="red"/></svg>'.encode()
ENDLESS = f"""{HEAD}<filter id="f"><feTurbulence numOctaves="9999" baseFrequency="0.5"/></filter>
<rect width="64" height="64" filter="url(#f)"/></svg>""".encode()


@pytest.fixture
def worker(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> Confined:
    """A process that does what its drawing says: twice over, or too much."""
    (tmp_path / "said_process.py").write_text(
        "import sys\nfrom avrin.render.sandbox import serve\n"
        "def draw(content, width, height):\n"
        "    if content == b'think':\n        while True: pass\n"
        "    if content == b'grow': return bytes(2 << 30)\n"
        "    if content == b'fall': sys.exit(3)\n"
        "    return None if content == b'odd' else content * 2 + bytes([width, height])\n"
        "import avrin.render.sandbox as c\nc.CPU_SECONDS = 1\nserve(draw)\n"
    )
    paths = [str(tmp_path), str(Path(sandbox.__file__).parents[2])]
    monkeypatch.setenv("PYTHONPATH", os.pathsep.join(paths))
    return Confined("said_process")


def test_what_takes_too_much_is_refused_and_the_next_drawing_is_made(worker: Confined) -> None:
    assert worker.drawn(b"ab", 3, 4) == b"abab\x03\x04"
    assert worker.drawn(b"odd", 3, 4) is None
    for heavy in (b"think", b"grow", b"fall"):
        with pytest.raises(AvrinError, match="takes more than 5 s of processor time, or 1 GB of memory, to draw"):
            worker.drawn(heavy, 3, 4)
        assert worker.drawn(b"ab", 3, 4) == b"abab\x03\x04"


def test_what_took_too_much_once_is_refused_at_once_at_any_size(
    worker: Confined, monkeypatch: pytest.MonkeyPatch
) -> None:
    with pytest.raises(AvrinError):
        worker.drawn(b"fall", 3, 4)
    monkeypatch.setattr(worker, "_ask", lambda *_: pytest.fail("it was drawn again"))
    with pytest.raises(AvrinError):
        worker.drawn(b"fall", 30, 40)


def test_an_svg_that_never_ends_is_reported_and_one_that_does_is_drawn(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setenv("AVRIN_CACHE", str(tmp_path / "cache"))
    (tmp_path / "plain.svg").write_bytes(PLAIN)
    (tmp_path / "endless.svg").write_bytes(ENDLESS)
    assert undrawable(str(tmp_path / "plain.svg"), 64, 64) == ""
    assert "takes more than 5 s" in undrawable(str(tmp_path / "endless.svg"), 2048, 2048)


def test_the_process_ends_with_who_started_it() -> None:
    import subprocess

    done = subprocess.run([sys.executable, "-m", "avrin.render.resvg_process"], input=b"", check=False, timeout=60)
    assert done.returncode == 0
