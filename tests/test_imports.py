"""Imports: modules import from modules, at their top; what loads late says what it would cost a start."""

from __future__ import annotations

import ast
import re
from collections.abc import Iterator
from pathlib import Path

import avrin

SOURCE = Path(avrin.__file__).parent
REASON = re.compile(r"# late: [1-9]\d* ms")


def late_imports(tree: ast.Module) -> Iterator[ast.stmt]:
    """The first of each group of imports inside a function."""
    for function in ast.walk(tree):
        if isinstance(function, ast.FunctionDef | ast.AsyncFunctionDef):
            for holder in ast.walk(function):
                body = getattr(holder, "body", [])
                for before, line in zip([None, *body], body, strict=False) if isinstance(body, list) else ():
                    if is_import(line) and not is_import(before):
                        yield line


def is_import(line: ast.stmt | None) -> bool:
    return isinstance(line, ast.Import | ast.ImportFrom)


def unreasoned(code: str) -> list[int]:
    """The lines of late imports that do not say what they would cost."""
    lines = code.splitlines()
    return sorted({line.lineno for line in late_imports(ast.parse(code)) if not REASON.search(lines[line.lineno - 1])})


def test_an_import_inside_a_function_says_what_it_would_cost_a_start() -> None:
    found = [
        f"{path.relative_to(SOURCE)}:{line}"
        for path in SOURCE.rglob("*.py")
        for line in unreasoned(path.read_text("utf-8"))
    ]
    assert not found, "import at the top, or end the line with `# late: N ms`"


def test_an_import_without_a_reason_is_noticed() -> None:
    code = "import a\ndef f():\n    import b  # late: 3 ms\n    import c\n    d()\n    import e  # some day\n"
    assert unreasoned(code) == [6]
    assert unreasoned("def f():\n    if x:\n        from g import h\n") == [3]


def test_packages_hold_their_docstrings_alone() -> None:
    for path in {*SOURCE.glob("*/**/__init__.py")} - {SOURCE / "app/__init__.py"}:  # which restores Python's own import
        (line,) = ast.parse(path.read_text("utf-8")).body
        assert isinstance(line, ast.Expr), path
