"""The log: what goes into the file, what onto the terminal, and what happens where neither can be had."""

from __future__ import annotations

import logging
from collections.abc import Iterator
from pathlib import Path

import pytest

from avrin.logs import begin_logging, log_file

log = logging.getLogger("avrin.somewhere")


@pytest.fixture(autouse=True)
def state(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> Iterator[Path]:
    monkeypatch.setenv("AVRIN_STATE", str(tmp_path / "state"))
    yield tmp_path / "state"
    begin_logging(verbose=False)  # lets go of the file


def test_all_goes_into_the_file_and_warnings_onto_the_terminal(capsys: pytest.CaptureFixture[str]) -> None:
    begin_logging(verbose=False)
    assert not log_file().exists(), "it is opened by its first line"
    log.debug("not logged")
    log.info("read again")
    assert capsys.readouterr().err == ""
    log.warning("it is torn\nhere and there")
    assert capsys.readouterr().err == "avrin: it is torn\n"
    lines = log_file().read_text("utf-8").splitlines()
    assert [line.split(" ", 2)[2] for line in lines[:2]] == [
        "INFO avrin.somewhere: read again",
        "WARNING avrin.somewhere: it is torn",
    ]


def test_a_fault_is_in_the_file_alone_with_where_it_came_from(capsys: pytest.CaptureFixture[str]) -> None:
    begin_logging(verbose=False)
    try:
        raise ValueError("of our own")
    except ValueError:
        log.exception("a fault")
    assert capsys.readouterr().err == ""
    told = log_file().read_text("utf-8")
    assert "Traceback" in told
    assert told.rstrip().endswith("ValueError: of our own")


def test_verbose_tells_all_of_it(capsys: pytest.CaptureFixture[str]) -> None:
    begin_logging(verbose=True)
    log.debug("looked at")
    assert capsys.readouterr().err == "avrin: looked at\n"
    assert "DEBUG avrin.somewhere: looked at" in log_file().read_text("utf-8")


def test_begun_again_it_tells_once(capsys: pytest.CaptureFixture[str]) -> None:
    begin_logging(verbose=False)
    log.warning("one")
    begin_logging(verbose=False)
    log.warning("two")
    assert capsys.readouterr().err == "avrin: one\navrin: two\n"
    assert len(log_file().read_text("utf-8").splitlines()) == 2


def test_a_home_that_cannot_be_written_to_is_no_reason_to_do_nothing(
    state: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    state.write_text("in its place")
    begin_logging(verbose=False)
    log.warning("said all the same")
    log.warning("and again")
    assert capsys.readouterr().err == "avrin: said all the same\navrin: and again\n"
    assert state.read_text() == "in its place"
