"""The job file: round trips, damage, strangers, limits, journal, lock, and a killed program."""

from __future__ import annotations

import json
import zipfile
from collections.abc import Callable
from pathlib import Path

import jsonschema
import pytest
from hypothesis import given
from hypothesis import strategies as st
from nimble_cradle.demo import demo_folder
from nimble_cradle.job import journal, read_archive, recover, store
from nimble_cradle.job.base import JobError
from nimble_cradle.job.edits import added, removed, value_at, with_mesh, with_value
from nimble_cradle.job.history import History
from nimble_cradle.job.job import Job
from nimble_cradle.job.open_job import OpenJob

DOCS = Path(__file__).parent.parent / "docs"


def test_round_trip_is_exact(demo: Job, tmp_path: Path) -> None:
    path = tmp_path / "a.cradle"
    log = ({"time": "2026-01-01T00:00:00Z", "what": "began"},)
    store.write(path, demo, log, (("bay.jpg", b"\xff\xd8"),))
    opened = store.read(path)
    assert opened.job == demo and opened.log == log and opened.photos == (("bay.jpg", b"\xff\xd8"),)
    assert store.job_text(opened.job) == store.job_text(demo)
    first = path.read_bytes()
    store.write(path, opened.job, log, opened.photos)
    assert path.read_bytes() == first and path.with_name("a.cradle.previous").read_bytes() == first


def test_the_shipped_job_is_written_as_a_save_would_and_fits_the_schema(demo: Job) -> None:
    text = (demo_folder("light-truck") / "job.json").read_text()
    assert text == store.job_text(demo)
    schema = json.loads((DOCS / "job.schema.json").read_text())
    assert schema == Job.model_json_schema(by_alias=True), (
        "docs/job.schema.json is old: nimble-cradle's models changed"
    )
    jsonschema.validate(json.loads(text), schema)
    assert len(demo.items) >= 18 and len(demo.powertrain.pieces) >= 12


@given(st.floats(-900, 900), st.floats(-30, 30), st.floats(30, 90), st.booleans())
def test_edited_jobs_round_trip_and_share_what_they_did_not_touch(
    x: float, angle: float, shore: float, fitted: bool
) -> None:
    demo = store.read(demo_folder("light-truck")).job
    job = with_value(with_value(demo, "position/x", x), "position/pitch_deg", angle)
    job = with_value(
        with_value(job, "mounts/left/bush/hardness_shore_a", shore), "powertrain/pieces/fan/fitted", fitted
    )
    again = store.job_from_data(json.loads(store.job_text(job)), {m.name: m.data for m in job.meshes})
    assert again == job and job.items is demo.items


def corrupt(path: Path, name: str) -> Path:
    """A bad job file of a kind."""
    data = path.read_bytes()
    text = zipfile.ZipFile(path).read("job.json").decode()
    bad = path.with_name("bad.cradle")

    def pack(entries: dict[str, bytes]) -> None:
        with zipfile.ZipFile(bad, "w") as archive:
            for key, value in entries.items():
                archive.writestr(key, value)

    kinds: dict[str, Callable[[], object]] = {
        "empty": lambda: bad.write_bytes(b""),
        "truncated": lambda: bad.write_bytes(data[: len(data) // 2]),
        "foreign": lambda: bad.write_bytes(b"%PDF-1.4 hello"),
        "middle": lambda: bad.write_bytes(data[:200] + bytes(200) + data[400:]),
        "no job": lambda: pack({"meshes/a.stl": b"x"}),
        "stranger": lambda: pack({"job.json": text.encode(), "run.py": b"print(1)"}),
        "path": lambda: pack({"job.json": text.encode(), "meshes/../../evil": b""}),
        "not json": lambda: pack({"job.json": text[:900].encode()}),
        "not text": lambda: pack({"job.json": b"\xff\xfe\x00"}),
        "a list": lambda: pack({"job.json": b"[1]"}),
        "no schema": lambda: pack({"job.json": text.replace('"schema": 1,', "").encode()}),
        "nested": lambda: pack({"job.json": b"[" * 100000}),
        "mesh gone": lambda: pack({"job.json": text.encode()}),
        "mesh changed": lambda: pack({"job.json": text.encode(), "meshes/tunnel.stl": b"solid"}),
        "unknown name": lambda: pack({"job.json": text.replace('"story"', '"stroy"').encode()}),
        "letter": lambda: pack(
            {"job.json": text.replace('"wheelbase_mm": 3080.0', '"wheelbase_mm": "long"').encode()}
        ),
        "infinite": lambda: pack(
            {"job.json": text.replace('"wheelbase_mm": 3080.0', '"wheelbase_mm": Infinity').encode()}
        ),
    }
    kinds[name]()
    return bad


@pytest.mark.parametrize(
    "kind",
    [
        "empty",
        "truncated",
        "foreign",
        "middle",
        "no job",
        "stranger",
        "path",
        "not json",
        "not text",
        "a list",
        "no schema",
        "nested",
        "mesh gone",
        "mesh changed",
        "unknown name",
        "letter",
        "infinite",
    ],
)
def test_a_bad_file_is_one_sentence_and_stays_as_it_is(demo_path: Path, kind: str) -> None:
    bad = corrupt(demo_path, kind)
    before = bad.read_bytes()
    with pytest.raises(JobError) as refused:
        store.read(bad)
    assert refused.value.message.count("\n") == 0 and 15 < len(refused.value.message) < 300
    assert bad.read_bytes() == before


def test_faults_are_told_with_their_place(demo: Job) -> None:
    data = json.loads(store.job_text(demo))
    data["mounts"][1]["bush"]["sleeve_mm"] = 200
    with pytest.raises(JobError, match="does not go into the eye") as refused:
        store.job_from_data(data, {m.name: m.data for m in demo.meshes})
    assert refused.value.place == "mounts/right/bush"
    with pytest.raises(JobError, match="greater than 0") as refused:
        with_value(demo, "items/rail-left/shapes/0/size", (0.0, 60.0, 150.0))
    assert refused.value.place.startswith("items/rail-left/shapes/0/size")
    with pytest.raises(JobError, match="Two items have the id"):
        added(demo, "items", demo.items[0])
    with pytest.raises(JobError, match="no clearance class"):
        with_value(demo, "items/rail-left/neighbour", "wool")


def test_a_zip_bomb_is_refused_before_it_is_unpacked(
    demo_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(read_archive, "MOST_JSON", 1000)
    with pytest.raises(JobError, match="too large"):
        store.read(demo_path)


def test_a_newer_schema_opens_to_look_at_only(demo: Job, tmp_path: Path) -> None:
    folder = tmp_path / "newer"
    (folder / "meshes").mkdir(parents=True)
    data = {**json.loads(store.job_text(demo)), "schema": 99, "weather": "fine"}
    (folder / "job.json").write_text(json.dumps(data))
    (folder / "meshes" / "tunnel.stl").write_bytes(demo.meshes[0].data)
    opened = store.read(folder)
    assert "newer" in opened.read_only and opened.job.items == demo.items


def test_a_save_that_fails_leaves_the_old_one(demo: Job, demo_path: Path) -> None:
    before = demo_path.read_bytes()
    with pytest.raises(JobError, match="could not be saved"):
        store.write(Path("/proc/nowhere/a.cradle"), demo)
    assert demo_path.read_bytes() == before


def test_second_window_is_read_only_and_the_lock_is_let_go(demo_path: Path) -> None:
    first, second = OpenJob(demo_path), OpenJob(demo_path)
    assert first.read_only == "" and "another window" in second.read_only
    with pytest.raises(JobError, match="cannot be saved"):
        second.save()
    first.close()
    third = OpenJob(demo_path)
    assert third.read_only == ""
    third.close()
    second.close()


def test_journal_brings_back_what_was_not_saved(demo_path: Path) -> None:
    place = OpenJob(demo_path)
    place.edit("Moved", with_value(place.job, "position/x", -260.0))
    place.edit("Bush", with_value(place.job, "mounts/left/bush/hardness_shore_a", 50.0))
    place.edit("Mesh", with_mesh(place.job, "box.stl", b"solid box"))
    place.undo()
    place.redo()
    place.flush()
    wanted = place.job
    found = recover.recover(demo_path, store.read(demo_path).job, {}, (store.read(demo_path).digest,))
    assert found.job == wanted and [r["what"] for r in found.rows] == [
        "Moved",
        "Bush",
        "Mesh",
        "Undone: Mesh",
        "Done again: Mesh",
    ]
    place.save()
    assert store.read(demo_path).job == wanted and not journal.journal_path(demo_path).exists()
    assert [r["what"] for r in store.read(demo_path).log][:2] == ["Moved", "Bush"]
    place.close()


class TestEdits:
    def test_paths_by_id_and_index(self, demo: Job) -> None:
        assert (
            value_at(demo, "items/radiator/name") == "Radiator"
            and value_at(demo, "powertrain/gearbox/ratios/0") == 4.08
        )
        assert (
            value_at(with_value(demo, "powertrain/gearbox/ratios/0", 3.9), "powertrain/gearbox/ratios/0")
            == 3.9
        )
        assert len(removed(demo, "items/radiator").items) == len(demo.items) - 1
        for bad in ("items/nothing/name", "position/q", "nowhere", "items/radiator/shapes/7"):
            with pytest.raises(JobError):
                value_at(demo, bad)

    def test_undo_walks_all_back_and_held_keys_are_one_step(self, demo: Job) -> None:
        history = History(demo)
        jobs = [demo]
        for i in range(5):
            jobs.append(with_value(jobs[-1], "position/x", -300.0 - i))
            history.push(f"step {i}", jobs[-1], "nudge" if i < 3 else "", when=float(i) / 10)
        assert len(history.done) == 3
        while history.undo():
            pass
        assert history.job is demo
        while history.redo():
            pass
        assert history.job is jobs[-1]
        history.undo()
        history.push("other", demo)
        assert history.redo() is None
