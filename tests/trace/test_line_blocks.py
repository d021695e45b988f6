"""Files in blocks of whole lines."""

from __future__ import annotations

import tempfile
from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st

from avrin.errors import AvrinError
from avrin.trace import line_blocks as module
from avrin.trace.line_blocks import BOM, line_blocks


@given(
    st.lists(st.binary(max_size=9).map(lambda line: line.replace(b"\n", b"")), max_size=30),
    st.integers(1, 40),
    st.booleans(),
)
def test_blocks_are_whole_lines_and_together_the_file(lines: list[bytes], size: int, marked: bool) -> None:
    content = b"\n".join(lines)
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "lines.txt"
        path.write_bytes((BOM if marked else b"") + content)
        blocks = list(line_blocks(path, max(size, len(BOM))))
    assert b"".join(blocks) == (content if marked else content.removeprefix(BOM))
    assert all(block.endswith(b"\n") for block in blocks[:-1])
    assert all(blocks)


def test_a_line_that_never_ends_is_refused_before_it_fills_the_memory(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(module, "MAX_LINE_BYTES", 100)
    path = tmp_path / "lines.txt"
    path.write_bytes(b"x" * 100 + b"\n" + b"y" * 100)
    assert list(line_blocks(path, 10)) == [b"x" * 100 + b"\n", b"y" * 100]
    path.write_bytes(b"x" * 111 + b"\n")
    with pytest.raises(AvrinError, match="a line is longer than 64 MiB"):
        list(line_blocks(path, 10))
