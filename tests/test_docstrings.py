"""What public docstrings say: the errors that are raised there, and the shapes of arrays; and examples that hold."""

from __future__ import annotations

import ast
import doctest
import functools
import importlib
from collections.abc import Iterator
from pathlib import Path

import pytest

import avrin

SOURCES = Path(avrin.__file__).parent
OURS = {"AssertionError", "StopIteration", "SystemExit", "NotImplementedError"}  # callers are not meant to catch these


@functools.cache
def functions() -> list[tuple[str, ast.FunctionDef]]:
    """Every function and method that others may call."""

    def within(node: ast.AST, name: str) -> Iterator[tuple[str, ast.FunctionDef]]:
        for child in ast.iter_child_nodes(node):
            if isinstance(child, ast.ClassDef | ast.FunctionDef) and not child.name.startswith("_"):
                if isinstance(child, ast.FunctionDef):
                    yield f"{name}.{child.name}", child
                else:
                    yield from within(child, f"{name}.{child.name}")

    return [
        found for path in sorted(SOURCES.rglob("*.py"))
        for found in within(ast.parse(path.read_text("utf-8")), path.relative_to(SOURCES).as_posix())
    ]  # fmt: skip


def raised(node: ast.AST) -> Iterator[str]:
    """Names of what a function raises itself, not what functions within it do."""
    for child in ast.iter_child_nodes(node):
        if isinstance(child, ast.FunctionDef | ast.Lambda | ast.ClassDef):
            continue
        if isinstance(child, ast.Raise) and child.exc is not None:
            of = child.exc.func if isinstance(child.exc, ast.Call) else child.exc
            yield ast.unparse(of)
        yield from raised(child)


def test_what_raises_says_so() -> None:
    silent = [
        name for name, node in functions()
        if {*raised(node)} - OURS and "Raises" not in (ast.get_docstring(node) or "")
    ]  # fmt: skip
    assert silent == []


def test_what_takes_or_gives_arrays_tells_their_shape() -> None:
    silent = []
    for name, node in functions():
        args = [arg.annotation for arg in (*node.args.args, *node.args.kwonlyargs)]
        told = [ast.unparse(one) for one in (*args, node.returns) if one is not None]
        if any("Array" in one and "QByteArray" not in one for one in told) and "shape" not in (
            ast.get_docstring(node) or ""
        ):
            silent.append(name)
    assert silent == []


@pytest.mark.parametrize(
    "path", [p for p in SOURCES.rglob("*.py") if ">>>" in p.read_text("utf-8")], ids=lambda p: p.stem
)
def test_examples_in_docstrings_hold(path: Path) -> None:
    module = importlib.import_module(".".join(("avrin", *path.relative_to(SOURCES).with_suffix("").parts)))
    tried = doctest.testmod(module)
    assert tried.attempted > 0
    assert tried.failed == 0
