"""What is joined to what: fields that nothing reads, results that nobody uses, and what remembered functions
say they read against what they read."""

from __future__ import annotations

import ast
import copy
import importlib
import pkgutil
import re
import sys
from collections import Counter
from pathlib import Path
from typing import Any

import nimble_cradle
import pytest
from nimble_cradle.demo import demo_folder
from nimble_cradle.design.first_suspension import first_suspension
from nimble_cradle.job import store
from nimble_cradle.job.base import JobError, Part
from nimble_cradle.job.crack import Crack
from nimble_cradle.job.edits import added, with_value
from nimble_cradle.job.job import Job
from nimble_cradle.job.remember import REMEMBERED
from nimble_cradle.job.suspension import Pivot

ROOT = Path(nimble_cradle.__file__).parent
FILES = {p.relative_to(ROOT): ast.parse(p.read_text()) for p in ROOT.rglob("*.py")}


def loads(tree: ast.AST) -> Counter[str]:
    """How often each attribute or name is read in a tree."""
    return Counter(
        node.attr if isinstance(node, ast.Attribute) else node.id
        for node in ast.walk(tree)
        if isinstance(node, ast.Attribute | ast.Name) and isinstance(node.ctx, ast.Load)
    )


def told(tree: ast.AST) -> Counter[str]:
    """Functions that another process is told to call, by their names in text."""
    texts = [n.value for n in ast.walk(tree) if isinstance(n, ast.Constant) and isinstance(n.value, str)]
    return Counter(
        name for text in texts for name in re.findall(r"nimble_cradle[\w.]*(?::| import )(\w+)", text)
    )


EVERY = sum((loads(tree) + told(tree) for tree in FILES.values()), Counter[str]())
CORE = sum((loads(t) for p, t in FILES.items() if p.parts[0] not in ("desk", "job")), Counter[str]())
"""What is read by the part of the program that judges: neither the desk nor the job file's own rules."""

AS_TUPLES = {"CutRow", "Colours"}
"""Results read whole, as tuples or dictionaries: astuple and fields in the cut list, names in sheet.qss."""


def parts_of_a_job() -> list[type[Part]]:
    """Every class of which a job file is made."""
    found: dict[str, type[Part]] = {}
    waiting: list[type[Part]] = [Part]
    while waiting:
        for kind in waiting.pop().__subclasses__():
            found[kind.__qualname__] = kind
            waiting.append(kind)
    return [k for k in found.values() if k.__module__.startswith("nimble_cradle.")]


def test_every_field_of_a_job_is_read() -> None:
    """A field that can be typed and saved and that nothing reads is a lie to the one who types it. A name
    that two classes share is found only once, which this cannot see."""
    elsewhere = {
        ("Job", "schema_number"),  # read as text, before the job is made, by the migration
        ("Job", "story"),  # told when a demo is opened
        ("Piece", "fitted"),  # read by the job itself, for Powertrain.present
        ("Pad", "other_holes"),  # these five too, for Pad.bolts and Pad.every_hole
        ("Pad", "other_bolt"),
        ("Pad", "other_class"),
        ("Pad", "other_tightening_nm"),
        ("Pad", "other_hole_mm"),
        ("Vehicle", "driver_side"),  # names the sides in the view
        ("Level", "good_enough_deg"),  # the level's tell-tale in its room
    }
    lost = []
    for kind in parts_of_a_job():
        for name in kind.model_fields:
            if not CORE[name]:
                lost.append((kind.__name__, name))
    assert set(lost) == elsewhere


def test_every_result_is_used() -> None:
    lost = []
    for path, tree in FILES.items():
        for node in tree.body:
            if isinstance(node, ast.ClassDef) and "dataclass" in ast.dump(ast.Tuple(node.decorator_list)):
                for row in node.body:
                    if (
                        isinstance(row, ast.AnnAssign)
                        and isinstance(row.target, ast.Name)
                        and not EVERY[row.target.id]
                        and node.name not in AS_TUPLES
                    ):
                        lost.append(f"{path}: {node.name}.{row.target.id}")
            elif isinstance(node, ast.FunctionDef) and not node.decorator_list and not EVERY[node.name]:
                lost.append(f"{path}: {node.name}()")
    assert not lost


class Watched(Job):
    """A job that writes down which of its parts are read, but for what the memory itself looks at."""

    def __getattribute__(self, name: str) -> Any:
        if name in Job.model_fields and not sys._getframe(1).f_code.co_filename.endswith("remember.py"):
            READ.add(name)
        return super().__getattribute__(name)


READ: set[str] = set()


def watched(job: Job) -> Watched:
    """A job of the same parts, each a thing of its own, so that nothing is remembered of it."""
    fresh = copy.deepcopy(job)
    return Watched.model_construct(**{name: getattr(fresh, name) for name in Job.model_fields})


def jobs() -> list[Job]:
    """Both demos, and what they leave out."""
    out = [store.read(demo_folder(name)).job for name in ("light-truck", "hatchback")]
    out.append(with_value(out[0], "crossmember", None))
    crack = Crack(id="c", name="Crack", item="rail-right")
    out.append(added(out[0], "cracks", crack))
    axle = first_suspension(out[0], "live axle")
    point = Pivot(at=(0, 0, 0), point=out[0].survey.points[0].id)
    out.append(added(out[0], "suspensions", axle.model_copy(update={"left_wheel": point})))
    return out


for module in pkgutil.walk_packages([str(ROOT)], "nimble_cradle."):
    if module.name.split(".")[1] not in ("desk", "__main__", "cli", "bench", "bench_seats"):
        importlib.import_module(module.name)


@pytest.mark.parametrize("name", sorted(REMEMBERED))
def test_declared_reads_are_the_real_ones(name: str) -> None:
    function, declared = REMEMBERED[name]
    READ.clear()
    for job in jobs():
        fresh = watched(job)
        READ.discard("schema_number")
        try:
            function(fresh)
        except JobError:
            continue
    assert frozenset(READ) == declared
