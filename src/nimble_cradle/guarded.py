"""Readers of strangers' files in a process of their own, which has only so much computing and memory: what a
file does to it, it does to nobody else.

One such process is kept and asked again. Its limits are of its own computing time and memory, never of the
clock, so that a busy machine changes nothing.
"""

from __future__ import annotations

import atexit
import contextlib
import importlib
import json
import os
import resource
import select
import signal
import struct
import subprocess
import sys
import threading
from collections.abc import Callable, Sequence
from typing import Any, BinaryIO

import numpy as np

CPU_SECONDS = 5.0
"""So much computing a file of up to 50 MB may take, s."""
CPU_FOR_A_MB = 0.1
"""And so much more for each MB above that, s: some four times what text takes here."""
MEMORY = 900_000_000
"""So much memory the reader may take, bytes."""
_TICK = 0.05
"""How often a stop is noticed while the reader works, s."""
_WORN = 400_000_000
"""A reader that has grown to this is not asked again, bytes."""

Say = Callable[[str], None]


class Refused(Exception):
    """What was wrong, as a sentence that the reader told, or one that begins with what its end means."""


class _Reader:
    """The process, started when it is first wanted."""

    def __init__(self) -> None:
        self._run = subprocess.Popen(
            [sys.executable, "-c", "from nimble_cradle.guarded import serve; serve()"],
            stdin=subprocess.PIPE,
            stdout=subprocess.PIPE,
            stderr=subprocess.DEVNULL,
            env={**os.environ, "OPENBLAS_NUM_THREADS": "1", "OMP_NUM_THREADS": "1"},
        )
        assert self._run.stdin is not None and self._run.stdout is not None
        self._in, self._out = self._run.stdin, self._run.stdout

    def ask(self, order: dict[str, Any], data: bytes, say: Say) -> tuple[dict[str, Any], list[np.ndarray]]:
        """One reading. Raises Refused, and whatever ``say`` raises."""
        try:
            head = json.dumps({**order, "bytes": len(data)}).encode()
            self._in.write(struct.pack("<Q", len(head)) + head)
            for start in range(0, len(data), 1 << 22):
                self._in.write(memoryview(data)[start : start + (1 << 22)])
                say("")
            self._in.flush()
            while not select.select([self._out], [], [], _TICK)[0]:
                say("")
            size = self._out.read(8)
            if len(size) == 8:
                answer = json.loads(self._out.read(struct.unpack("<Q", size)[0]))
                return answer, [self._array(*described) for described in answer["arrays"]]
        except (BrokenPipeError, ConnectionResetError, EOFError):
            pass
        except BaseException:
            self.end()
            raise
        self.end()
        too_long = self._run.returncode in (-signal.SIGXCPU, -signal.SIGKILL)
        raise Refused("takes too long to read" if too_long else "ended its reader")

    def _array(self, kind: str, shape: list[int]) -> np.ndarray:
        whole = np.empty(shape, dtype=np.dtype(kind))
        room = whole.reshape(-1).view(np.uint8).data
        if self._out.readinto(room) != len(room):  # type: ignore[attr-defined]
            raise EOFError
        return whole

    def end(self) -> None:
        """No more."""
        self._run.kill()
        self._run.wait()
        for stream in (self._in, self._out):
            with contextlib.suppress(OSError):
                stream.close()


class _Kept:
    """The one reader of this process."""

    def __init__(self) -> None:
        self.lock = threading.Lock()
        self.reader: _Reader | None = None

    def end(self) -> None:
        """Send the reader home."""
        if self.reader is not None:
            self.reader.end()
            self.reader = None


_KEPT = _Kept()
atexit.register(_KEPT.end)


def guarded(
    function: str, words: Sequence[Any], data: bytes, say: Say = lambda _: None
) -> tuple[Any, list[np.ndarray]]:
    """What ``module:function`` gives of (words, data) in the reader: something that JSON holds, and arrays.

    say: called now and then; what it raises stops the reading. Raises Refused with a sentence (the function's
    own ValueError) or with what became of the reader.
    """
    seconds = CPU_SECONDS + CPU_FOR_A_MB * max(0.0, len(data) / 1e6 - 50)
    with _KEPT.lock:
        if _KEPT.reader is None:
            _KEPT.reader = _Reader()
        order = {"function": function, "words": list(words), "seconds": seconds}
        try:
            answer, arrays = _KEPT.reader.ask(order, data, say)
        except BaseException:
            _KEPT.end()
            raise
        if answer["worn"]:
            _KEPT.end()
    if answer["refused"]:
        raise Refused(answer["refused"])
    return answer["told"], arrays


def at_most(what: int, amount: int) -> None:
    """Limit what this process may take (a ``resource.RLIMIT_`` number), never beyond what it may be given."""
    _, hard = resource.getrlimit(what)
    resource.setrlimit(what, (amount if hard == resource.RLIM_INFINITY else min(amount, hard), hard))


def serve() -> None:
    """The reader's own life: read an order, do it, answer."""
    signal.signal(signal.SIGINT, signal.SIG_IGN)
    at_most(resource.RLIMIT_CORE, 0)
    at_most(resource.RLIMIT_DATA, MEMORY)
    source, sink = sys.stdin.buffer, os.fdopen(os.dup(1), "wb")
    os.dup2(2, 1)  # what a library prints is no answer
    while len(size := source.read(8)) == 8:
        order = json.loads(source.read(struct.unpack("<Q", size)[0]))
        answer, arrays = _done(order, source)
        with open("/proc/self/statm") as stream:
            grown = int(stream.read().split()[1]) * resource.getpagesize()
        answer |= {"arrays": [(a.dtype.str, a.shape) for a in arrays], "worn": grown > _WORN}
        head = json.dumps(answer).encode()
        sink.write(struct.pack("<Q", len(head)) + head)
        for array in arrays:
            sink.write(array.reshape(-1).view(np.uint8).data)
        sink.flush()


def _done(order: dict[str, Any], source: BinaryIO) -> tuple[dict[str, Any], list[np.ndarray]]:
    """One order: the answer, and its arrays."""
    used = resource.getrusage(resource.RUSAGE_SELF)
    limit = int(used.ru_utime + used.ru_stime + order["seconds"]) + 1
    at_most(resource.RLIMIT_CPU, limit)
    try:
        data = source.read(order["bytes"])
        module, _, name = order["function"].partition(":")
        told, arrays = getattr(importlib.import_module(module), name)(order["words"], data)
        return {"refused": "", "told": told}, [np.ascontiguousarray(a) for a in arrays]
    except MemoryError:
        return {"refused": "needs too much memory to be read", "told": None}, []
    except ValueError as error:
        return {"refused": str(error) or "cannot be read", "told": None}, []
    except Exception as error:  # at the edge of a process: whatever it was, the file is not read
        return {"refused": f"cannot be read ({type(error).__name__})", "told": None}, []
