"""The SVG renderer process of the core: `python -m avrin.render.resvg_process`, started by `confined`."""

from __future__ import annotations

import resvg_py

from avrin.render.sandbox import serve

__all__: list[str] = []


def _draw(content: bytes, width: int, height: int) -> bytes | None:
    """Return the drawing as PNG."""
    try:
        return bytes(resvg_py.svg_to_bytes(svg_string=content.decode("utf-8"), width=width, height=height))
    except ValueError:
        return None


if __name__ == "__main__":
    serve(_draw)
