"""Pictures made to do harm: refused in words, or drawn without what harms, and soon."""

from __future__ import annotations

import gc
import os
import time
import weakref
from pathlib import Path

import msgspec
import pytest
from hypothesis import given
from hypothesis import strategies as st
from msgspec import inspect

from avrin.errors import AvrinError
from avrin.kinds.registry import KINDS
from avrin.render.artwork import artwork, refusal
from avrin.render.nine_slice import picture_size
from avrin.render.safe_svg import clean
from avrin.storage.files import load
from avrin.storage.reading import plain_file, read_whole
from avrin.trace.store import open_trace

HEAD = '<svg xmlns="http://www.w3.org/2000/svg" xmlns:x="http://www.w3.org/1999/xlink" width="9" height="9">'
RECT = '<rect width="4" height="5" fill="#ff0000" />'


def laughing(times: int, levels: int) -> str:
    """Groups that use the one before many times: of few bytes an endless picture."""
    groups = [f'<g id="g0">{RECT}</g>']
    groups += [f'<g id="g{n}">' + f'<use href="#g{n - 1}"/>' * times + "</g>" for n in range(1, levels + 1)]
    return f'{HEAD}<defs>{"".join(groups)}</defs><use href="#g{levels}"/></svg>'


def declared(encoding: str) -> str:
    return f'<?xml version="1.0" encoding="{encoding}"?>{HEAD}</svg>'


@pytest.mark.parametrize(
    ("content", "why"),
    [
        (HEAD.encode() + b"<g>" * 3000 + b"</g>" * 3000 + b"</svg>", "nests more than 200 elements"),
        (laughing(10, 9).encode(), "draws more than 20,000 elements"),
        (f'{HEAD}<pattern id="p"><rect fill="url(#p)"/></pattern></svg>'.encode(), "is used within itself"),
        (f'{HEAD}<g id="a"><use x:href="#a"/></g></svg>'.encode(), "is used within itself"),
        (declared("shift-jis").encode("shift-jis"), "is written in an encoding other than UTF-8"),
        (declared("klingon").encode(), "is written in an encoding other than UTF-8"),
        (f'<!DOCTYPE svg [<!ENTITY a "aaaa">]>{HEAD}<text>&a;</text></svg>'.encode(), "declares entities of its own"),
        (b"<html><body/></html>", "is not an SVG: its root element is different"),
        (b"words", "is not valid XML (syntax error: line 1, column 0)"),
        (b"", "is not valid XML (no element found: line 1, column 0)"),
        (f"{HEAD}<!--{'x' * (8 * 2**20)}--></svg>".encode(), "is larger than 8 MiB"),
    ],
)  # fmt: skip
def test_an_svg_that_cannot_be_drawn_is_refused_in_words_and_soon(content: bytes, why: str, tmp_path: Path) -> None:
    source = tmp_path / "a.svg"
    source.write_bytes(content)
    before = time.process_time()
    assert refusal(str(source)) == why
    assert artwork(str(source)) is None
    assert time.process_time() - before < 5  # nothing freezes; speed is measured elsewhere


@pytest.mark.parametrize(
    "harm",
    [
        '<a href="javascript:alert(1)"><rect id="evil"/></a>',
        '<animate attributeName="href" to="javascript:alert(1)"/>',
        '<set attributeName="onload" to="alert(1)"/>',
        '<image href="data:image/svg+xml;base64,YWxlcnQ="/>',
        '<image href="data:text/html,alert"/>',
        '<g style="fill: u\\72l(https://example.org/alert)"/>',
        '<style>@\\69mport "alert";</style>',
        '<g xml:base="https://example.org/alert"/>',
        '<video src="alert.webm"/>',
        '<x:script xmlns:x="http://www.w3.org/1999/xhtml">alert(1)</x:script>',
        '<feImage href="https://example.org/alert.png"/>',
        '<rect filter="url( &quot;https://example.org/alert#f&quot; )"/>',
        "<metadata>alert</metadata>",
        "<script>alert(1)</script>",
        '<image x:href="file:///etc/hostname" width="9" height="9"/>',
        '<image href="https://example.org/a.png" width="9" height="9"/>',
        '<use href="other.svg#a"/>',
        "<foreignObject><p>words</p></foreignObject>",
        '<g onload="alert(1)"/>',
        '<g fill="url(https://example.org/a.svg#b)"/>',
        "<g style=\"fill:url( 'other.svg#b' )\"/>",
        "<style>@import 'https://example.org/a.css';</style>",
        "<style>rect { fill: url(other.svg#b) }</style>",
    ],
)
def test_nothing_active_is_left(harm: str, tmp_path: Path) -> None:
    source = tmp_path / "a.svg"
    source.write_text(HEAD + harm + RECT + "</svg>")
    text = (artwork(str(source)) or b"").decode()
    assert RECT in text
    for word in ("alert", "example", "script", "YWxl", "hostname", "other", "words"):
        assert word not in text


def test_what_a_still_picture_is_made_of_stays(tmp_path: Path) -> None:
    source = tmp_path / "a.svg"
    inner = (
        '<defs><linearGradient id="b"><stop offset="0" stop-color="#123456" /></linearGradient>'
        '<filter id="f"><feGaussianBlur stdDeviation="2" /></filter></defs>'
        '<g fill="url(#b)" filter="url(#f)"><path d="M0 0L9 9" /></g><image href="data:image/png;base64,AAAA" />'
    )
    source.write_text(HEAD + inner + "</svg>")
    assert inner in (artwork(str(source)) or b"").decode()


@given(st.binary(max_size=400))
def test_no_bytes_do_more_than_be_refused(tmp_path_factory: pytest.TempPathFactory, content: bytes) -> None:
    source = tmp_path_factory.mktemp("art") / "a.svg"
    source.write_bytes(content)
    assert (artwork(str(source)) is None) == bool(refusal(str(source)))


def test_pipes_devices_and_folders_are_no_files(tmp_path: Path) -> None:
    pipe = tmp_path / "pipe.svg"
    os.mkfifo(pipe)
    for path, word in ((pipe, "a pipe"), (Path("/dev/zero"), "a device"), (tmp_path, "a folder")):
        with pytest.raises(AvrinError, match=f"is {word}, not a file"):
            read_whole(path, 10)
    with pytest.raises(AvrinError, match="cannot be read"):
        plain_file(tmp_path / "nothing")
    assert refusal(str(pipe)) == "is a pipe, not a file"
    for end in (".avrin", ".csv", ".parquet", ".jsonl", ".png"):
        path = tmp_path / f"pipe{end}"
        os.mkfifo(path)
        if end == ".avrin":
            with pytest.raises(AvrinError, match="is a pipe"):
                load(path)
        elif end == ".png":
            assert picture_size(str(path)) is None
        else:
            with pytest.raises(AvrinError, match="is a pipe"):
                open_trace(path)


def test_a_file_is_read_up_to_its_limit(tmp_path: Path) -> None:
    path = tmp_path / "a"
    path.write_bytes(b"x" * 2**20)
    assert len(read_whole(path, 2**20)) == 2**20
    with pytest.raises(AvrinError, match="is larger than 0 MiB"):
        read_whole(path, 2**20 - 1)


def unbounded(kind: inspect.Type, path: tuple[object, ...]) -> list[tuple[object, ...]]:
    match kind:
        case inspect.Metadata():
            return unbounded(kind.type, path)
        case inspect.FloatType() | inspect.IntType():
            low, high = (kind.ge, kind.gt), (kind.le, kind.lt)
            return [] if any(x is not None for x in low) and any(x is not None for x in high) else [path]
        case inspect.StructType():
            return [found for f in kind.fields for found in unbounded(f.type, (*path, f.name))]
        case inspect.UnionType() | inspect.TupleType():
            parts = kind.types if isinstance(kind, inspect.UnionType) else kind.item_types
            return [found for i, part in enumerate(parts) for found in unbounded(part, (*path, i))]
        case inspect.VarTupleType() | inspect.ListType():
            return unbounded(kind.item_type, path)
        case inspect.DictType():
            return unbounded(kind.value_type, path)
    return []


@pytest.mark.parametrize("kind", KINDS)
def test_every_number_of_an_option_or_a_look_is_bounded(kind: str) -> None:
    for struct in (KINDS[kind].options, KINDS[kind].look):
        assert unbounded(msgspec.inspect.type_info(struct), (struct.__name__,)) == []


@pytest.mark.parametrize(
    "content",
    [
        b"no picture", b"<svg", b"<html/>", b"\xff\xfe<svg/>", b"<!DOCTYPE svg [<!ENTITY a 'b'>]><svg>&a;</svg>",
        b"<svg xmlns='http://www.w3.org/2000/svg'>" + b"<g>" * 400 + b"</g>" * 400 + b"</svg>",
        b"<svg xmlns='http://www.w3.org/2000/svg'><g id='a'><use href='#a'/></g></svg>",
    ],
)  # fmt: skip
def test_what_is_refused_holds_on_to_nobody(content: bytes) -> None:
    class Painter:
        """As one that must be gone when its painting is over."""

    def asked() -> weakref.ref[Painter]:
        painter = Painter()
        try:
            clean(content)
        except AvrinError:
            return weakref.ref(painter)
        pytest.fail("it is refused")

    gc.collect()
    gc.disable()
    try:
        assert asked()() is None
    finally:
        gc.enable()
