"""Speed and memory, measured: medians as JSON. Never a test: machines differ.

Each figure is measured as a user meets it: a new job value each time, so that nothing is answered from
memory that a real edit would not leave there.
"""

from __future__ import annotations

import os
import platform
import resource
import statistics
import subprocess
import sys
import tempfile
import time
from collections.abc import Callable
from functools import partial
from pathlib import Path
from typing import Any

from nimble_cradle import __version__
from nimble_cradle.bay.position import nudged
from nimble_cradle.demo import demo_folder
from nimble_cradle.job import store
from nimble_cradle.job.edits import with_value
from nimble_cradle.job.job import Job
from nimble_cradle.judge.gaps import rest_gaps, running_gaps
from nimble_cradle.judge.verdict import verdict


def _median_ms(act: Callable[[int], Any], times: int, once: bool = False) -> float:
    """Median of ``times`` runs in ms, after two that are not counted."""
    taken = []
    for i in range(3 if once else times + 2):
        start = time.perf_counter()
        act(i)
        taken.append(1000 * (time.perf_counter() - start))
    return round(statistics.median(taken[2:]), 2)


def _nudged_jobs(job: Job, count: int, side: float) -> list[Job]:
    return [with_value(job, "position", nudged(job, (-0.37 * i - 0.1, side, 0.0))) for i in range(count)]


def _adjustment_speed() -> dict[str, Any]:
    """Adjustment of 200 readings of 40 points."""
    import numpy as np

    from nimble_cradle.job.survey import Reading, Survey, SurveyPoint
    from nimble_cradle.survey.network import adjusted

    rng = np.random.default_rng(1)
    at = rng.uniform([-900, -450, -250], [600, 450, 550], (40, 3))
    points = tuple(
        SurveyPoint(
            id=f"p{i}",
            name=f"P{i}",
            roughly=(round(float(p[0]), -1), round(float(p[1]), -1), round(float(p[2]), -1)),
        )
        for i, p in enumerate(at)
    )
    rows = [
        Reading(id=f"o{i}{k}", kind=kind, point=f"p{i}", value_mm=float(at[i, k]))
        for i in range(3)
        for k, kind in enumerate(("forward", "left", "up"))
    ]
    pairs = [(i, j) for i in range(40) for j in range(i + 1, 40)]
    for n in rng.permutation(len(pairs))[:191]:
        i, j = pairs[n]
        rows.append(
            Reading(
                id=f"d{n}",
                kind="distance",
                point=f"p{i}",
                other=f"p{j}",
                value_mm=float(np.linalg.norm(at[i] - at[j]) + rng.normal(0, 0.7)),
            )
        )
    surveys = [
        Survey(
            points=points,
            readings=(*rows[:-1], rows[-1].model_copy(update={"value_mm": rows[-1].value_mm + 0.01 * i})),
        )
        for i in range(7)
    ]
    up = np.array([0.0, 0.0, 1.0])
    return {
        f"adjustment of {len(rows)} readings, ms (wanted: under 100)": _median_ms(
            lambda i: adjusted(surveys[i], up), 5
        )
    }


def _refinement_speed() -> dict[str, Any]:
    """Laying a large scan on known surfaces."""
    import numpy as np

    from nimble_cradle.geometry.pose import Pose, rotation_xyz
    from nimble_cradle.geometry.refine import refine
    from nimble_cradle.geometry.surface import Surface

    points, faces = _million(709)
    moved = Pose(rotation_xyz(1.0, -0.8, 1.2), np.array([6.0, -5.0, 4.0])).points(points)
    start = time.perf_counter()
    refine(moved, Surface(*_million(120), 8.0))
    return {
        f"laying a scan of {len(faces):,} triangles on known surfaces, s (wanted: under 5)": round(
            time.perf_counter() - start, 2
        )
    }


def _million(side: int) -> tuple[Any, Any]:
    """A dented open sheet with 2 (side - 1)^2 triangles: points mm, triangles."""
    import numpy as np

    s, t = (
        g.ravel()
        for g in np.meshgrid(np.linspace(-600, 600, side), np.linspace(-450, 450, side), indexing="ij")
    )
    z = 70 * np.sin(s / 130) * np.cos(t / 110) + 0.0004 * s * s
    k = np.arange(side * side).reshape(side, side)
    a, b, c, d = k[:-1, :-1].ravel(), k[1:, :-1].ravel(), k[1:, 1:].ravel(), k[:-1, 1:].ravel()
    return np.column_stack([s, t, z]), np.vstack([np.column_stack([a, b, c]), np.column_stack([a, c, d])])


def _window_with_scan() -> dict[str, Any]:
    """The window with a scan of a million triangles, measured in a process of its own."""
    import json

    import trimesh

    with tempfile.TemporaryDirectory() as work:
        path = Path(work) / "large.stl"
        points, faces = _million(709)
        path.write_bytes(trimesh.Trimesh(points, faces, process=False).export(file_type="stl"))
        done = subprocess.run(
            [sys.executable, "-m", "nimble_cradle.desk.measure", str(path)],
            capture_output=True,
            text=True,
            check=False,
        )
    found = json.loads(done.stdout) if done.returncode == 0 else {}
    return {
        "scan of 1,002,528 triangles, import to first picture, s (wanted: under 6)": found.get(
            "first picture, s"
        ),
        "frames a second while turning it (wanted: over 20)": found.get("frames a second"),
        "memory with it, MB (wanted: under 1500)": found.get("memory, MB"),
    }


def bench(window: bool = True, once: bool = False) -> dict[str, Any]:
    """All figures by name, with the target where the issue sets one. once: a run or two of each, to see
    that all are measured; no figure worth having."""
    median = partial(_median_ms, once=once)
    job = store.read(demo_folder("light-truck")).job
    verdict(job)
    near, far, full = _nudged_jobs(job, 32, 0.3), _nudged_jobs(job, 22, -0.2), _nudged_jobs(job, 22, 0.1)
    hard = [with_value(job, "mounts/left/bush/hardness_shore_a", 40.0 + 0.3 * i) for i in range(22)]
    sized = [with_value(job, "mounts/left/bush/length_mm", 50.0 + 0.3 * i) for i in range(12)]
    out: dict[str, Any] = {
        "program": __version__,
        "machine": f"{platform.machine()}, {os.cpu_count()} cores",
        "gaps at rest after a nudge, ms (wanted: under 10)": median(lambda i: rest_gaps(near[i]), 30),
        "gaps at rest and running after a nudge, ms": median(lambda i: running_gaps(far[i]), 20),
        "all findings after a nudge, ms (wanted: under 150)": median(lambda i: verdict(full[i]), 20),
        "all findings after a harder bush, ms (wanted: under 150)": median(lambda i: verdict(hard[i]), 20),
        "all findings after a bush of another size, ms (wanted: under 150)": median(
            lambda i: verdict(sized[i]), 10
        ),
    }
    other = store.read(demo_folder("hatchback")).job
    verdict(other)
    across = _nudged_jobs(other, 12, 0.1)
    out["all findings after a nudge of the hatchback, ms"] = median(lambda i: verdict(across[i]), 10)
    from nimble_cradle.shop.pack import write_pack

    with tempfile.TemporaryDirectory() as folder:
        out["shop pack, warm, ms (wanted: under 3000)"] = median(
            lambda i: write_pack(job, Path(folder) / str(i)), 3
        )
        path = Path(folder) / "save.cradle"
        out["save, ms"] = median(lambda i: store.write(path, near[i]), 10)
        out["open, ms"] = median(lambda i: store.read(path), 10)
        start = time.perf_counter()
        subprocess.run(
            [
                sys.executable,
                "-m",
                "nimble_cradle",
                "pack",
                str(demo_folder("light-truck")),
                "-o",
                str(Path(folder) / "cold"),
            ],
            check=True,
            stdout=subprocess.DEVNULL,
        )
        out["shop pack from the command line, start included, ms"] = round(
            1000 * (time.perf_counter() - start)
        )
    out["memory of the core, MB"] = round(resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024)
    out |= _adjustment_speed()
    if window:
        out |= _refinement_speed() | _window() | _window_with_scan()
    return out


def _window() -> dict[str, Any]:
    """Start-up and memory of the real window, each start a program of its own."""
    from nimble_cradle.desk.start import ensure_screen

    ensure_screen(last=True)
    taken, memory = [], []
    with tempfile.TemporaryDirectory() as data:
        environment = {**os.environ, "NIMBLE_CRADLE_READY": "1", "XDG_DATA_HOME": data}
        for _ in range(5):
            start = time.perf_counter()
            run = subprocess.Popen(
                [sys.executable, "-m", "nimble_cradle", "demo"],
                env=environment,
                stdout=subprocess.PIPE,
                text=True,
            )
            assert run.stdout is not None
            line = run.stdout.readline()
            taken.append(1000 * (time.perf_counter() - start))
            if not line.startswith("ready"):
                return {"window": "did not start"}
            run.stdout.read()
            run.wait()
            memory.append(int(line.split()[1]))
    return {
        "window usable from the command, warm, ms (wanted: under 2000)": round(statistics.median(taken[1:])),
        "memory of the window, MB (wanted: under 500)": max(memory),
    }
