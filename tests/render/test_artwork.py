"""Picture files that must not do harm."""

from __future__ import annotations

import io
import struct
from pathlib import Path

import pytest
from PIL import Image

from avrin.kinds.shapes import Picture
from avrin.render.artwork import artwork
from avrin.render.svg import svg

HEAD = '<svg xmlns="http://www.w3.org/2000/svg" xmlns:x="http://www.w3.org/1999/xlink" width="9" height="9">'
RECT = '<rect width="4" height="5" fill="#ff0000" />'


def test_references_within_an_svg_stay(tmp_path: Path) -> None:
    inner = '<g id="a" fill="url(#b)" /><use href="#a" /><image href="data:image/png;base64,AAAA" />'
    source = tmp_path / "a.svg"
    source.write_text(HEAD + inner + "</svg>")
    assert inner in (artwork(str(source)) or b"").decode()


def png_head(width: int, height: int) -> bytes:
    return b"\x89PNG\r\n\x1a\n" + struct.pack(">I4sII", 13, b"IHDR", width, height) + b"\x08\x06\0\0\0"


def png(width: int, height: int) -> bytes:
    made = io.BytesIO()
    Image.new("RGBA", (width, height), "#804020").save(made, "PNG")
    return made.getvalue()


@pytest.mark.parametrize(
    ("name", "content", "drawn"),
    [
        ("small.png", png(8, 8), True),
        ("torn.png", png(8, 8)[:-20], False),
        ("head.png", png_head(8, 8), False),
        ("spoilt.png", png(8, 8).replace(b"IDAT", b"IDAT\0", 1), False),
        ("huge.png", png_head(20_000, 20_000), False),
        ("none.png", png_head(0, 8), False),
        ("words.png", b"words", False),
        ("empty.svg", b"", False),
        ("words.svg", b"<p>words</p>", False),
        ("bomb.svg", b'<!DOCTYPE s [<!ENTITY a "aa">]><svg>&b;</svg>', False),
    ],
)
def test_what_cannot_be_drawn_is_marked_in_svg_as_well(name: str, content: bytes, drawn: bool, tmp_path: Path) -> None:
    source = tmp_path / name
    source.write_bytes(content)
    made = svg([Picture(1, 2, 30, 40, str(source))], 50, 50)
    assert ("<image" in made) is drawn
    assert ('stroke="#ff6b78"' in made) is not drawn


def test_a_file_that_is_gone_is_marked(tmp_path: Path) -> None:
    assert 'stroke="#ff6b78"' in svg([Picture(0, 0, 9, 9, str(tmp_path / "gone.png"))], 9, 9)
