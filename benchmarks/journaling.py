"""What keeping unsaved edits costs the interface thread, at 1,000 widgets."""

from __future__ import annotations

import os
import sys
import tempfile
import time
from pathlib import Path

from msgspec.structs import replace

from avrin.editor.edits import edit, mark_saved, seal
from common import reached

__all__ = ["run"]

WIDGETS = 1000
EDITS = 40


def run() -> None:
    """Consecutive edits, each journaled: the duration of the call, and how long the interface thread is blocked."""
    os.environ["QT_QPA_PLATFORM"] = "offscreen"
    from PySide6.QtWidgets import QApplication

    from avrin.app.services.workspace import Workspace
    from avrin.project.project import Project, Variable, Widget
    from avrin.storage.files import save

    app = QApplication.instance() or QApplication([])
    sys.setswitchinterval(0.001)  # as in the program
    with tempfile.TemporaryDirectory() as folder:
        os.environ["AVRIN_STATE"] = f"{folder}/state"
        widgets = tuple(
            Widget(id=f"w{n}", kind="label", inputs={"text": f"hull {{hull | 0}} of {n}"}) for n in range(WIDGETS)
        )
        save(Project(variables=(Variable(name="hull", type="float"),), widgets=widgets), Path(folder) / "p.avrin")
        workspace = Workspace()
        editor = workspace.editor
        workspace.files.open(Path(folder) / "p.avrin")
        keeping = workspace.files.journaling
        calls, still = [], []
        for number in range(EDITS):
            editor.do(seal)
            editor.do(edit, replace(editor.now.project, title=f"edit {number}"), "edit")
            begun = time.perf_counter()
            keeping.keep()
            calls.append(time.perf_counter() - begun)
            longest = 0.0
            while keeping.waits:  # a frame is asked for as often as can be
                begun = time.perf_counter()
                app.processEvents()
                longest = max(longest, time.perf_counter() - begun)
            still.append(longest)
        reached("an edit handed over to be kept, 1,000 widgets", sorted(calls)[EDITS // 2] * 1e3, "ms", "≤ 2 ms")
        reached("the interface thread is blocked meanwhile, at most", sorted(still)[EDITS // 2] * 1e3, "ms", "")
        editor.do(mark_saved)
        workspace.close()
