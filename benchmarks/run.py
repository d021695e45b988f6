"""`./avrin bench`: what the engine, the readers, the painters and the start cost, as ratios against the bare libraries.

Each benchmark runs in a process of its own, so that none measures what another left behind. Each pair of it runs side by
side (the start: in fresh processes), alternating, and the best of several turns counts, so that a busy machine harms both
sides alike. A row that misses its reach says so.
"""

from __future__ import annotations

import subprocess
import sys

import checks
import comparing
import growth
import hud
import keeping
import rules
import sheet
import starting
import sweeping
import traces
import tuning
import window

ALONE = "--alone"  # said to the process of one benchmark
KNOWN = {
    "rules": rules.run,
    "traces": traces.run,
    "window": window.run,
    "hud": hud.run,
    "checks": checks.run,
    "sheet": sheet.run,
    "tuning": tuning.run,
    "comparing": comparing.run,
    "sweep": sweeping.run,
    "growth": growth.run,
    "starting": starting.run,
    "keeping": keeping.run,
}


def main() -> None:
    """Run all, or those named on the command line."""
    wanted = sys.argv[2:] if sys.argv[1:2] == [ALONE] else sys.argv[1:] or list(KNOWN)
    for name in wanted:
        if name not in KNOWN:
            print(f"avrin: no benchmark '{name}'. There are {', '.join(KNOWN)}", file=sys.stderr)
            raise SystemExit(2)
    if wanted == sys.argv[2:] and sys.argv[1] == ALONE:
        KNOWN[wanted[0]]()
        return
    print(f"{'':<52}{'Avrin':>12} {'bare':>12} {'ratio':>7}    reach", flush=True)
    failed = [
        name for name in wanted if subprocess.run([sys.executable, __file__, ALONE, name], check=False).returncode
    ]
    if failed:
        print(f"avrin: {', '.join(failed)} did not run through (see above)", file=sys.stderr)
        raise SystemExit(1)


if __name__ == "__main__":
    main()
