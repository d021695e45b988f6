"""`./avrin bench`: what the engine, the readers, the painters and the start cost, as ratios against the bare libraries.

Each benchmark runs in a process of its own, so that none measures what another left behind. Each pair of it runs side by
side (the start: in fresh processes), alternating, and the best of several turns counts, so that a busy machine harms both
sides alike. A row that misses its reach says so.
"""

from __future__ import annotations

import os
import subprocess
import sys
from pathlib import Path

import checks
import diffing
import growth
import hud
import journaling
import rules
import sheet
import starting
import sweeping
import traces
import tuning
import window
from common import FOLDER, ROWS_FILE
from page import write_page

ALONE = "--alone"  # marks the process of a single benchmark
WRITE = "--write"
KNOWN = {
    "rules": rules.run,
    "traces": traces.run,
    "window": window.run,
    "hud": hud.run,
    "checks": checks.run,
    "sheet": sheet.run,
    "tuning": tuning.run,
    "diff": diffing.run,
    "sweep": sweeping.run,
    "growth": growth.run,
    "starting": starting.run,
    "journaling": journaling.run,
}


def main() -> None:
    """Run all benchmarks, or those named on the command line."""
    arguments = sys.argv[1:]
    if arguments[:1] == [ALONE]:
        KNOWN[arguments[1]]()
        return
    writes = WRITE in arguments
    named = [name for name in arguments if name != WRITE]
    if writes and named:
        print(f"avrin: {WRITE} needs all benchmarks. Name none", file=sys.stderr)
        raise SystemExit(2)
    wanted = named or list(KNOWN)
    for name in wanted:
        if name not in KNOWN:
            print(f"avrin: no benchmark '{name}'. There are {', '.join(KNOWN)}", file=sys.stderr)
            raise SystemExit(2)
    rows = FOLDER / "rows.jsonl"
    environment = {**os.environ, **({ROWS_FILE: str(rows)} if writes else {})}
    print(f"{'':<52}{'Avrin':>12} {'bare':>12} {'ratio':>7}    reach", flush=True)
    failed = [
        name for name in wanted
        if subprocess.run([sys.executable, __file__, ALONE, name], check=False, env=environment).returncode
    ]  # fmt: skip
    if failed:
        print(f"avrin: {', '.join(failed)} failed (see above)", file=sys.stderr)
        raise SystemExit(1)
    if writes:
        write_page(Path(rows))


if __name__ == "__main__":
    main()
