"""What the desk knows of a stage besides its sheet: where one stands, what the picture shows, its keys."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from nimble_cradle.desk.kit.keymap import KeyGroup
from nimble_cradle.desk.kit.session import Session


@dataclass(frozen=True, eq=False)
class StageDesk:
    """A stage as the window shows it.

    standpoint: where one stands for its picture. home: kinds of things whose own stage it is: choosing one
    elsewhere leads here. keeps: kinds that may be chosen here without leaving. stays: further things that
    may, by session, kind and id. draws: kinds that are drawn on this stage alone. ghosts: kinds that let
    others show through. tags: name of the tags over the picture. shows_cases: whether the engine may be
    shown moved by a load case. keys: of its own, with the title of their group.
    """

    standpoint: str = "corner"
    home: frozenset[str] = frozenset()
    keeps: frozenset[str] = frozenset()
    stays: Callable[[Session, str, str], bool] = lambda session, kind, key: False
    draws: frozenset[str] = frozenset()
    ghosts: frozenset[str] = frozenset()
    tags: str = "gaps"
    shows_cases: bool = False
    keys: tuple[KeyGroup, ...] = ()
