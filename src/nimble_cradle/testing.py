"""Runs pytest on a screen, a virtual one where there is none: what ``./run test`` calls."""

from __future__ import annotations

import sys


def main() -> int:
    """Start a screen if needed, then pytest with the given arguments."""
    import pytest

    from nimble_cradle.desk.start import ensure_screen

    ensure_screen(last=True)
    return int(pytest.main(sys.argv[1:]))


if __name__ == "__main__":
    raise SystemExit(main())
