"""``calc`` for the hand: units in what is typed, every bad figure refused in one line, near names suggested;
the calculations added with it against tables and by hand."""

from __future__ import annotations

import json
import random
from typing import Any

import numpy as np
import pytest
from nimble_cradle.calc import CalcError, Calculation, Q, all_calculations, read
from nimble_cradle.cli.main import main
from nimble_cradle.geometry.pose import rotation_xyz
from nimble_cradle.stock.clearance_holes import clearance_hole
from nimble_cradle.stock.threads import SIZES, thread

ALL = all_calculations()


def value(capsys: pytest.CaptureFixture[str], name: str, *pairs: str) -> dict[str, Any]:
    """Results of a calculation by name, through the command line."""
    assert main(["calc", name, *pairs, "--json"]) == 0, capsys.readouterr().err
    return {r["name"]: r["value"] for r in json.loads(capsys.readouterr().out)["results"]}


def refused(capsys: pytest.CaptureFixture[str], name: str, *pairs: str) -> str:
    """The one line that a calculation is refused with."""
    assert main(["calc", name, *pairs]) == 2
    out = capsys.readouterr()
    lines = out.err.strip().splitlines()
    assert len(lines) == 1 and out.out == ""
    return lines[0]


class TestUnits:
    @pytest.mark.parametrize(
        ("unit", "text", "number"),
        (
            ("mm", "10mm", 10.0),
            ("mm", "3/8in", 9.525),
            ("mm", '1 1/4"', 31.75),
            ("mm", "2' 3\"", 685.8),
            ("mm", "12", 12.0),
            ("mm", "1.2e1", 12.0),
            ("Nm", "35 lb-ft", 35 * 0.45359237 * 9.80665 * 0.3048),
            ("N", "2 kN", 2000.0),
            ("MPa", "36 ksi", 36e3 * 0.45359237 * 9.80665 / 25.4**2),
            ("kg", "100 lb", 45.359237),
            ("N mm", "3 Nm", 3000.0),
            ("mm2", "2 cm2", 200.0),
            ("s", "1.5 min", 90.0),
            ("", "3/4", 0.75),
        ),
    )
    def test_typed_with_its_unit(self, unit: str, text: str, number: float) -> None:
        """Factors by NIST SP 811 (2008), appendix B (from memory; definitions)."""
        assert read(Q("x", unit, "a figure"), text) == pytest.approx(number, rel=1e-12)

    def test_many_take_units_too(self) -> None:
        assert read(Q("holes", "mm", "places", many=True), "1in,0; 0,10mm") == "25.4,0; 0,10"

    def test_inch_out_where_asked(self, capsys: pytest.CaptureFixture[str]) -> None:
        assert main(["calc", "bolt-preload", "torque_nm=35lb-ft", "diameter=3/8in", "--inch", "--json"]) == 0
        (row,) = json.loads(capsys.readouterr().out)["results"]
        assert row["inch_unit"] == "lbf" and row["inch_value"] == pytest.approx(35 * 12 / (0.2 * 0.375))
        assert row["value"] == pytest.approx(row["inch_value"] * 0.45359237 * 9.80665) and row["unit"] == "N"
        assert main(["calc", "bolt-preload", "torque_nm=35lb-ft", "diameter=3/8in", "--inch"]) == 0
        assert "preload = 5600 lbf" in capsys.readouterr().out


class TestRefusals:
    @pytest.mark.parametrize(
        "bad", ("nan", "inf", "-inf", "1e999", "", "abc", "10 furlongs", "0x10", "1_0", "--5")
    )
    def test_what_is_no_number_is_named(self, capsys: pytest.CaptureFixture[str], bad: str) -> None:
        assert "diameter" in refused(capsys, "bolt-preload", "torque_nm=40", f"diameter={bad}")

    def test_everything_missing_is_told_at_once(self, capsys: pytest.CaptureFixture[str]) -> None:
        said = refused(capsys, "swing-two-wires")
        assert all(name in said for name in ("mass_kg", "seconds", "apart", "wire")) and "swings" not in said

    def test_near_names_are_suggested(self, capsys: pytest.CaptureFixture[str]) -> None:
        assert "Did you mean bolt-preload?" in refused(capsys, "bolt-prelod")
        assert "Did you mean torque_nm?" in refused(capsys, "bolt-preload", "torque=3")
        assert "Did you mean" not in refused(capsys, "zzzz")
        assert "twice" in refused(capsys, "bolt-preload", "diameter=3", "diameter=4")

    @pytest.mark.parametrize(
        ("name", "pairs", "words"),
        (
            ("firing-frequency", ("idle_rpm=800", "cylinders=4.5"), "whole number"),
            (
                "weigh-tilted",
                ("mass_kg=100", "front_level_kg=120", "front_tilted_kg=50", "apart=500", "raised=90"),
                "more than the whole",
            ),
            (
                "front-axle-share",
                ("front_kg=500", "rear_kg=500", "powertrain_kg=400", "x=-6000", "wheelbase=2500"),
                "cannot be",
            ),
            ("tube-stress", ("outside=40", "wall=30"), "cannot have"),
            ("mitre", ("height=50", "turn_deg=20", "side_deg=3"), "not both"),
            ("registration", ("picked=0,0,0; 1,0,0; 2,0,0", "known=0,0,0; 1,0,0; 2,0,0"), "on one line"),
            ("weld-group", ("lines=0,0,1", "throat=3"), "u,v"),
        ),
    )
    def test_what_cannot_be(
        self, capsys: pytest.CaptureFixture[str], name: str, pairs: tuple[str, ...], words: str
    ) -> None:
        assert words in refused(capsys, name, *pairs)

    def test_two_hundred_bad_inputs(self, capsys: pytest.CaptureFixture[str]) -> None:
        """Seeded: one to three inputs of any calculation are nonsense or extreme. It answers in numbers that
        are numbers, or is refused in one line."""
        rng = random.Random(8)
        nasty = (
            "nan",
            "inf",
            "-1",
            "0",
            "1e-300",
            "1e300",
            "-1e9",
            "90",
            "180",
            "½",
            "1,2;3",
            "x",
            ";",
            "1/0",
            "🔧",
        )
        answered = 0
        for _ in range(200):
            calc = rng.choice(list(ALL.values()))
            given = {q.name: likely(q) for q in calc.inputs}
            for q in rng.sample(calc.inputs, min(len(calc.inputs), rng.choice((1, 1, 2, 3)))):
                given[q.name] = rng.choice(nasty)
            code = main(["calc", calc.name, *(f"{k}={v}" for k, v in given.items()), "--json"])
            out = capsys.readouterr()
            assert code in (0, 2), (calc.name, given, out.err)
            if code == 0:
                answered += 1
                for row in json.loads(out.out)["results"]:
                    assert row["value"] is not None and row["value"] == row["value"], (calc.name, given)
            else:
                assert len(out.err.strip().splitlines()) == 1 and "Traceback" not in out.err
        assert answered > 10


def likely(q: Q) -> str:
    """A figure that an input would take."""
    if q.choices:
        return q.choices[0]
    if q.default is not None:
        return f"{q.default}"
    if q.many:
        known = {
            "lines": "0,0,50,0; 0,40,50,40",
            "picked": "0,0,0; 90,0,0; 0,80,5",
            "known": "1,2,3; 91,2,3; 1,82,8",
            "holes": "-40,-25; 40,-25; 35,30",
        }
        return known.get(q.name, "10, 20")
    middle = {"mm": 40.0, "deg": 5.0, "kg": 60.0, "N": 900.0, "Shore A": 50.0}.get(q.unit, 2.0)
    low = q.low if q.low is not None else q.above if q.above is not None else -1e9
    return f"{min(max(middle, low), q.high if q.high is not None else 1e9):g}"


def test_the_list_tells_units_ranges_choices_and_results(capsys: pytest.CaptureFixture[str]) -> None:
    assert main(["calc", "--list", "--json"]) == 0
    rows = {r["name"]: r for r in json.loads(capsys.readouterr().out)}
    assert set(rows) == set(ALL)
    idle = rows["firing-frequency"]
    assert next(i for i in idle["inputs"] if i["name"] == "cylinders")["whole"] is True
    assert {i["unit"] for i in idle["inputs"]} == {"rpm", ""} and idle["outputs"][0]["unit"] == "Hz"
    assert rows["bush-stiffness"]["inputs"][-1]["choices"] == ["finite", "short", "long"]
    assert main(["calc", "--list"]) == 0
    text = capsys.readouterr().out
    assert "[Shore A]" in text and "at least 20, at most 98" in text and "one of finite, short, long" in text
    assert all(name in text for name in ALL)


def test_a_program_asks_for_all_that_is_missing() -> None:
    calc: Calculation = ALL["bolt-preload"]
    with pytest.raises(CalcError, match=r"torque_nm .*; diameter"):
        calc.work()


class TestNewOnes:
    def test_threads(self) -> None:
        """Stress areas, mm2: ISO 898-1:2013, tables 4 and 6; ASME B1.1-2003, table 4A in square inches (all
        from memory)."""
        for size, area in (
            ("M8x1", 39.2),
            ("M10x1.25", 61.2),
            ("M12x1.25", 92.1),
            ("M12x1.5", 88.1),
            ("M14x1.5", 125.0),
            ("M16x1.5", 167.0),
            ("M18", 192.0),
            ("M18x1.5", 216.0),
            ("M20", 245.0),
            ("M20x1.5", 272.0),
            ("9/16-18", 0.203 * 645.16),
            ("5/8-18", 0.256 * 645.16),
        ):
            assert thread(size).stress_area == pytest.approx(area, rel=0.004), size
        for size in SIZES:
            hole, bolt = clearance_hole(size)
            assert bolt == pytest.approx(thread(size).diameter) and 0.3 < hole - bolt < 2.6, size

    def test_bolt_tension_by_hand(self, capsys: pytest.CaptureFixture[str]) -> None:
        """Four bolts 80 by 50: M r / sum r^2 = 200 000 x 25 / (4 x 25^2) = 2 000 N on the upper two, and a
        quarter of the pull on each; the lower two are pressed, and on bosses that shows."""
        pairs = ("holes=-40,-25; 40,-25; 40,25; -40,25", "moment_u=200Nm", "normal=1kN", "edge=18")
        got = value(capsys, "bolt-group-tension", *pairs)
        assert got["most"] == pytest.approx(2250.0) and got["least"] == 0.0
        assert value(capsys, "bolt-group-tension", *pairs, "rests=bosses")["least"] == pytest.approx(-1750.0)

    def test_weld_group_against_little_pieces(self, capsys: pytest.CaptureFixture[str]) -> None:
        """A crooked group of three welds cut in 3 000 pieces: forces shared by stiffness with the centroid
        and second moments summed piece by piece."""
        lines = ((0, 0, 60, 10), (60, 10, 55, 70), (-5, 40, 10, 75))
        load = {"force_u": 900.0, "force_v": -1500.0, "force_n": 700.0}
        turn = {"moment_u": 30e3, "moment_v": -22e3, "moment_n": 41e3}
        got = value(
            capsys,
            "weld-group",
            "lines=" + "; ".join(",".join(map(str, line)) for line in lines),
            "throat=4",
            *(f"{k}={v}" for k, v in (load | turn).items()),
        )
        t = (np.arange(1000) + 0.5) / 1000
        at = np.vstack([np.outer(1 - t, line[:2]) + np.outer(t, line[2:]) for line in lines])
        dl = np.repeat([np.hypot(c - a, d - b) / 1000 for a, b, c, d in lines], 1000)
        r = at - (dl @ at) / dl.sum()
        polar = dl @ (r**2).sum(1)
        flat = np.array([load["force_u"], load["force_v"]]) / dl.sum() + turn[
            "moment_n"
        ] / polar * np.column_stack([-r[:, 1], r[:, 0]])
        # off the plane: f = a + b u + c v with no net force but F, and the moments M_u = sum f v, M_v = -sum
        # f u
        design = np.column_stack([np.ones(len(r)), r])
        a, b, c = np.linalg.solve(
            design.T @ (dl[:, None] * design), [load["force_n"], -turn["moment_v"], turn["moment_u"]]
        )
        worst = np.sqrt((flat**2).sum(1) + (a + b * r[:, 0] + c * r[:, 1]) ** 2).max()
        assert got["force"] == pytest.approx(worst, rel=0.004)
        assert got["capacity"] == pytest.approx(4 * 360 / (np.sqrt(3) * 0.8 * 1.25))

    def test_mitre_against_vectors(self, capsys: pytest.CaptureFixture[str]) -> None:
        """The second tube's axis from its two views; the cutting plane halves the angle."""
        got = value(capsys, "mitre", "side_deg=20", "plan_deg=35", "height=50")
        axis = np.array([1.0, np.tan(np.radians(35)), np.tan(np.radians(20))])
        turn = np.degrees(np.arccos(axis[0] / np.linalg.norm(axis)))
        assert got["turn"] == pytest.approx(turn) and got["saw"] == pytest.approx(turn / 2)
        right = value(capsys, "mitre", "turn_deg=90", "height=50")
        assert right["saw"] == 45.0 and right["longer"] == pytest.approx(50.0)

    def test_registration_finds_the_move(self, capsys: pytest.CaptureFixture[str]) -> None:
        rng = np.random.default_rng(4)
        a = rng.uniform(-300, 300, (5, 3))
        b = a @ rotation_xyz(12.0, -7.0, 30.0).T + (11.0, -22.0, 33.0)
        as_text = ["; ".join(",".join(f"{c:.9f}" for c in p) for p in pts) for pts in (a, b)]
        got = value(capsys, "registration", f"picked={as_text[0]}", f"known={as_text[1]}")
        found = [got[k] for k in ("x", "y", "z", "about_x", "about_y", "about_z")]
        assert found == pytest.approx([11, -22, 33, 12, -7, 30], abs=1e-6) and got["rms"] < 1e-6
