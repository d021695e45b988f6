"""`python -m avrin`: the command line. An interrupt ends the process at once and leaves no half-written file."""

import os
import signal
import sys


def _stop(_number: int, _frame: object) -> None:
    """Exit without unwinding the stack, which may be inside Qt or another library."""
    pools = sys.modules.get("multiprocessing")
    for worker in pools.active_children() if pools is not None else ():
        worker.terminate()
    os.write(2, b"\navrin: stopped\n" if os.isatty(2) else b"avrin: stopped\n")
    os._exit(2)


if __name__ == "__main__":  # processes of a pool import this module under another name
    signal.signal(signal.SIGINT, _stop)
    from avrin.cli import main

    status = main()
    signal.signal(signal.SIGINT, signal.SIG_IGN)  # the command has finished
    raise SystemExit(status)
