"""What tests/test_safety.py and tests/test_strangers.py try, thousands of times over. Run by hand, never in
CI:

    ./run test --long [--seed 1] [--kills 1000] [--jobs 5000] [--files 5000] [--hours 0]

kills: of a program at work on one job, by kill -9 at random moments. jobs: made job files, judged, saved and
read back. files: damaged meshes and drawings. hours: of walking over the window (tests/long/walk.py), one job
after another. Tells every fault, and what took longest and most; gives 1 where there was a fault.
"""

from __future__ import annotations

import argparse
import json
import random
import resource
import subprocess
import sys
import tempfile
import time
import traceback
from collections.abc import Callable, Iterator
from pathlib import Path

sys.path.insert(0, str(Path(__file__).resolve().parent.parent))

import trimesh
from nimble_cradle.demo import DEMOS, demo_folder, write_demo
from nimble_cradle.geometry.mesh import read_mesh
from nimble_cradle.geometry.solids import ShapeError
from nimble_cradle.job import store
from nimble_cradle.job.base import JobError
from nimble_cradle.job.open_job import OpenJob
from nimble_cradle.judge.verdict import stage_states, verdict
from nimble_cradle.survey.traced import read_traced
from nimble_cradle.telltales import tell_tales

from damage import change_bytes, change_job
from saving import Nursery, state

MOST_SECONDS = 5.0


class Told:
    """Faults so far, and the slowest."""

    def __init__(self) -> None:
        self.faults = 0
        self.slow: list[tuple[float, str]] = []

    def run(self, name: str, work: Callable[[], None]) -> None:
        """One try: its fault is told, its computing time kept."""
        start = time.process_time()
        try:
            work()
        except Exception:
            self.faults += 1
            print(f"FAULT in {name}\n{traceback.format_exc()}", flush=True)
        took = time.process_time() - start
        self.slow = sorted([*self.slow, (round(took, 1), name)], reverse=True)[:5]
        if took > MOST_SECONDS:
            self.faults += 1
            print(f"SLOW: {name} took {took:.1f} s of computing", flush=True)

    def end(self, what: str) -> None:
        """The words at the end of one kind."""
        most = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss // 1024
        print(
            f"{what}: faults so far {self.faults}; slowest {self.slow[:3]}; memory up to {most} MB",
            flush=True,
        )
        self.slow = []


def kills(told: Told, seed: int, rounds: int) -> None:
    """One job, killed again and again; what was told as done is there each time."""
    chance, nursery = random.Random(seed), Nursery()
    at_least: dict[str, int] = {}
    with tempfile.TemporaryDirectory() as folder:
        path = write_demo("light-truck", Path(folder) / "t.cradle")
        for turn in range(rounds):
            said = nursery.killed(path, seed * 100_000 + turn, chance.uniform(0, 0.1))
            for words in said:
                at_least = {k: max(v, at_least.get(k, 0)) for k, v in words.items()}
            place = OpenJob(path)
            now = state(place)
            if place.read_only or any(now[k] < v for k, v in at_least.items()):
                told.faults += 1
                print(f"LOST in round {turn}: {at_least} became {now} ({place.read_only})", flush=True)
            if chance.random() < 0.3:
                place.save()
            if now["photos"] > 100:  # begin again, before photographs make every save slow
                place.close()
                path = write_demo("light-truck", Path(folder) / f"t{turn}.cradle")
                at_least = {}
            else:
                at_least = now
                place.close()
            litter = {p.name for p in Path(folder).iterdir() if p.name.startswith(".") or "aside" in p.name}
            if litter:
                told.faults += 1
                print(f"LITTER in round {turn}: {litter}", flush=True)
    nursery.close()
    told.end(f"{rounds} kills")


def jobs(told: Told, seed: int, rounds: int) -> None:
    """Made job files: refused in a sentence, or judged, saved and the same again."""
    bases, judged = [], [0]
    for name in DEMOS:
        job = store.read(demo_folder(name)).job
        verdict(job)
        bases.append((store.job_text(job), {m.name: m.data for m in job.meshes}))
    with tempfile.TemporaryDirectory() as folder:
        for n in range(rounds):
            text, meshes = bases[n % len(bases)]
            chance = random.Random(seed * 1_000_000 + n)

            def work(
                text: str = text, meshes: dict[str, bytes] = meshes, chance: random.Random = chance
            ) -> None:
                data = json.loads(text)
                change_job(data, chance)
                try:
                    job = store.job_from_data(data, meshes)
                except JobError as error:
                    assert len(error.message) < 200 and error.message.isprintable(), error.message
                    return
                v = verdict(job)
                tell_tales(job, v)
                stage_states(job, v)
                store.write(Path(folder) / "f.cradle", job)
                assert store.read(Path(folder) / "f.cradle").job == job
                judged[0] += 1

            told.run(f"job {seed * 1_000_000 + n}", work)
    told.end(f"{rounds} job files, {judged[0]} of them judged")


def whole_files() -> Iterator[tuple[str, bytes]]:
    """A mesh and a drawing of every kind."""
    from test_strangers import TRIANGLE, drawing, plate, three_mf
    from test_traced import svg

    made = trimesh.creation.icosphere(subdivisions=1, radius=40)
    for kind in ("stl", "obj", "off", "glb", "ply", "stl_ascii"):
        data = made.export(file_type=kind)
        yield f"m.{kind.split('_')[0]}", data if isinstance(data, bytes) else data.encode()
    yield "m.3mf", three_mf(TRIANGLE.format(1, 0, 2))
    yield "d.dxf", drawing(plate)
    yield "b.dxf", drawing(plate, "bin")
    yield "s.svg", svg('<g transform="rotate(30)"><rect width="50" height="30" rx="4"/><circle r="3"/></g>')


def files(told: Told, seed: int, rounds: int) -> None:
    """Damaged meshes and drawings."""
    whole, read = list(whole_files()), [0]
    for n in range(rounds):
        name, data = whole[n % len(whole)]
        bad = change_bytes(data, random.Random(seed * 1_000_000 + n))

        def work(name: str = name, bad: bytes = bad) -> None:
            try:
                if name.endswith(("dxf", "svg")):
                    read_traced(name, bad, 1.0)
                else:
                    read_mesh(name, bad)
                read[0] += 1
            except ShapeError as error:
                assert len(str(error)) < 200 and str(error).isprintable(), str(error)

        told.run(f"{name} {seed * 1_000_000 + n}", work)
    told.end(f"{rounds} files, {read[0]} of them read")


def main() -> int:
    """Gives 1 where there was a fault."""
    parser = argparse.ArgumentParser(
        description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter
    )
    parser.add_argument("--seed", type=int, default=1)
    parser.add_argument("--kills", type=int, default=1000)
    parser.add_argument("--jobs", type=int, default=5000)
    parser.add_argument("--files", type=int, default=5000)
    parser.add_argument("--hours", type=float, default=0.0)
    a = parser.parse_args()
    told = Told()
    kills(told, a.seed, a.kills)
    files(told, a.seed, a.files)
    jobs(told, a.seed, a.jobs)
    if a.hours:
        walk = [
            sys.executable,
            str(Path(__file__).parent / "walk.py"),
            "--hours",
            str(a.hours),
            "--seed",
            str(a.seed),
        ]
        told.faults += subprocess.run(walk, check=False).returncode
    return 1 if told.faults else 0


if __name__ == "__main__":
    raise SystemExit(main())
