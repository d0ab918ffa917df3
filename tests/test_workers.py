"""Work side by side in worker processes: whole, in words, stopped at once, and done here where a worker is
lost."""

from __future__ import annotations

import os
import signal
import subprocess
import sys
import tempfile
import threading
import time
from pathlib import Path
from typing import Any

import pytest
from nimble_cradle import workers
from nimble_cradle.job.base import JobError
from nimble_cradle.workers import Say, Shared, side_by_side

from processes import left_after


def told_square(common: int, row: int, say: Say) -> tuple[int, int]:
    say("squaring")
    return common * row * row, os.getpid()


def endless(common: float, row: int, say: Say) -> int:
    until = time.monotonic() + common
    while row and time.monotonic() < until:
        say("")
        time.sleep(0.01)
    return row


def dies_in_a_worker(common: int, row: int, say: Say) -> int:
    if os.getpid() != common:
        os._exit(3)
    return 10 * row


def refuses(common: str, row: int, say: Say) -> int:
    if row == 2:
        raise JobError(f"{common} does not go.", "items/x")
    return row


def slow_square(common: dict[str, Any], row: int, say: Say) -> tuple[int, int]:
    say("")
    time.sleep(common["s"])
    return common["n"] * row * row, os.getpid()


def sleeps(common: dict[str, Any], row: tuple[int, float], say: Say) -> tuple[int, int]:
    say("")
    time.sleep(row[1])
    return row[0], os.getpid()


def dies_elsewhere(common: int, row: int, say: Say) -> int:
    if os.getpid() != common:
        os._exit(3)
    time.sleep(0.05)
    return 10 * row


def quiet(_: str) -> None:
    pass


def words(done: int) -> str:
    return f"{done} done"


@pytest.fixture(autouse=True)
def _two_cores(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(workers, "cores", lambda: 2)


def test_every_row_is_done_once_elsewhere_and_told() -> None:
    told: list[str] = []
    found = dict(side_by_side(told_square, 3, range(7), told.append, words))
    assert {k: v[0] for k, v in found.items()} == {k: 3 * k * k for k in range(7)}
    assert os.getpid() not in {v[1] for v in found.values()}
    assert told[0] == "0 done" and told == sorted(told)


def test_stopped_it_ends_at_once_and_the_workers_are_free_again() -> None:
    class Enough(Exception):
        pass

    began = time.monotonic()

    def say(_: str) -> None:
        if time.monotonic() > began + 0.3:
            raise Enough

    with pytest.raises(Enough):
        list(side_by_side(endless, 60.0, [1, 2, 3, 4], say, words))
    assert dict(side_by_side(told_square, 1, [2, 3], quiet, words))[1][0] == 9
    assert time.monotonic() < began + 30, (
        "the sixty seconds that each row would have taken were not waited for"
    )


def test_the_first_that_is_good_enough_ends_the_rest() -> None:
    began = time.monotonic()
    for k, row in side_by_side(endless, 60.0, [5, 0, 7], quiet, words):
        assert (k, row) == (1, 0)
        break
    assert (
        dict(side_by_side(told_square, 1, [2, 3], quiet, words))[0][0] == 4 and time.monotonic() < began + 30
    )


def test_a_refusal_comes_back_with_its_place() -> None:
    with pytest.raises(JobError, match="The sump does not go") as caught:
        list(side_by_side(refuses, "The sump", [1, 2, 3], quiet, words))
    assert caught.value.place == "items/x"


def test_workers_lost_while_nobody_looked_are_begun_anew() -> None:
    """As when the machine runs out of memory between two pieces of work."""
    pids = {v[1] for _, v in side_by_side(told_square, 1, range(40), quiet, words)}
    for pid in pids:
        os.kill(pid, signal.SIGKILL)
    assert not left_after(pids)
    workers.warm("json")
    assert dict(side_by_side(told_square, 2, [2, 3], quiet, words))[1][0] == 18
    workers.warm("json")
    assert pids.isdisjoint({v[1] for _, v in side_by_side(told_square, 1, range(8), quiet, words)})


def test_a_lost_worker_costs_nothing_but_time() -> None:
    assert dict(side_by_side(dies_in_a_worker, os.getpid(), [1, 2, 3], quiet, words)) == {0: 10, 1: 20, 2: 30}
    assert dict(side_by_side(told_square, 1, [2, 3], quiet, words))[1][0] == 9


def test_one_core_does_it_here(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(workers, "cores", lambda: 1)
    told: list[Any] = []
    found = list(side_by_side(told_square, 1, [2, 3], told.append, words))
    assert found == [(0, (4, os.getpid())), (1, (9, os.getpid()))] and told == [
        "0 done",
        "0 done",
        "1 done",
        "1 done",
    ]


KILLED = """
import os, sys, time
sys.path.insert(0, sys.argv[1])
from nimble_cradle import workers
from test_workers import endless, told_square, words
workers.cores = lambda: 2
if __name__ == "__main__":
    pids = {v[1] for _, v in workers.side_by_side(told_square, 1, range(40), lambda _: None, words)}
    print(*pids, flush=True)
    list(workers.side_by_side(endless, 60.0, [1, 2], lambda _: None, words))
"""


def test_workers_leave_when_the_program_is_killed(tmp_path: Path) -> None:
    script = tmp_path / "killed.py"
    script.write_text(KILLED)
    run = subprocess.Popen(
        [sys.executable, str(script), str(Path(__file__).parent)], stdout=subprocess.PIPE, text=True
    )
    assert run.stdout is not None
    workers = [int(w) for w in run.stdout.readline().split()]
    assert workers
    run.send_signal(signal.SIGKILL)
    run.wait()
    run.stdout.close()
    assert not left_after(workers)


class TestShared:
    def test_every_row_in_its_order_some_here_some_there(self) -> None:
        shared = Shared({"n": 3, "s": 0.05})
        pids: set[int] = set()
        for _ in range(12):  # the first rounds may be over before a worker is up
            found = shared.each(slow_square, range(6), quiet)
            assert [value for value, _ in found] == [3 * k * k for k in range(6)]
            pids |= {pid for _, pid in found}
        assert os.getpid() in pids and len(pids) > 1
        assert [value for value, _ in shared.each(slow_square, [5], quiet)] == [75]

    def test_a_worker_that_dies_or_never_comes_holds_nothing_up(self) -> None:
        began = time.monotonic()
        assert Shared(os.getpid()).each(dies_elsewhere, range(8), quiet) == [10 * k for k in range(8)]
        assert time.monotonic() - began < 20
        assert [v for v, _ in Shared({"n": 1, "s": 0.0}).each(slow_square, range(3), quiet)] == [0, 1, 4]

    def test_workers_that_other_work_keeps_hold_it_up_for_moments_only(
        self, monkeypatch: pytest.MonkeyPatch
    ) -> None:
        monkeypatch.setattr(workers, "_PATIENCE", 4)
        shared = Shared({"n": 1, "s": 0.02})
        for _ in range(8):
            shared.each(slow_square, range(6), quiet)  # until the workers are up
        other = side_by_side(endless, 4.0, [1, 2], quiet, words)
        keeping = threading.Thread(target=lambda: list(other), daemon=True)
        keeping.start()
        time.sleep(0.5)
        began = time.monotonic()
        assert [v for v, _ in shared.each(slow_square, range(4), quiet)] == [0, 1, 4, 9]
        assert time.monotonic() - began < 3.0
        keeping.join(20)

    @pytest.mark.parametrize("cores", [1, 2])
    @pytest.mark.parametrize("stop", [4, 99])
    def test_in_turn_a_row_knows_the_same_whoever_is_quick(
        self, monkeypatch: pytest.MonkeyPatch, cores: int, stop: int
    ) -> None:
        """Ten rows, some ten times as slow as others: each is asked for when all but the last two before it
        have been told; they are told in order, to the end or until one is enough."""
        monkeypatch.setattr(workers, "cores", lambda: cores)
        shared = Shared({"n": 1, "s": 0.0})
        pids: set[int] = set()
        for round_of in range(60):  # the first ones may be over before a worker is up
            if round_of > 2 and (cores == 1 or len(pids) > 1):
                break
            asked: list[tuple[int, int]] = []
            told: list[int] = []

            def row(
                k: int, asked: list[tuple[int, int]] = asked, told: list[int] = told
            ) -> tuple[int, float]:
                asked.append((k, len(told)))
                return k, 0.1 if k in (0, 3, 4, 8) else 0.01

            def done(result: tuple[int, int], told: list[int] = told) -> bool:
                told.append(result[0])
                pids.add(result[1])
                return len(told) == stop

            shared.in_turn(sleeps, 10, row, done, 3, quiet)
            assert told == list(range(min(stop, 10)))
            assert asked == [(k, max(k - 2, 0)) for k in range(6 if stop == 4 else 10)]
        assert (len(pids) > 1) == (cores > 1)

    def test_in_turn_where_workers_die(self) -> None:
        told: list[int] = []

        def done(result: int) -> bool:
            told.append(result)
            return False

        Shared(os.getpid()).in_turn(dies_elsewhere, 8, lambda k: k, done, 3, quiet)
        assert told == [10 * k for k in range(8)]

    def test_what_is_refused_is_refused_whoever_met_it(self) -> None:
        for _ in range(3):
            with pytest.raises(JobError, match="A mount does not go"):
                Shared("A mount").each(refuses, [1, 2, 3], quiet)
            with pytest.raises(JobError, match="A mount does not go"):
                Shared("A mount").each(refuses, [1, 3, 2], quiet)

    def test_stopped_at_once(self) -> None:
        class Enough(Exception):
            pass

        began = time.monotonic()

        def say(_: str) -> None:
            if time.monotonic() > began + 0.3:
                raise Enough

        with pytest.raises(Enough):
            Shared(60.0).each(endless, [1, 2, 3, 4], say)
        assert time.monotonic() - began < 10
        assert dict(side_by_side(told_square, 1, [2, 3], quiet, words))[1][0] == 9

    def test_what_is_large_goes_as_a_file_that_is_taken_away(
        self, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
    ) -> None:
        monkeypatch.setattr(tempfile, "tempdir", str(tmp_path))
        shared = Shared({"n": 2, "s": 0.05, "much": os.urandom(900_000)})
        pids = {pid for _ in range(8) for _, pid in shared.each(slow_square, range(4), quiet)}
        assert len(pids) > 1 and len(list(tmp_path.iterdir())) == 1
        del shared
        assert not list(tmp_path.iterdir())
