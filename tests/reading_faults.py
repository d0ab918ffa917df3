"""What may befall a reader of strangers' files, for the tests of the process that it runs in."""

from __future__ import annotations

import os
import signal
from typing import Any, NoReturn

import numpy as np


def spin(_: Any, __: bytes) -> NoReturn:
    """Never ends."""
    while True:
        pass


def swell(_: Any, __: bytes) -> tuple[None, list[np.ndarray]]:
    """Wants more memory than there is for it."""
    return None, [np.ones(400_000_000)]


def die(_: Any, __: bytes) -> NoReturn:
    """Ends its process."""
    os.kill(os.getpid(), signal.SIGSEGV)
    raise AssertionError


def fail(_: Any, __: bytes) -> NoReturn:
    """A fault of the reader itself."""
    raise KeyError("x")


def echo(words: Any, data: bytes) -> tuple[list[Any], list[np.ndarray]]:
    """What it was told."""
    return [*words, len(data)], []
