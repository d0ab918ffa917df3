"""Long work shared among worker processes, one for each core: side by side, told in words, and stopped at
once when it is no longer wanted.

Workers are started when first wanted and kept, so that what they have built of a bay (shapes, indexes of
scans) serves the next piece of work. They are begun clean (not as copies of this process, which has
threads and a window). Where there is one core, or a worker is lost, the work is done in this process.
"""

from __future__ import annotations

import atexit
import contextlib
import hashlib
import importlib
import os
import pickle
import signal
import tempfile
import threading
import weakref
from collections import OrderedDict
from collections.abc import Callable, Iterator, Mapping, Sequence
from functools import partial
from itertools import count
from pathlib import Path
from typing import TYPE_CHECKING, Any

if TYPE_CHECKING:
    from concurrent.futures import Future, ProcessPoolExecutor

Say = Callable[[str], None]
MOST = 4
"""No more workers than this: each holds a bay of its own."""
_PATIENCE = 40
"""So many ticks are waited for a worker before its row is done here too."""
_LARGE = 500_000
"""What is larger, bytes, goes to the workers as a file."""
_SLOTS = 64
"""Pieces of work that can be told apart at once."""
_TICK = 0.05
"""How often the words are told and a stop is noticed, s."""


def quiet(_: str) -> None:
    """Say nothing."""


class _Workers:
    """The workers of this process; in a worker its own state. stopped: shared array (_SLOTS + 1,): for each
    slot the number of the last piece of work that was stopped; the last entry is 1 if all work is. begun:
    likewise, of the last one that a worker has begun."""

    def __init__(self) -> None:
        self.lock = threading.Lock()
        self.numbers = count(1)
        self.pool: ProcessPoolExecutor | None = None
        self.stopped: Any = None
        self.begun: Any = None
        self.is_worker = False
        self.kept: OrderedDict[str, Any] = OrderedDict()


_WORKERS = _Workers()


class Stopped(Exception):
    """Raised by ``say`` to end work that is no longer wanted, here and in a worker."""


def cores() -> int:
    """Number of workers that may run: cores, at most MOST; 1 in a worker."""
    return 1 if _WORKERS.is_worker else min(len(os.sched_getaffinity(0)), MOST)


def _begin(stopped: Any, begun: Any) -> None:
    _WORKERS.stopped, _WORKERS.begun, _WORKERS.is_worker = stopped, begun, True
    os.nice(5)  # the window stays quick while they work
    threading.Thread(target=_leave_with_parent, name="leave with the program", daemon=True).start()


def _leave_with_parent() -> None:
    """End a worker whose program was killed."""
    import multiprocessing

    parent = multiprocessing.parent_process()
    if parent is not None:
        parent.join()
        os._exit(0)


def _ready() -> tuple[ProcessPoolExecutor, Any]:
    import multiprocessing
    from concurrent.futures import ProcessPoolExecutor

    with _WORKERS.lock:
        if _WORKERS.pool is None:
            context = multiprocessing.get_context("spawn")
            _WORKERS.stopped = context.Array("q", _SLOTS + 1, lock=False)
            _WORKERS.begun = context.Array("q", _SLOTS, lock=False)
            both = _WORKERS.stopped, _WORKERS.begun
            _WORKERS.pool = ProcessPoolExecutor(cores(), context, _begin, both)
            atexit.unregister(rest)
            atexit.register(rest)
        return _WORKERS.pool, _WORKERS.stopped


def _drop(pool: ProcessPoolExecutor) -> None:
    with _WORKERS.lock:
        if _WORKERS.pool is pool:
            _WORKERS.pool = None
    pool.shutdown(wait=False, cancel_futures=True)


@contextlib.contextmanager
def _undisturbed() -> Iterator[None]:
    """Block Ctrl C while workers may be started. A worker inherits the block and never sees Ctrl C itself."""
    before = signal.pthread_sigmask(signal.SIG_BLOCK, {signal.SIGINT})
    try:
        yield
    finally:
        signal.pthread_sigmask(signal.SIG_SETMASK, before)


def warm(*modules: str) -> None:
    """Start the workers and let them read these modules, so that they are ready when they are wanted;
    returns at once."""
    if cores() < 2:
        return
    from concurrent.futures.process import BrokenProcessPool

    pool, _ = _ready()
    try:
        with _undisturbed():
            for _ in range(cores()):
                pool.submit(_read, modules)
    except BrokenProcessPool:
        _drop(pool)


def _read(modules: Sequence[str]) -> None:
    for module in modules:
        importlib.import_module(module)


def _do(number: int, key: str, data: bytes | str, function: Callable[[Any, Any, Say], Any], row: Any) -> Any:
    """In a worker: the result of one row. ``data``, or the file of that name, is unpacked once for all rows,
    so what is remembered of it serves the next row."""

    def say(_: str) -> None:
        if _WORKERS.stopped[number % _SLOTS] == number or _WORKERS.stopped[_SLOTS]:
            raise Stopped

    say("")
    if key not in _WORKERS.kept:
        _WORKERS.kept[key] = pickle.loads(Path(data).read_bytes() if isinstance(data, str) else data)
        while len(_WORKERS.kept) > 3:
            _WORKERS.kept.popitem(last=False)
    _WORKERS.kept.move_to_end(key)
    _WORKERS.begun[number % _SLOTS] = number
    return function(_WORKERS.kept[key], row, say)


def side_by_side(
    function: Callable[[Any, Any, Say], Any],
    common: Any,
    rows: Sequence[Any],
    say: Say,
    words: Callable[[int], str],
) -> Iterator[tuple[int, Any]]:
    """Yield (number of the row, ``function(common, row, say)``) as each row is done. The function is a
    module's own; common, rows and results can be pickled. words(number of rows done) is told through
    ``say``, which may raise to stop everything; leaving the loop early stops the rest."""
    if len(rows) < 2 or cores() < 2:
        yield from _here(function, common, list(enumerate(rows)), say, words, 0)
        return
    from concurrent.futures import FIRST_COMPLETED, wait
    from concurrent.futures.process import BrokenProcessPool

    data = pickle.dumps(common, protocol=pickle.HIGHEST_PROTOCOL)
    key = hashlib.sha256(data).hexdigest()
    number = next(_WORKERS.numbers)
    pool, stopped = _ready()
    left = dict(enumerate(rows))
    futures: dict[Future[Any], int] = {}
    try:
        try:
            with _undisturbed():
                futures = {pool.submit(_do, number, key, data, function, row): k for k, row in left.items()}
            open_futures = set(futures)
            while open_futures:
                say(words(len(rows) - len(left)))
                done, open_futures = wait(open_futures, _TICK, FIRST_COMPLETED)
                for f in sorted(done, key=futures.__getitem__):
                    result = f.result()
                    del left[futures[f]]
                    yield futures[f], result
        except BrokenProcessPool:
            _drop(pool)
            yield from _here(function, common, list(left.items()), say, words, len(rows) - len(left))
    finally:
        stopped[number % _SLOTS] = number
        for f in futures:
            f.cancel()


def _here(
    function: Callable[[Any, Any, Say], Any],
    common: Any,
    rows: Sequence[tuple[int, Any]],
    say: Say,
    words: Callable[[int], str],
    done: int,
) -> Iterator[tuple[int, Any]]:
    """The same, one after another in this process."""
    for n, (k, row) in enumerate(rows):
        say(words(done + n))
        yield k, function(common, row, partial(_said, say, words(done + n)))


def _said(say: Say, words: str, _: str) -> None:
    say(words)


Work = Callable[[Any, Any, Say], Any]
"""What is done with the thing that is shared and a row, saying words."""


class _Help:
    """The workers' help with one piece of work. pack: the thing that is shared, as it is sent."""

    def __init__(self, pack: Callable[[], tuple[str, bytes | str]], function: Work, say: Say) -> None:
        self._packed, self._function, self._say = pack, function, say
        self.number = next(_WORKERS.numbers)
        self.pool, self._stopped = _ready()
        self.futures: dict[int, Future[Any]] = {}
        self._waited = 0

    def free(self) -> bool:
        """Whether a worker has nothing to do."""
        return sum(not future.done() for future in self.futures.values()) < cores() - 1

    def give(self, k: int, row: Any) -> None:
        """Give a row to a worker."""
        with _undisturbed():
            self.futures[k] = self.pool.submit(_do, self.number, *self._packed(), self._function, row)

    def is_slow(self) -> bool:
        """Wait a while for a worker. True where none is up yet, or other work keeps them."""
        from concurrent.futures import FIRST_COMPLETED, wait

        if _WORKERS.begun[self.number % _SLOTS] == self.number and self._waited < _PATIENCE:
            self._say("")
            self._waited += not wait(self.futures.values(), _TICK, FIRST_COMPLETED).done
            return False
        self._waited = 0
        return True

    def results(self) -> dict[int, Any]:
        """What has come. Raises BrokenProcessPool."""
        return {k: self.futures.pop(k).result() for k in list(self.futures) if self.futures[k].done()}

    def leave(self) -> None:
        """Nothing more is wanted."""
        self._stopped[self.number % _SLOTS] = self.number
        for future in self.futures.values():
            future.cancel()


class Turn:
    """Rows that are told in their order, some done before it is their turn; see ``Shared.in_turn``. rows:
    those that may be done; results: of those that were and are not told."""

    def __init__(self, count: int, row: Callable[[int], Any], done: Callable[[Any], bool], lag: int) -> None:
        self._count, self._row, self._done, self._lag = count, row, done, lag
        self._told = 0
        self.rows = {k: row(k) for k in range(min(lag, count))}
        self.results: dict[int, Any] = {}

    def told(self) -> bool:
        """Tell what can be told; True at the end."""
        while self._told in self.results:
            if self._done(self.results.pop(self._told)):
                return True
            del self.rows[self._told]
            if self._told + self._lag < self._count:
                self.rows[self._told + self._lag] = self._row(self._told + self._lag)
            self._told += 1
        return self._told == self._count

    def first_open(self) -> int:
        """The first row that is not done."""
        return min(k for k in self.rows if k not in self.results)

    def came(self, results: Mapping[int, Any]) -> None:
        """Results of rows, some of which may have been done here too."""
        self.results |= {k: result for k, result in results.items() if k in self.rows}


class Shared:
    """Work on one thing that the workers help with: this process does its rows too, so that a worker that is
    not up yet, or is gone, holds nothing up. common: that thing, which can be pickled."""

    def __init__(self, common: Any) -> None:
        self.common = common
        self._packed: tuple[str, bytes | str] | None = None

    def each(self, function: Work, rows: Sequence[Any], say: Say) -> list[Any]:
        """``function(common, row, say)`` of every row, in their order. The function is a module's own and its
        result hangs on nothing but what it is given: who does a row is not known beforehand."""
        out: list[Any] = []

        def keep(result: Any) -> bool:
            out.append(result)
            return False

        self.in_turn(function, len(rows), lambda k: rows[k], keep, len(rows), say)
        return out

    def in_turn(
        self,
        function: Work,
        count: int,
        row: Callable[[int], Any],
        done: Callable[[Any], bool],
        lag: int,
        say: Say,
    ) -> None:
        """``function(common, row(k), say)`` of k = 0 to ``count`` - 1; the results are told to ``done`` in
        their order, and True from it ends the work. row(k) is asked for when the results up to that of
        k - ``lag`` have been told and no later one has, so what a row is made of hangs on no one's speed."""
        turn = Turn(count, row, done, lag)

        def mine(k: int) -> None:
            turn.results[k] = function(self.common, turn.rows[k], say)

        if count < 2 or cores() < 2:
            while not turn.told():
                mine(turn.first_open())
            return
        from concurrent.futures.process import BrokenProcessPool

        help = _Help(self._pack, function, say)
        try:
            while not turn.told():
                left = [k for k in sorted(turn.rows) if k not in turn.results and k not in help.futures]
                while len(left) > 1 and help.free():
                    help.give(k := left.pop(1), turn.rows[k])
                if left or help.is_slow():
                    mine(left[0] if left else turn.first_open())
                turn.came(help.results())
        except BrokenProcessPool:
            _drop(help.pool)
            while not turn.told():
                mine(turn.first_open())
        finally:
            help.leave()

    def _pack(self) -> tuple[str, bytes | str]:
        """The thing as it is sent, under a name of its own; what is large as a file, so that it is not sent
        with every row."""
        if self._packed is None:
            data = pickle.dumps(self.common, protocol=pickle.HIGHEST_PROTOCOL)
            key = hashlib.sha256(data).hexdigest()
            self._packed = key, data
            if len(data) > _LARGE:
                handle, name = tempfile.mkstemp(prefix="shared-", suffix=".bin")
                weakref.finalize(self, _removed, name)
                with os.fdopen(handle, "wb") as file:
                    file.write(data)
                self._packed = key, name
        return self._packed


def _removed(name: str) -> None:
    with contextlib.suppress(OSError):
        os.unlink(name)


def rest() -> None:
    """Stop all work and end the workers; they are started anew when wanted."""
    pool = _WORKERS.pool
    if pool is not None:
        _WORKERS.stopped[_SLOTS] = 1
        _drop(pool)
