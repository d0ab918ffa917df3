"""Whole jobs through the command line, and the floors of the house."""

from __future__ import annotations

import json
import os
import shutil
import signal
import subprocess
import sys
import time
from functools import partial
from pathlib import Path

import pytest
from nimble_cradle.calc import Calculation, all_calculations
from nimble_cradle.cli.main import main
from nimble_cradle.demo import demo_folder, write_demo
from nimble_cradle.job import store
from nimble_cradle.job.edits import with_value
from nimble_cradle.job.job import Job

from job_fields import every_field_text
from processes import children, left_after

EXAMPLES: dict[str, tuple[str, ...]] = {
    "balance": ("front_kg=700", "rear_kg=600", "height=600", "kg=200", "x=-250", "z=500", "wheelbase=2500"),
    "strut-square": ("off_deg=4",),
    "inner-wheel-angle": ("outer_deg=28", "apart_mm=1280", "wheelbase_mm=2440"),
    "critical-speed": ("outside=76", "wall=2", "length=1350"),
    "single-joint": ("angle_deg=12",),
    "torsional-acceleration": ("angle_deg=0.8", "rpm=4200"),
    "beam-between-rails": ("load=3000", "span=800", "at=400", "i=194671", "w=7787"),
    "bolt-capacity": ("size=M10", "tension=9000", "shear=3000"),
    "bolt-group-shear": ("holes=75,60; 75,-60; -75,-60; -75,60", "force_v=-16000", "at_u=425"),
    "bolt-group-tension": ("holes=-40,-25; 40,-25; 40,25; -40,25", "moment_u=200000", "edge=18"),
    "mitre": ("side_deg=20", "height=50"),
    "registration": ("picked=0,0,0; 100,0,0; 0,100,0", "known=10,0,0; 10,100,0; -90,0,0"),
    "weld-group": ("lines=0,0,50,0; 0,40,50,40", "throat=3", "force_v=5000"),
    "bolt-preload": ("torque_nm=48", "diameter=10"),
    "bolt-tightening": ("torque_nm=48", "diameter=10", "proof=33600"),
    "bolt-play": ("bore=12.2", "diameter=12"),
    "bush-axial": ("movement=4", "sleeve=22", "eye_bore=84", "most=0.3"),
    "bush-pressure-use": ("load=4000", "sleeve=22", "length=54", "most=3.5"),
    "thread-in-block": ("size=M10", "into=cast aluminium", "deep=20"),
    "weld-fatigue": ("ranges=80; 45; 30", "counts=20000; 100000; 1000000", "category=36"),
    "kink-turn": ("turn=20",),
    "member-use": (
        "bending_up=2e6",
        "torsion=1e6",
        "area=1224",
        "w_up=46750",
        "w_aside=28409",
        "torsion_constant=2.07e6",
        "w_warp=377000",
        "wall=3",
        "yield_mpa=235",
    ),
    "head-bearing": ("clamp=22500", "size=M10", "hole=11"),
    "plate-root-give": ("circle=60", "hub=25", "thick=8"),
    "rail-wall-give": ("face=70", "across=40", "along=60", "wall=2"),
    "flat-pair": ("thick=6", "tall=60", "apart=30", "free=110", "length=220", "yield_mpa=235"),
    "box-arm": ("tall=58", "wide=44", "wall=4", "yield_mpa=235", "bending_tall=500000"),
    "eye-plates": ("eye_outside=80", "wall=4", "length=60", "tall=40", "wide=6", "yield_mpa=235"),
    "captured-road": ("drop=30", "over=200"),
    "spacer": ("high=6", "diameter=10"),
    "cast-fit": ("body=57", "hole=16", "eye_bore=56", "sleeve=17", "half_long=25", "length=54"),
    "cast-pour": ("body=57", "hole=16", "half_long=25", "flange=6", "flange_outside=70"),
    "squeeze-test": ("outside=30", "high=30", "force=500", "squeezed=2"),
    "cradle-held": ("force=4000", "size=M12"),
    "cradle-stress": ("stress=120", "yield_mpa=235"),
    "cradle-move": ("moved=0.5", "most=1.5"),
    "scallop": ("outside=45", "wall=3", "deep=8", "cover=3", "bending=400000"),
    "gusset": ("out=25", "thick=4"),
    "gusseted-foot": ("outside=45", "wall=3", "gussets=2", "out=25", "thick=4", "bending_in=400000"),
    "captured": ("way=24", "most=40"),
    "cut-member": ("there=0.3", "cut=320", "length=1920"),
    "held-in-a-crash": ("own=0.8", "times=1.3"),
    "bend-allowance": ("radius=1.5", "thick=1.5", "turned=90"),
    "plug-pitch": (
        "twist=600000",
        "enclosed=6600",
        "shear=6000",
        "first_moment=4000",
        "second_moment=1620000",
        "diameter=8",
    ),
    "crush-sleeve": ("clamp=20000", "outside=18", "inside=10.5", "yield_mpa=235"),
    "crossmember-tips": (
        "moment=600000",
        "load_up=60",
        "length=800",
        "modulus=6000",
        "i_standing=5000",
        "torsion=18000",
        "yield_mpa=235",
    ),
    "crossmember-tone": ("stiffness=5000", "carried_kg=48", "own_kg=4", "least=20"),
    "crossmember-driveline": ("sag=0.8", "apart=850", "spare=1.2"),
    "rod-setting": ("size=5/8-18", "long=320", "body=240", "end=63", "threaded=40", "tapped=45"),
    "rod-buckles": ("size=5/8-18", "long=300", "outside=15.875", "wall=0", "yield_mpa=235"),
    "strut-rod": ("load=4000", "length=300", "outside=22", "wall=3", "yield_mpa=235"),
    "strut-bolt": ("load=4000", "size=M10"),
    "strut-lever": ("lever=180",),
    "strut-force": ("moved=4", "gap=2", "stiffness=400"),
    "thin-walled-section": ("kind=open C", "height=120", "width=55", "wall=3"),
    "rubber-creep": ("settled=2", "percent=3", "minutes=43200"),
    "rack-on-a-tie": ("force=5000", "length=800", "area=900", "inertia=2e5", "high=40", "least=10000"),
    "guard-beam": ("load=7500", "length=800", "patch=80", "modulus=5000", "yield_mpa=235"),
    "guard-plate": ("load=7500", "wide=150", "patch=80", "thick=4", "yield_mpa=235"),
    "tube-joint": (
        *("chord=box", "face=60", "depth=40", "wall=3", "branch=box", "along=40", "across=30"),
        *("branch_wall=3", "yield_mpa=235", "force=4000"),
    ),
    "tube-corner": ("in_plane_depth=50", "width=50", "wall=3", "yield_mpa=235", "in_plane=8e5"),
    "rail-wall": ("face=70", "depth=60", "across=30", "along=30", "wall=2", "yield_mpa=200", "force=2000"),
    "rail-side-wall": ("line=100", "wall=2", "yield_mpa=235"),
    "puck-use": ("squeeze=3", "thickness=20", "most=0.3"),
    "puck-stiffness": ("outside=60", "hole=16", "thickness=20", "irhd=60", "squeeze=4"),
    "locked-in-force": ("misfit=0.5", "stiffness=3000"),
    "greased-bush-stiffness": ("sleeve=20", "eye_bore=42", "length=50", "flange=6", "modulus=12"),
    "foot-overhang": ("line=200", "reach=15", "thick=8", "yield_mpa=235"),
    "foot-flat": ("gap=1",),
    "eye-over-foot": ("moved=3", "room=10"),
    "donor-rubber": ("height_free=60", "height_loaded=52", "loaded_kg=80"),
    "cheeks-on-foot": (
        "along=3000",
        "out=4000",
        "tip=90000",
        "height=60",
        "wide=90",
        "thick=5",
        "yield_mpa=235",
    ),
    "cheeks-give": ("height=60", "wide=90", "thick=5"),
    "cheek-weld": ("line=150", "over=300", "thick=5", "throat=3"),
    "cheek-end": ("load=9000", "thick=5", "hole=15", "edge=29", "yield_mpa=235"),
    "bracket-carried": ("at_rest=700", "carried_kg=90"),
    "bush-strain-use": ("movement=5", "sleeve=22", "eye_bore=84", "most=0.3"),
    "edge-distance": ("edge=17", "hole=11"),
    "hole-pitch": ("apart=60", "hole=11"),
    "hole-bearing": ("shear=4000", "diameter=10", "hole=11", "edge=17", "thickness=8"),
    "eye-on-plate": ("eye_outside=62", "wall=4", "length=52", "yield_mpa=235", "pull=6000", "spacing=31"),
    "eye-travel": ("movement=4", "room=12"),
    "eye-wall": ("eye_outside=92", "wall=4", "length=54", "arm=50", "yield_mpa=235", "axial=5000"),
    "joint-chain": ("angles_deg=2, 1, 3", "phases_deg=0, 90, 0", "rpm=4000"),
    "plate-line": ("moment=150000", "chord=90", "thickness=8", "yield_mpa=235"),
    "sleeve-end": ("clamp=30000", "outside=22", "bore=14.2"),
    "tube-use": ("outside=50", "wall=4", "bending=400000", "yield_mpa=235"),
    "bush-pressure": ("load=4000", "sleeve=22", "length=54"),
    "bush-sag": ("load_n=1200", "stiffness_n_mm=350"),
    "bush-stiffness": ("sleeve=22", "eye_bore=84", "length=54", "hardness=50"),
    "bush-strain": ("movement=5", "sleeve=22", "eye_bore=84"),
    "centre-of-gravity": ("masses_kg=100, 50", "x_mm=0, 300"),
    "cheek-bearing": ("load=5000", "diameter=14", "cheek=5", "yield_mpa=235"),
    "cross-bolt": ("load=6000", "size=M14", "cheek=5", "gap=1"),
    "crossmember-sag": ("sag=0.4", "most=1.5"),
    "crossmember-stress": ("stress=80", "yield_mpa=235", "factor=2.5"),
    "firing-frequency": ("idle_rpm=780", "cylinders=4"),
    "first-gear-torque": (
        "torque_nm=272",
        "ratio=4.08",
        "driven_kg=690",
        "total_kg=1700",
        "cog_height=690",
        "wheelbase=3080",
        "grip=0.9",
        "tyre_radius=362",
        "final_drive=4.3",
    ),
    "front-axle-share": ("front_kg=718", "rear_kg=676", "powertrain_kg=310", "x=-160", "wheelbase=3080"),
    "gap-margin": ("gap=17", "required=8", "running=6.6", "give_or_take=2.1"),
    "hollow-section": ("height=50", "wall=3"),
    "joint-angle": ("side_deg=3", "plan_deg=4"),
    "joint-slip": ("shear=2000", "bolts=4", "clamp=24000"),
    "line-weld": ("length=52", "spacing=31", "throat=4", "axial=3000"),
    "lowest-point": ("z=-178", "line_z=-182"),
    "plate-at-bolt": ("thickness=8", "lever=20", "edge=17", "yield_mpa=235"),
    "plate-size": ("holes=-38,-30; 38,-30; 38,30; -38,30", "hole_mm=11", "edge=17"),
    "propshaft-angles": (
        "out_x=0",
        "out_y=0",
        "out_z=0",
        "out_side_deg=4",
        "axle_x=-2000",
        "axle_y=0",
        "axle_z=-200",
        "axle_side_deg=4",
    ),
    "adapter-thickness": (
        "thickness=16",
        "shaft=190",
        "pilot_mouth=158",
        "pilot_deep=22",
        "pilot_want=14",
        "hub_at=-60",
        "hub=30",
        "spline_from=20",
        "spline_to=110",
    ),
    "clearance-hole": ("size=M10",),
    "half-shaft": (
        "seat_x=-30",
        "seat_y=110",
        "seat_z=-60",
        "hub_x=0",
        "hub_y=640",
        "hub_z=-90",
        "up=70",
        "down=80",
    ),
    "weigh-two-scales": ("front_kg=120", "rear_kg=80", "apart=900"),
    "weigh-tilted": ("mass_kg=200", "front_level_kg=120", "front_tilted_kg=138", "apart=900", "raised=300"),
    "swing-two-wires": ("mass_kg=200", "seconds=48", "apart=700", "wire=2400"),
    "swing-three-wires": ("mass_kg=200", "seconds=38", "radius=400", "wire=2400"),
    "hole-slack": ("hole=11", "bolt=10", "doubt=0.2"),
    "centre-from-walls": ("width=812.8", "from_left=406.4"),
    "reading-check": ("residual=3.1", "sigma=0.75", "redundancy=0.6"),
    "stand-height": ("forward=300", "left=-450", "across_deg=0.8", "along_deg=-0.4"),
    "rubber-modulus": ("hardness=50",),
    "thread-stress-area": ("size=M10",),
    "transmissibility": ("frequency=26", "natural=19.3"),
    "tube-cope": ("outside=50", "wall=4", "receiver=92"),
    "tube-stress": ("outside=50", "wall=4", "bending=1e6"),
    "tube-weld": ("outside=50", "throat=4", "bending=5e5", "axial=2000"),
}


def run(capsys: pytest.CaptureFixture[str], *arguments: str) -> tuple[int, str, str]:
    code = main(arguments)
    out = capsys.readouterr()
    return code, out.out, out.err


def test_every_calculation_runs_and_names_its_source(capsys: pytest.CaptureFixture[str]) -> None:
    everything = all_calculations()
    assert set(everything) == set(EXAMPLES)
    for name, inputs in EXAMPLES.items():
        code, out, err = run(capsys, "calc", name, *inputs, "--json")
        assert code == 0, err
        told = json.loads(out)
        assert told["source"] and told["formula"] and told["leaves_out"]
        assert all(isinstance(r["value"], (int, float)) and abs(r["value"]) < 1e9 for r in told["results"]), (
            told
        )
        assert all(q["meaning"] for q in told["inputs"])
        code, out, _ = run(capsys, "calc", name, *inputs)
        assert code == 0 and "Source:" in out and "→" in out


@pytest.mark.parametrize("calc", list(all_calculations().values()), ids=lambda c: c.name)
def test_every_refusal_is_one_line_and_exit_2(calc: Calculation, capsys: pytest.CaptureFixture[str]) -> None:
    good = EXAMPLES[calc.name]
    for bad in ([], [*good, "nonsense=1"], [*good[:-1], good[-1].split("=")[0] + "=letter"], ["what"]):
        code, out, err = run(capsys, "calc", calc.name, *bad)
        assert code == 2 and out == "" and err.startswith("nimble-cradle: ") and err.count("\n") == 1, (
            bad,
            err,
        )


def test_bad_use(capsys: pytest.CaptureFixture[str], tmp_path: Path) -> None:
    assert (
        run(capsys, "calc", "moon-phase")[0] == 2
        and run(capsys, "dance")[0] == 2
        and run(capsys, "demo", "--job", "boat")[0] == 2
    )
    assert (
        run(capsys, "calc", "bush-stiffness", "sleeve=30", "eye_bore=20", "length=50", "hardness=50")[
            2
        ].count("does not go into the eye")
        == 1
    )
    assert run(capsys, "calc", "bolt-preload", "torque_nm=-5", "diameter=10")[0] == 2
    assert run(capsys, "calc", "thread-stress-area", "size=M99")[0] == 2
    code, _, err = run(capsys, "report", str(tmp_path / "none.cradle"))
    assert code == 1 and err.count("\n") == 1
    (tmp_path / "text.cradle").write_text("dear diary")
    for command in (["report"], ["open"], ["pack", "-o", str(tmp_path / "p")]):
        code, _, err = run(capsys, command[0], str(tmp_path / "text.cradle"), *command[1:])
        assert code == 1 and "damaged or not a job" in err and "Traceback" not in err


def test_report_keeps_its_names(capsys: pytest.CaptureFixture[str]) -> None:
    """What scripts rely on, as docs/command-line.md lists it."""
    code, out, _ = run(capsys, "report", str(demo_folder("light-truck")), "--json", "--strict")
    data = json.loads(out)
    assert code == 1 and data["report"] == 2 and data["holds"] is False
    assert set(data) == {
        "report",
        "program",
        "job",
        "holds",
        "block_to_bush",
        "figures",
        "mount_verdicts",
        "rests_on",
        "not_said",
        "front_axle_share_plus_minus",
        "caution",
        "position",
        "tell_tales",
        "stages",
        "problems",
        "gaps",
        "lowest_point",
        "struts",
        "rest_shares",
        "driveline",
        "front_axle_share_percent",
        "powertrain",
        "mounts",
        "cases",
        "modes",
        "idle",
        "findings",
        "survey",
    }
    assert set(data["gaps"][0]) == {
        "piece",
        "item",
        "names",
        "stage",
        "at_least",
        "gap_mm",
        "required_mm",
        "give_or_take_mm",
        "travel_mm",
        "travel_at",
        "margin_at_rest_mm",
        "running_mm",
        "running_case",
        "margin_mm",
        "state",
        "on_piece",
        "on_item",
        "way_out",
    }
    assert set(data["findings"][0]) == {
        "part",
        "part_name",
        "code",
        "what",
        "load",
        "capacity",
        "kind",
        "use",
        "case",
        "factor",
        "state",
        "working",
    }
    assert set(data["mount_verdicts"][0]) == {
        "mount",
        "name",
        "block_to_bush",
        "bush_to_rail",
        "questions",
        "rail",
        "rail_questions",
        "chain",
    }
    assert data["block_to_bush"] is False
    assert [m["bush_to_rail"] for m in data["mount_verdicts"]] == ["holds", "holds", "holds"]
    assert len(data["mount_verdicts"][0]["chain"]) == 15
    assert data["rests_on"][0] == "height of the centre of gravity" and data["not_said"] == []
    assert (
        len(data["modes"]) == 6
        and len(data["mounts"]) == 3
        and len(data["cases"]) == 51
        and len(data["tell_tales"]) == 6
    )
    described = (Path(__file__).parent.parent / "docs" / "command-line.md").read_text()
    assert all(f"`{name}`" in described for name in data)
    code, out, _ = run(capsys, "report", str(demo_folder("light-truck")))
    assert code == 0 and "does not approve" in out and "Fan and its clutch – Radiator" in out


def test_pack_from_the_command_line(capsys: pytest.CaptureFixture[str], tmp_path: Path) -> None:
    code, out, _ = run(
        capsys,
        "pack",
        str(demo_folder("light-truck")),
        "-o",
        str(tmp_path / "p"),
        "--paper",
        "Letter",
        "--json",
    )
    assert code == 0 and all(Path(f).is_file() for f in json.loads(out)["files"])


def test_a_job_written_by_hand_from_the_documentation_opens(
    capsys: pytest.CaptureFixture[str], tmp_path: Path
) -> None:
    text = (Path(__file__).parent.parent / "docs" / "job-file.md").read_text()
    example = text.split("```json\n", 1)[1].split("```", 1)[0]
    (tmp_path / "hand").mkdir()
    (tmp_path / "hand" / "job.json").write_text(example)
    code, out, err = run(capsys, "report", str(tmp_path / "hand"), "--json")
    assert code == 0, err
    data = json.loads(out)
    assert data["gaps"] and data["driveline"] and len(data["mounts"]) == 3 and data["findings"]
    assert {p["stage"] for p in data["problems"]} >= {"bay", "powertrain", "mounts"}, (
        "what is not said is asked"
    )
    assert not any("meets no" in p["sentence"] for p in data["problems"]), "its parts meet"
    assert text.endswith(every_field_text()), "python -c 'from job_fields import …' writes it anew"


def test_all_faults_of_a_hand_written_job_are_told_at_once(
    capsys: pytest.CaptureFixture[str], tmp_path: Path, demo: Job
) -> None:
    data = json.loads(store.job_text(demo))
    data["mounts"][0]["bush"]["hardness_shore_a"] = 500
    data["mounts"][1]["pad"]["bolt"] = "M11"
    data["items"][2]["shapes"][0]["legth"] = 3
    del data["vehicle"]["wheelbase_mm"]
    data["powertrain"]["pieces"][0]["mass_kg"] = "heavy"
    shutil.copytree(demo_folder("light-truck"), tmp_path / "hand")
    (tmp_path / "hand" / "job.json").write_text(json.dumps(data))
    code, out, err = run(capsys, "report", str(tmp_path / "hand"))
    lines = err.strip().splitlines()
    assert code == 1 and out == "" and "5 faults" in lines[0] and len(lines) == 6, (
        "one sentence, one line a fault"
    )
    assert all(len(line) < 210 for line in lines)
    for place, name in (
        ("mounts/left/bush/hardness_shore_a", "Left engine mount"),
        ("mounts/right/pad/bolt", "Right engine mount"),
        ("items/front-crossmember/shapes/0/legth", "Front crossmember"),
        ("vehicle/wheelbase_mm", demo.vehicle.name),
        ("powertrain/pieces/block/mass_kg", demo.powertrain.pieces[0].name),
    ):
        assert f"[{place}]" in err and name in err, place


def test_values_typed_by_path_and_what_is_said_of_them(
    capsys: pytest.CaptureFixture[str], tmp_path: Path, demo: Job
) -> None:
    path, out = tmp_path / "a.cradle", tmp_path / "b.cradle"
    store.write(path, with_value(with_value(demo, "said", {}), "mounts/left/pad/holes_confirmed", False))
    code, told, _ = run(capsys, "said", str(path), "--json")
    rows = json.loads(told)
    assert code == 0 and len(rows) == 93 and {r["how"] for r in rows} == {"not said"}
    code, told, _ = run(
        capsys,
        "edit",
        str(path),
        "mounts/left/bush/hardness_shore_a=48",
        "mounts/left/pad/holes_confirmed=true",
        "mounts/left/bush/centre=[-40, 241, 1.5]",
        "-o",
        str(out),
    )
    job = store.read(out).job
    assert code == 0 and "30.0 → 48" in told and job.mounts[0].pad.holes_confirmed
    assert job.mounts[0].bush.centre == (-40, 241, 1.5)
    assert job.said == {
        "mounts/left/bush/centre": "measured",
        "mounts/left/bush/hardness_shore_a": "measured",
    }
    last = tmp_path / "c.cradle"
    assert run(capsys, "said", str(out), "--rest", "assumed", "-o", str(last))[0] == 0
    job = store.read(last).job
    assert len(job.said) == 93 and list(job.said.values()).count("measured") == 2
    for bad, words in (
        (("edit", str(path), "mounts/left", "-o", str(tmp_path / "d")), "not path=value"),
        (("edit", str(path), "mounts/left/bush/hardness_shore_a=48", "-o", str(out)), "never written over"),
        (("said", str(path), "--rest", "assumed"), "say with -o"),
    ):
        code, _, err = run(capsys, *bad)
        assert code == 2 and words in err
    code, _, err = run(capsys, "edit", str(path), "mounts/left/nothing=1", "-o", str(tmp_path / "d"))
    assert code == 1 and "There is no “nothing” there" in err


def test_the_core_never_meets_a_window() -> None:
    code = (
        "import sys; import nimble_cradle.cli.main, nimble_cradle.shop.pack, nimble_cradle.judge.verdict;"
        " from nimble_cradle.calc import all_calculations; all_calculations();"
        " bad = [m for m in sys.modules if m.split('.')[0] in ('PyQt6', 'vtk', 'vtkmodules')];"
        " print(bad); sys.exit(bool(bad))"
    )
    done = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, check=False)
    assert done.returncode == 0, done.stdout + done.stderr


def test_command_runs_without_a_screen_or_home(tmp_path: Path) -> None:
    done = subprocess.run(
        [sys.executable, "-m", "nimble_cradle", "demo", "--shot", str(tmp_path / "shot.png")],
        capture_output=True,
        text=True,
        check=False,
        timeout=120,
        env={"PATH": "/usr/bin:/bin", "HOME": str(tmp_path)},
    )
    assert done.returncode == 0, done.stderr
    assert (tmp_path / "shot.png").read_bytes()[:8] == b"\x89PNG\r\n\x1a\n" and (
        tmp_path / "shot.png"
    ).stat().st_size > 100_000


@pytest.mark.parametrize("after", (0.0, 1.0))
def test_stopped_with_ctrl_c_says_so_in_one_line_and_leaves_nobody_behind(
    tmp_path: Path, after: float
) -> None:
    """Stopped in the middle of the trades, its workers being begun, reading or at work, which a terminal
    tells too: no traceback, nothing written, no process left."""
    job = write_demo("light-truck", tmp_path / "truck.cradle")
    before = job.read_bytes()
    run = subprocess.Popen(
        [
            sys.executable,
            "-m",
            "nimble_cradle",
            "settle",
            str(job),
            "--trades",
            "-o",
            str(tmp_path / "out.cradle"),
        ],
        stdout=subprocess.PIPE,
        stderr=subprocess.PIPE,
        text=True,
        start_new_session=True,
        # a test begun by "&" in a shell ignores Ctrl C, and so would what it starts
        preexec_fn=partial(signal.signal, signal.SIGINT, signal.SIG_DFL),  # noqa: PLW1509
    )
    until = time.monotonic() + 60
    while len(children(run.pid)) < 2 and time.monotonic() < until:
        time.sleep(0.01)
    time.sleep(after)
    workers = children(run.pid)
    assert workers
    os.killpg(run.pid, signal.SIGINT)
    out, err = run.communicate(timeout=60)
    assert (run.returncode, out, err) == (130, "", "nimble-cradle: stopped\n")
    assert job.read_bytes() == before and not (tmp_path / "out.cradle").exists()
    assert not left_after(workers)
