"""`python -m avrin`: the command line. An interrupt is answered at once, wherever it comes: nothing is left half closed."""

import os
import signal
import sys


def _stop(_number: int, _frame: object) -> None:
    """End without unwinding what may be in the middle of the toolkit's or a library's own work."""
    pools = sys.modules.get("multiprocessing")
    for worker in pools.active_children() if pools is not None else ():
        worker.terminate()
    os.write(2, b"\navrin: stopped\n" if os.isatty(2) else b"avrin: stopped\n")
    os._exit(2)


if __name__ == "__main__":  # processes of a pool load this module under another name
    signal.signal(signal.SIGINT, _stop)
    from avrin.cli import main

    status = main()
    signal.signal(signal.SIGINT, signal.SIG_IGN)  # what was asked for is done
    raise SystemExit(status)
