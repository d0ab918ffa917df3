"""The house: set-up files, migration, what is remembered, symmetry of the strength room, the bench."""

from __future__ import annotations

import json
import re
import runpy
import subprocess
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from nimble_cradle.calc import MODULES, CalcError, Q, Worked, all_calculations, check_range
from nimble_cradle.cli.bench import bench
from nimble_cradle.fit.lowest import LOWEST
from nimble_cradle.job import job as job_module
from nimble_cradle.job import migrate, read_archive, store
from nimble_cradle.job.base import JobError
from nimble_cradle.job.edits import with_value
from nimble_cradle.job.job import SCHEMA, Job
from nimble_cradle.job.new import new_job
from nimble_cradle.job.open_job import OpenJob
from nimble_cradle.job.remember import remembered
from nimble_cradle.judge.verdict import verdict
from nimble_cradle.strength.bolts import group_shear, group_tension
from nimble_cradle.strength.weld import force_per_mm, segments

ROOT = Path(__file__).parent.parent


class TestSetUp:
    def test_lock_file_pins_everything_and_names_no_address(self) -> None:
        to_run = (ROOT / "requirements.lock").read_text().split()
        lines = [*to_run, *(ROOT / "requirements-test.lock").read_text().split()]
        assert not any(line.lower().startswith(("pynite", "ipython", "pytest")) for line in to_run)
        assert len(lines) > 40
        for line in lines:
            assert re.fullmatch(r"[A-Za-z0-9_.-]+==[A-Za-z0-9_.!+-]+", line), line
        wanted = re.findall(r'^    "([A-Za-z0-9-]+)>=', (ROOT / "pyproject.toml").read_text(), re.M)
        pinned = {line.split("==")[0].lower().replace("_", "-") for line in lines}
        assert len(wanted) > 15 and {w.lower() for w in wanted} <= pinned

    def test_the_run_script_says_what_it_wants(self) -> None:
        assert (ROOT / ".ci" / "run").read_text().rstrip().endswith("exec ./run test")
        done = subprocess.run(["bash", "-n", str(ROOT / "run")], capture_output=True, text=True, check=False)
        assert done.returncode == 0, done.stderr

    def test_every_stage_has_its_picture_in_the_readme(self) -> None:
        text = (ROOT / "README.md").read_text()
        for stage in (
            "survey",
            "bay",
            "powertrain",
            "position",
            "mounts",
            "crossmember",
            "pack",
            "logbook",
            "scans",
            "adapter",
        ):
            assert f"docs/screenshots/{stage}.png" in text
            assert (ROOT / "docs" / "screenshots" / f"{stage}.png").stat().st_size > 50_000


class TestMigration:
    def old_job(self, demo: Job, tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> Path:
        """A job saved by this program, seen by a later one that knows the next schema."""
        path = tmp_path / "old.cradle"
        store.write(path, demo)
        for module in (read_archive, migrate, job_module):
            monkeypatch.setattr(module, "SCHEMA", SCHEMA + 1)
        return path

    def test_an_older_job_is_migrated_and_its_original_kept(
        self, demo: Job, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
    ) -> None:
        path = self.old_job(demo, tmp_path, monkeypatch)
        before = path.read_bytes()
        monkeypatch.setitem(migrate.STEPS, SCHEMA, lambda data: {**data, "name": "Brought forward"})
        place = OpenJob(path)
        assert place.job.name == "Brought forward" and place.job.schema_number == SCHEMA + 1
        assert (tmp_path / f"old.cradle.schema-{SCHEMA}").read_bytes() == before
        place.close()

    def test_a_job_of_schema_1_opens(self, demo: Job, tmp_path: Path) -> None:
        """As the first release wrote it: no survey, no motion; everything else comes through."""
        data = json.loads(
            store.job_text(with_value(demo, "items", tuple(i for i in demo.items if i.made is None)))
        )
        data["schema"] = 1
        del data["survey"]
        for item in data["items"]:
            for name in ("made", "motion"):
                del item[name]
        (tmp_path / "job.json").write_text(json.dumps(data))
        (tmp_path / "meshes").mkdir()
        for mesh in demo.meshes:
            (tmp_path / "meshes" / mesh.name).write_bytes(mesh.data)
        opened = store.read(tmp_path)
        assert (
            opened.migrated_from == 1
            and opened.job.items == tuple(i for i in demo.items if i.made is None)
            and opened.job.schema_number == SCHEMA
        )
        for mount, was in zip(opened.job.mounts, demo.mounts, strict=True):
            assert mount.bush == was.bush and mount.arm == was.arm
            assert mount.pad.holes == tuple((0.0 - u, v) for u, v in was.pad.holes), "words and paper won"
        assert [m.pad.holes_confirmed for m in opened.job.mounts] == [True, False, True], (
            "the right plate is odd"
        )
        asked = [p for p in verdict(opened.job).problems if p.place.endswith("holes_confirmed")]
        assert len(asked) == 1 and "lay the printed plate on the block" in asked[0].sentence

    def test_a_missing_step_is_said(self, demo: Job, tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
        with pytest.raises(JobError, match="older than this program can read"):
            store.read(self.old_job(demo, tmp_path, monkeypatch))


class TestRemembering:
    def test_only_what_is_read_counts(self, demo: Job) -> None:
        calls: list[str] = []

        @remembered("items", "position")
        def count(job: Job) -> int:
            calls.append(job.name)
            return len(job.items)

        moved = with_value(demo, "position/x", -300.0)
        assert [count(j) for j in (demo, demo, with_value(demo, "name", "b"), moved, demo)] == [
            len(demo.items)
        ] * 5
        assert len(calls) == 2, "a change of name must not ask again, a change of position must"

    def test_it_forgets_the_oldest(self, demo: Job) -> None:
        calls: list[float] = []

        @remembered("position", most=3)
        def where(job: Job) -> float:
            calls.append(job.position.x)
            return job.position.x

        jobs = [with_value(demo, "position/x", float(x)) for x in range(5)]
        assert [where(j) for j in (*jobs, jobs[4], jobs[0])] == [0, 1, 2, 3, 4, 4, 0]
        assert calls == [0, 1, 2, 3, 4, 0]


class TestCalculations:
    def test_every_module_that_holds_some_is_listed(self) -> None:
        source = ROOT / "src" / "nimble_cradle"
        holding = {
            ".".join(path.relative_to(source).with_suffix("").parts)
            for path in source.rglob("*.py")
            if re.search(r"^\w+ = calculation\($", path.read_text(), re.M)
        }
        assert set(MODULES) == holding

    def test_every_one_is_described(self) -> None:
        for calc in all_calculations().values():
            assert calc.title and calc.formula and calc.source and calc.leaves_out and calc.outputs
            assert len({q.name for q in (*calc.inputs, *calc.outputs)}) == len(calc.inputs) + len(
                calc.outputs
            )
            assert all(q.meaning for q in (*calc.inputs, *calc.outputs))

    def test_a_worked_one_is_plain_data(self) -> None:
        worked = LOWEST.work({"z": "measured"}, z=-178.0, line_z=-182.0)
        assert isinstance(worked, Worked) and worked.value("height") == 4
        told = json.loads(json.dumps(worked.as_dict()))
        assert told["inputs"][0] == {
            "name": "z", "unit": "mm", "value": -178.0, "from": "measured",
            "meaning": "height of the lowest point of all that goes in from the datum",
        }  # fmt: skip
        with pytest.raises(KeyError):
            worked.value("depth")

    @pytest.mark.parametrize("value", [float("nan"), float("inf"), "3", None, True, -1.0, 11.0, 0.0])
    def test_ranges_are_kept(self, value: Any) -> None:
        with pytest.raises(CalcError, match="load"):
            check_range(Q("load", "N", "load", low=-0.5, high=10, above=0), value)
        with pytest.raises(CalcError, match="no input called"):
            LOWEST.work(z=1.0, line_z=2.0, depth=3.0)


class TestSymmetry:
    """Turning a pattern in its plane turns its loads and changes none of them."""

    @given(st.integers(0, 2000), st.floats(-3.1, 3.1))
    def test_bolts(self, seed: int, angle: float) -> None:
        rng = np.random.default_rng(seed)
        turn = np.array([[np.cos(angle), -np.sin(angle)], [np.sin(angle), np.cos(angle)]])
        holes = np.array([[40, 30], [-40, 30], [-40, -30], [40, -30]]) + rng.uniform(-9, 9, (4, 2))
        force, at, twist = rng.uniform(-4e3, 4e3, 2), rng.uniform(-200, 200, 2), float(rng.uniform(-3e5, 3e5))
        first = group_shear(holes, force, twist, at)
        assert np.allclose(group_shear(holes @ turn.T, turn @ force, twist, turn @ at), first @ turn.T)
        bend, pull = rng.uniform(-3e5, 3e5, 2), float(rng.uniform(-2e3, 6e3))
        tension = group_tension(holes, pull, bend[0], bend[1], 17)
        assert np.allclose(
            group_tension(holes @ turn.T, pull, (turn @ bend)[0], (turn @ bend)[1], 17), tension, atol=1e-6
        )

    @given(st.integers(0, 2000), st.floats(-3.1, 3.1))
    def test_welds(self, seed: int, angle: float) -> None:
        rng = np.random.default_rng(seed)
        c, s = np.cos(angle), np.sin(angle)
        turn = np.array([[c, -s, 0], [s, c, 0], [0, 0, 1]])
        ends = rng.uniform(-60, 60, (4, 2, 2))
        force, moment = rng.uniform(-5e3, 5e3, 3), rng.uniform(-4e5, 4e5, 3)

        def line(points: np.ndarray) -> Any:
            return segments([(tuple(p), tuple(q)) for p, q in points])

        first = force_per_mm(line(ends), force, moment)
        assert force_per_mm(line(ends @ turn[:2, :2].T), turn @ force, turn @ moment) == pytest.approx(
            first, rel=1e-6
        )


def test_a_new_job_is_valid_and_claims_nothing() -> None:
    job = new_job("Barn find")
    v = verdict(job)
    assert v.gaps == () and not v.findings and not v.holds
    assert any("no mount yet" in p.sentence for p in v.problems)
    assert store.job_from_data(json.loads(store.job_text(job)), {}) == job


def test_bench_measures_everything_it_promises() -> None:
    told = bench(window=False, once=True)
    times = {
        name: value for name, value in told.items() if name.endswith(("ms", "ms)", "00)", "10)", "150)"))
    }
    assert len(times) >= 8 and all(isinstance(v, (int, float)) and v > 0 for v in times.values())


def test_every_planted_fault_finds_its_line() -> None:
    """The faults of tests/long are planted by hand now and then; what they change is in the program today."""
    planted = runpy.run_path(str(ROOT / "tests" / "long" / "faults.py"))["FAULTS"]
    source = ROOT / "src" / "nimble_cradle"
    gone = [fault.what for fault in planted if fault.old not in (source / fault.file).read_text()]
    assert len(planted) >= 40 and not gone
