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
from nimble_cradle.design.first_panel import first_panel
from nimble_cradle.design.first_strut import with_strut
from nimble_cradle.design.first_suspension import first_suspension
from nimble_cradle.geometry.bodies import Bodies
from nimble_cradle.job import store
from nimble_cradle.job.base import JobError, Part
from nimble_cradle.job.crack import Crack
from nimble_cradle.job.edits import added, with_value
from nimble_cradle.job.foot import TabsFoot
from nimble_cradle.job.job import Job
from nimble_cradle.job.remember import OF_MOUNT, REMEMBERED, SHAPELESS, shape_of
from nimble_cradle.job.suspension import Pivot
from nimble_cradle.judge.verdict import verdict

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
    out.append(with_value(added(out[0], "cracks", crack), "items/rail-left/host/section", "open C"))
    out.append(added(out[0], "panels", first_panel(out[0], "tie")))
    held = with_strut(out[1])
    held = with_value(held, f"struts/{held.struts[0].id}/bracket", TabsFoot(host="leg-left"))
    out.append(held)
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


@pytest.mark.parametrize("path", ["items/rail-left/note", "mounts/left/note", "openings/fan/note"])
def test_typing_a_note_works_nothing_out_anew(path: str) -> None:
    """What is remembered of a job is that of the job with another note, also of one with two; an edit of a
    figure after it is seen, and what is found is what a job that nobody knew of gives."""
    job = store.read(demo_folder("light-truck")).job
    before = verdict(job)
    other = with_value(with_value(job, path, "rusty"), path, "rusty at the front")
    after = verdict(other)
    kept = [name for name, (function, parts) in REMEMBERED.items() if path.partition("/")[0] in parts]
    assert len(kept) > 5 and other != job
    assert all(a is b for a, b in zip(before.gaps, after.gaps, strict=True))
    assert all(a is b for a, b in zip(before.findings, after.findings, strict=True))
    moved = with_value(other, "items/rail-left/moved", (0.0, -9.0, 0.0))
    fresh = verdict(copy.deepcopy(moved))
    told = verdict(moved)
    assert [g.margin for g in told.gaps] == pytest.approx([g.margin for g in fresh.gaps])
    assert [g.margin for g in told.gaps] != [g.margin for g in before.gaps]


OTHERS: dict[str, Any] = {
    **dict.fromkeys(("hardness_shore_a", "hardness_irhd"), 61.0),
    **dict.fromkeys(("stiffness_radial", "stiffness_axial"), 777.0),
    **dict.fromkeys(("bolt_class", "other_class"), "10.9"),
    **dict.fromkeys(("tightening_nm", "other_tightening_nm"), 33.0),
    "thread_in": "steel",
    "thread_deep_mm": 21.0,
    "note": "seen again",
}
"""Another figure for each that has no shape."""


def _altered(part: Any) -> Any:
    """A mount, or what it is made of, with every figure that has no shape another."""
    changes = {
        name: OTHERS[name] if name in SHAPELESS else _altered(getattr(part, name))
        for name in type(part).model_fields
        if name in SHAPELESS or isinstance(getattr(part, name), Part)
    }
    return part.model_copy(update=changes)


def _plain(result: Any) -> Any:
    """A result as it can be compared: arrays and parts in words; the version of a made part names its mount,
    and what it is cut from its bolts' class."""
    if isinstance(result, list | tuple):
        return [_plain(row) for row in result]
    if isinstance(result, dict):
        return {key: _plain(value) for key, value in result.items()}
    if isinstance(result, Bodies):  # what it measures by are objects of their own each time
        return [_plain(result.parts), repr(result.owner)]
    if hasattr(result, "__dict__") and not isinstance(result, Part):
        left = {"version", "stock"} | ({"bodies"} if type(result).__name__ == "MadeBodies" else set())
        return [type(result).__name__, {k: _plain(v) for k, v in vars(result).items() if k not in left}]
    return repr(result)


@pytest.mark.parametrize("name", sorted(OF_MOUNT))
def test_what_is_said_to_have_no_shape_has_none(name: str) -> None:
    """Worked out anew with every such figure of every mount another: the same result to the last digit."""
    function, of_mount = REMEMBERED[name][0], OF_MOUNT[name]
    assert set(OTHERS) == SHAPELESS
    for job in jobs()[:2]:
        other = job.model_copy(update={"mounts": tuple(_altered(mount) for mount in job.mounts)})
        pairs = list(zip(job.mounts, other.mounts, strict=True))
        assert all(a != b and of_mount(a) == of_mount(b) for a, b in pairs)
        moved = with_value(job, f"mounts/{job.mounts[0].id}/bush/centre", (1.0, 2.0, 3.0)).mounts[0]
        assert shape_of(moved) != shape_of(job.mounts[0]) and of_mount(moved) != of_mount(job.mounts[0])
        fresh = [copy.deepcopy(each) for each in (job, other)]
        assert _plain(function(fresh[0])) == _plain(function(fresh[1]))
