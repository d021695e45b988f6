"""`./avrin bench`: what the engine, the readers, the painters and the start cost, as ratios against the bare libraries.

Each pair runs side by side in one process (the start: in fresh ones), alternating, and the best of several turns
counts, so that a busy machine harms both sides alike.
"""

from __future__ import annotations

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
    wanted = sys.argv[1:] or list(KNOWN)
    for name in wanted:
        if name not in KNOWN:
            print(f"avrin: no benchmark '{name}'. There are {', '.join(KNOWN)}", file=sys.stderr)
            raise SystemExit(2)
    print(f"{'':<52}{'Avrin':>12} {'bare':>12} {'ratio':>7}    reach")
    for name in wanted:
        KNOWN[name]()


if __name__ == "__main__":
    main()
