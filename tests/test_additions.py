"""Adding something is one file and one entry: done in a copy of the program, by what CONTRIBUTING says."""

from __future__ import annotations

import os
import shutil
import subprocess
import sys
from pathlib import Path

import pytest

ROOT = Path(__file__).parents[1]
OWN = Path(__file__).with_name("additions")

# What is added: its file and where it goes; where the entry is, as texts with and without it; a program that uses it.
ADDITIONS: dict[str, tuple[tuple[str, str] | None, str, dict[str, str], str]] = {
    "a widget kind": (
        ("lamp.py", "kinds/lamp.py"),
        "kinds/registry.py", {"label, panel,": "label, lamp, panel,", "panel, button)": "panel, button, lamp)"},
        """
from pathlib import Path
from avrin.kinds.registry import KINDS
from avrin.cli import main
Path("a.csv").write_text("t,hull\\n0,80\\n1,20\\n2,\\n")
Path("p.avrin").write_text('''{"format": "avrin/1", "title": "P", "traces": [{"path": "a.csv"}],
 "variables": [{"name": "hull", "type": "float"}],
 "widgets": [{"id": "leak", "kind": "lamp", "inputs": {"on": "hull > 50"}, "place": {"size": [40, 40]},
  "look": {"lit": "#ff0000"}}]}''')
assert main(["frame", "p.avrin", "--trace", "a.csv", "--at", "0", "--out", "lit.svg"]) == 0
assert main(["frame", "p.avrin", "--trace", "a.csv", "--at", "1", "--out", "dark.svg"]) == 0
assert "#ff0000" in Path("lit.svg").read_text() and "#ff0000" not in Path("dark.svg").read_text()
assert main(["check", "p.avrin"]) == 0
""",
    ),
    "a trace format": (
        ("pairs_file.py", "trace/pairs_file.py"),
        "trace/formats.py",
        {'    ".jsonl":': '    ".pairs": Format("avrin.trace.pairs_file", is_table=True),\n    ".jsonl":'},
        """
from pathlib import Path
from avrin.cli import main
Path("a.csv").write_text("t,hull\\n0,80\\n1,20\\n")
assert main(["trace", "convert", "a.csv", "b.pairs"]) == 0
assert Path("b.pairs").read_text() == "0.0 hull=80.0\\n1.0 hull=20.0\\n"
assert main(["trace", "convert", "b.pairs", "c.csv"]) == 0
assert Path("c.csv").read_text().split() == Path("a.csv").read_text().split()
""",
    ),
    "a family of checks": (
        ("shouting.py", "findings/shouting.py"),
        "findings/registry.py", {"    screens,\n": "    screens,\n    shouting,\n", "screens, zones": "screens, shouting, zones"},
        """
from pathlib import Path
import avrin.findings.registry as registry
from avrin.cli import main
Path("p.avrin").write_text('''{"format": "avrin/1", "title": "P",
 "widgets": [{"id": "deep", "kind": "label", "inputs": {"text": "TOO DEEP"}, "place": {"size": [200, 40]}}]}''')
main(["check", "p.avrin", "--format", "json", "--out", "found.json"])
assert '"shouts"' in Path("found.json").read_text()
""",
    ),
    "a rule function": (
        None,
        "rules/functions/plain.py",
        {"FUNCTIONS = (\n": "FUNCTIONS = (\n"
         '    _simple("square", ufunc("square", np.square, AT_ZERO), "x", "x times x.", "square(hull)"),\n'},
        """
from pathlib import Path
from avrin.cli import main
Path("a.csv").write_text("t,hull\\n0,8\\n1,3\\n")
assert main(["eval", "square(hull)", "--trace", "a.csv", "--out", "b.csv"]) == 0
assert "64" in Path("b.csv").read_text() and "9" in Path("b.csv").read_text()
""",
    ),
}  # fmt: skip


@pytest.fixture(scope="module")
def tree(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """The program's files, to be copied once for each addition."""
    made = tmp_path_factory.mktemp("tree") / "avrin"
    shutil.copytree(ROOT / "src/avrin", made, ignore=shutil.ignore_patterns("__pycache__", "app"))
    return made


def changed(copy: Path) -> list[str]:
    """Return the files that differ from the program's, or are new."""
    found = []
    for file in sorted(copy.rglob("*.py")):
        own = ROOT / "src/avrin" / file.relative_to(copy)
        if not own.exists() or own.read_bytes() != file.read_bytes():
            found.append(file.relative_to(copy).as_posix())
    return found


@pytest.mark.parametrize("what", ADDITIONS)
def test_what_is_added_works_from_one_file_and_one_entry(what: str, tree: Path, tmp_path: Path) -> None:
    new, listed, entries, program = ADDITIONS[what]
    copy = tmp_path / "src/avrin"
    shutil.copytree(tree, copy)
    if new is not None:
        shutil.copyfile(OWN / new[0], copy / new[1])
    text = (copy / listed).read_text("utf-8")
    for before, after in entries.items():
        assert text.count(before) == 1
        text = text.replace(before, after)
    (copy / listed).write_text(text, "utf-8")
    assert changed(copy) == sorted([listed, *([new[1]] if new is not None else [])])
    env = {**os.environ, "PYTHONPATH": str(copy.parent), "AVRIN_CACHE": str(tmp_path / "cache")}
    done = subprocess.run(
        [sys.executable, "-c", program], cwd=tmp_path, env=env, capture_output=True, text=True, check=False
    )
    assert (done.returncode, done.stderr) == (0, "")
