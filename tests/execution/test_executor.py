"""All executors give the same results; a worker that ends is replaced; an address without a scheduler is reported at once."""

from __future__ import annotations

import contextlib
import os
import signal
import socket
import subprocess
import sys
import threading
import time
from collections.abc import Iterator
from concurrent.futures import ProcessPoolExecutor
from pathlib import Path
from typing import Any

import pytest
import working
from schedulers import Scheduler, cluster  # noqa: F401

from avrin.errors import AvrinError
from avrin.execution import process_pool
from avrin.execution.executor import executor, usual_jobs
from avrin.execution.interface import WorkerLost
from avrin.execution.locations import Location
from avrin.execution.retries import each_part


@pytest.mark.parametrize("jobs", [1, 2])
def test_every_part_is_answered_once(jobs: int) -> None:
    with executor(jobs) as who:
        assert who.workers == jobs
        assert who.is_here == (jobs == 1)
        assert sorted(who.each(working.doubled, None, range(40))) == [(i, 2 * i) for i in range(40)]
        assert list(who.each(working.doubled, None, [])) == []


@pytest.mark.parametrize("jobs", [1, 2])
def test_an_error_of_the_work_is_that_error(jobs: int) -> None:
    with executor(jobs) as who, pytest.raises(AvrinError) as raised:
        list(who.each(working.faulty, None, range(6)))
    assert str(raised.value) == "here: is three. Choose another"
    with executor(jobs) as who, pytest.raises(FileNotFoundError, match=r"art\.png"):
        list(who.each(working.faulty, None, [1, 30]))


def test_what_ends_a_process_is_lost_and_nothing_else_is() -> None:
    with executor(2) as who:
        found = dict(who.each(working.ends_at, (3, 8), range(12)))
    assert [number for number, answer in found.items() if isinstance(answer, WorkerLost)] == [3, 8]
    assert {number: answer for number, answer in found.items() if number not in (3, 8)} == {
        i: 2 * i for i in range(12) if i not in (3, 8)
    }


def test_a_process_somebody_else_ends_is_made_up_for(tmp_path: Path) -> None:
    with executor(2) as who:
        answers = who.each(working.slowly, str(tmp_path), range(16))
        first = next(answers)
        assert not isinstance(first[1], WorkerLost)
        os.kill(first[1][1], signal.SIGKILL)
        rest = dict([first, *answers])
    assert [rest[i][0] for i in range(16)] == list(range(16))  # type: ignore[index]
    assert len({one[1] for one in rest.values()}) >= 2  # type: ignore[index]


def is_running(process: int) -> bool:
    """Also False for a process that has ended and whose end nobody has asked for."""
    try:
        return Path(f"/proc/{process}/stat").read_text().rpartition(")")[2].split()[0] != "Z"
    except OSError:
        return False


def test_processes_end_with_the_one_that_started_them(tmp_path: Path) -> None:
    program = (
        "import sys, working\nfrom avrin.execution.executor import executor\n"
        "if __name__ == '__main__':\n"
        "    with executor(2) as pool:\n"
        "        list(pool.each(working.slowly, sys.argv[1], range(10_000)))\n"
    )
    (tmp_path / "program.py").write_text(program)
    notes = tmp_path / "notes"
    notes.mkdir()
    paths = os.pathsep.join([os.environ.get("PYTHONPATH", ""), str(Path(working.__file__).parent)])
    with subprocess.Popen(
        [sys.executable, str(tmp_path / "program.py"), str(notes)], env={**os.environ, "PYTHONPATH": paths}
    ) as process:
        while len(workers := {int(note.name.split("-")[1]) for note in notes.iterdir()}) < 2:
            assert process.poll() is None
            time.sleep(0.01)
        process.kill()
    ends = time.monotonic() + 60
    while running := [worker for worker in workers if is_running(worker)]:
        assert time.monotonic() < ends, f"{running} are still there"
        time.sleep(0.01)


def test_an_interrupt_while_processes_start_is_not_lost(monkeypatch: pytest.MonkeyPatch) -> None:
    class Interrupted(ProcessPoolExecutor):
        def submit(self, *given: Any, **options: Any) -> Any:
            signal.raise_signal(signal.SIGINT)
            submitted = super().submit(*given, **options)
            assert not heard
            return submitted

    heard: list[int] = []
    monkeypatch.setattr(process_pool, "ProcessPoolExecutor", Interrupted)
    before = signal.signal(signal.SIGINT, lambda number, _frame: heard.append(number))
    try:
        with executor(2) as who:
            assert list(who.each(working.doubled, None, [4])) == [(0, 8)]
    finally:
        signal.signal(signal.SIGINT, before)
    assert heard == [signal.SIGINT]


def test_a_scheduler_elsewhere_gives_the_same_and_a_lost_worker_is_made_up_for(
    tmp_path: Path, cluster: Scheduler
) -> None:
    with cluster.working(2) as address, executor(1, address) as who:
        assert who.workers == 2
        answers = who.each(working.slowly, str(tmp_path), range(16))
        found = dict([next(answers)])
        cluster.workers[0].kill()
        found.update(answers)
    assert [found[i][0] for i in range(16)] == list(range(16))  # type: ignore[index]


def test_a_scheduler_that_goes_away_in_the_middle_is_reported(tmp_path: Path, cluster: Scheduler) -> None:
    began = time.monotonic()
    with cluster.working(1) as address, executor(1, address) as who:
        answers = who.each(working.slowly, str(tmp_path), range(400))
        next(answers)
        assert cluster.own is not None
        cluster.own.kill()
        with pytest.raises(AvrinError, match="the scheduler went away"):
            list(answers)
    assert time.monotonic() - began < 40


@contextlib.contextmanager
def listening(answer: bytes) -> Iterator[str]:
    """A server that is not a scheduler."""
    server = socket.create_server(("127.0.0.1", 0))
    held: list[socket.socket] = []

    def serve() -> None:
        with contextlib.suppress(OSError):
            while True:
                call, _ = server.accept()
                held.append(call)
                if answer:
                    call.sendall(answer)

    threading.Thread(target=serve, daemon=True).start()
    try:
        yield f"tcp://127.0.0.1:{server.getsockname()[1]}"
    finally:
        server.close()
        for call in held:
            call.close()


def test_who_does_not_answer_is_given_up_in_time(monkeypatch: pytest.MonkeyPatch) -> None:
    from avrin.execution import cluster

    assert cluster.PATIENCE <= 14, "within fifteen seconds"
    monkeypatch.setattr(cluster, "PATIENCE", 2.0)
    with socket.create_server(("127.0.0.1", 0)) as taken:
        nobody = f"tcp://127.0.0.1:{taken.getsockname()[1]}"
    with pytest.raises(AvrinError, match=f"the scheduler at {nobody} does not answer"), executor(1, nobody):
        pass
    began = time.monotonic()
    with listening(b"") as address, pytest.raises(AvrinError, match="does not answer"), executor(1, address):
        pass
    assert time.monotonic() - began < 14
    other = pytest.raises(AvrinError, match="is not a scheduler of this version")
    with listening(b"HTTP/1.1 200 OK\r\n\r\n") as address, other, executor(1, address):
        pass


@pytest.mark.parametrize("address", ["nonsense", "ftp://x:1", "tcp://"])
def test_what_is_no_address_is_reported(address: str) -> None:
    with pytest.raises(AvrinError, match=r"is not a scheduler address|does not answer"), executor(1, address):
        pass


def test_a_scheduler_without_workers_is_reported(monkeypatch: pytest.MonkeyPatch, cluster: Scheduler) -> None:
    monkeypatch.setattr("avrin.execution.cluster.PATIENCE", 2.0)
    nobody = pytest.raises(AvrinError, match="the scheduler at tcp://127")
    with cluster.working(0) as address, nobody, executor(1, address):
        pass


def test_who_works_with_another_program_is_reported(monkeypatch: pytest.MonkeyPatch, cluster: Scheduler) -> None:
    from avrin.execution import bundle

    monkeypatch.setattr(bundle, "__version__", "0.0.9")
    bundle.program.cache_clear()
    other = pytest.raises(AvrinError, match=r"runs Avrin 0\.1\.0; this machine runs 0\.0\.9")
    with cluster.working(1) as address, other, executor(1, address):
        pass
    bundle.program.cache_clear()


def test_a_part_that_is_lost_is_cut_up_until_it_is_known_which_recording_does_it() -> None:
    bad, parts = Location("/", "3"), [tuple(Location("/", f"{i}") for i in range(k, k + 3)) for k in (0, 3, 6)]
    asked: list[int] = []

    def each(some: object) -> Iterator[tuple[int, object]]:
        for number, part in enumerate(some):  # type: ignore[arg-type,var-annotated]
            asked.append(len(part))
            yield number, WorkerLost() if bad in part else len(part)

    found = list(each_part(each, parts))
    assert asked == [3, 3, 3, 1, 1, 1]
    assert [part for part, answer in found if isinstance(answer, WorkerLost)] == [(bad,)]
    assert sum(len(part) for part, _ in found) == 9


def test_as_many_as_there_are_processors_for_us() -> None:
    assert usual_jobs() == len(os.sched_getaffinity(0))
