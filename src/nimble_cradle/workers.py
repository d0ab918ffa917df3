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
from collections.abc import Callable, Iterator, Sequence
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


class Shared:
    """Work on one thing that the workers help with: this process does its rows too, so that a worker that is
    not up yet, or is gone, holds nothing up. common: that thing, which can be pickled."""

    def __init__(self, common: Any) -> None:
        self.common = common
        self._packed: tuple[str, bytes | str] | None = None

    def each(self, function: Callable[[Any, Any, Say], Any], rows: Sequence[Any], say: Say) -> list[Any]:
        """``function(common, row, say)`` of every row, in their order. The function is a module's own and its
        result hangs on nothing but what it is given: who does a row is not known beforehand."""
        if len(rows) < 2 or cores() < 2:
            return [function(self.common, row, say) for row in rows]
        from concurrent.futures import FIRST_COMPLETED, wait
        from concurrent.futures.process import BrokenProcessPool

        out: dict[int, Any] = {}
        number = next(_WORKERS.numbers)
        pool, stopped = _ready()
        futures: dict[int, Future[Any]] = {}
        waited = 0
        try:
            while len(out) < len(rows):
                left = [k for k in range(len(rows)) if k not in out and k not in futures]
                busy = sum(not future.done() for future in futures.values())
                while len(left) > 1 and busy < cores() - 1:
                    k, busy = left.pop(), busy + 1
                    with _undisturbed():
                        futures[k] = pool.submit(_do, number, *self._pack(), function, rows[k])
                if left:
                    out[left[0]] = function(self.common, rows[left[0]], say)
                elif _WORKERS.begun[number % _SLOTS] == number and waited < _PATIENCE:
                    say("")
                    waited += not wait(futures.values(), _TICK, FIRST_COMPLETED).done
                else:  # no worker is up yet, or other work keeps them
                    mine, waited = next(k for k in range(len(rows)) if k not in out), 0
                    out[mine] = function(self.common, rows[mine], say)
                out |= {k: futures.pop(k).result() for k in list(futures) if futures[k].done()}
        except BrokenProcessPool:
            _drop(pool)
            out |= {k: function(self.common, rows[k], say) for k in range(len(rows)) if k not in out}
        finally:
            stopped[number % _SLOTS] = number
            for future in futures.values():
                future.cancel()
        return [out[k] for k in range(len(rows))]

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
