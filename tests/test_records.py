"""What is kept of a survey: CSV in and out, the printed sheet, photographs that survive a killed program,
the practice gauge."""

from __future__ import annotations

import io
from pathlib import Path
from typing import Any

import pytest
from nimble_cradle.cli.main import main
from nimble_cradle.demo import demo_folder
from nimble_cradle.desk.kit.gauge import SimulatedGauge
from nimble_cradle.desk.stages.survey.points import PointsRoom
from nimble_cradle.desk.stages.survey.records import RecordsRoom
from nimble_cradle.desk.stages.survey.sheet import SurveySheet
from nimble_cradle.desk.window import Desk
from nimble_cradle.job import recover, store
from nimble_cradle.job.base import JobError
from nimble_cradle.job.edits import with_value
from nimble_cradle.job.job import Job
from nimble_cradle.job.open_job import OpenJob
from nimble_cradle.shop.survey_sheet import survey_sheet
from nimble_cradle.survey.csv_readings import to_csv, with_csv
from nimble_cradle.survey.network import network
from pypdf import PdfReader

from pressing import CTRL, Key, click, press

PNG = bytes.fromhex(
    "89504e470d0a1a0a0000000d4948445200000001000000010802000000907753de0000000c49444154789c63f8cfc0000003010100c9fe92ef0000000049454e44ae426082"
)


class TestCsv:
    def test_out_and_in_again(self, hatchback: Job) -> None:
        """Every reading comes back as it was, but for its id."""
        text = to_csv(hatchback)
        empty = with_value(hatchback, "survey/readings", ())
        again, count = with_csv(empty, text)
        assert count == len(hatchback.survey.readings)
        for a, b in zip(hatchback.survey.readings, again.survey.readings, strict=True):
            assert a.model_dump(exclude={"id", "value_mm", "used"}) == b.model_dump(
                exclude={"id", "value_mm", "used"}
            )
            assert a.value_mm == pytest.approx(b.value_mm, abs=1e-3)

    def test_in_a_persons_words(self, demo: Job) -> None:
        text = 'Kind,Point,Other,Value,Plus_Minus,Note\ndistance,7,Steering box,"1 1/4"" "\n'
        with pytest.raises(JobError, match="line 2: “Steering box” is no point of the survey; there are 10"):
            with_csv(demo, text, "tape.csv")
        after, count = with_csv(
            demo,
            "kind,point,other,value,method\ndistance,p7,Wiper motor\\, lower corner,28 1/2 in,rule\n".replace(
                "\\,", ""
            ).replace("Wiper motor lower corner", '"Wiper motor, lower corner"'),
        )
        assert (
            count == 1
            and after.survey.readings[-1].value_mm == pytest.approx(28.5 * 25.4)
            and after.survey.readings[-1].other == "p10"
        )

    @pytest.mark.parametrize(
        ("text", "words"),
        [
            ("", "has no heading line"),
            ("when\n1", "has no heading line"),
            ("kind,point,value,colour\n", "column “colour” is not known"),
            ("kind,point,value\nweight,1,20\n", "line 2: “weight” is no kind of reading"),
            ("kind,point,value\nup,1,20\nup,99,20\n", "line 3: “99” is no point"),
            (
                "kind,point,other,value\ndistance,1,2,-20\n",
                "line 2: a distance must be more than nought, not -20 mm",
            ),
            ("kind,point,value\nup,1,twenty\n", "line 2: Could not read"),
            ("kind,point,value,method\nup,1,20,eye\n", "line 2: “eye” is no method"),
        ],
    )
    def test_one_bad_line_and_nothing_is_taken(self, demo: Job, text: str, words: str) -> None:
        with pytest.raises(JobError, match=words) as refused:
            with_csv(demo, text, "tape.csv")
        assert "\n" not in str(refused.value)

    def test_the_command_line(self, tmp_path: Path, capsys: Any) -> None:
        folder = str(demo_folder("light-truck"))
        assert main(["readings", folder]) == 0
        lines = capsys.readouterr().out.splitlines()
        assert lines[0].startswith("kind,point") and len(lines) == 49
        (tmp_path / "more.csv").write_text("kind,point,other,value\ndistance,1,6,1095\n")
        assert (
            main(["readings", folder, "--add", str(tmp_path / "more.csv"), "-o", str(tmp_path / "n.cradle")])
            == 0
        )
        assert len(store.read(tmp_path / "n.cradle").job.survey.readings) == 49
        assert (
            main(["readings", folder, "--add", str(tmp_path / "more.csv"), "-o", str(tmp_path / "n.cradle")])
            == 2
        )
        assert main(["survey", folder, "-o", str(tmp_path / "s.pdf"), "--blank", "--paper", "Letter"]) == 0
        assert main(["survey", folder, "-o", str(tmp_path / "none" / "s.pdf")]) == 1
        assert PdfReader(tmp_path / "s.pdf").pages[0].mediabox[2] == 612


class TestSheet:
    def test_blank_and_filled(self, hatchback: Job) -> None:
        for blank in (True, False):
            reader = PdfReader(io.BytesIO(survey_sheet(hatchback, blank)))
            text = "\n".join(page.extract_text() for page in reader.pages)
            assert "does not approve" in text and "Stands on rated points" in text and "Bonnet" in text
            assert ("taken with" in text) == blank
            if not blank:
                assert "out of line" in text and "Right front" in text and "lift" in text
                at = network(hatchback).point("tower-l").at
                assert f"{at[2]:.1f} mm up" in text


class TestPhotographs:
    def test_kept_shown_and_back_after_a_kill(self, demo_path: Path, tmp_path: Path) -> None:
        place = OpenJob(demo_path)
        key = place.add_photo("IMG 01 (rail).PNG", PNG)
        assert key == "IMG-01-rail.png" and place.add_photo("again.png", PNG) == key, (
            "the same picture is kept once"
        )
        place.edit("photo", with_value(place.job, "survey/points/p1/photo", key))
        place.flush()

        opened = store.read(demo_path)
        assert opened.photos == ()
        found = recover.recover(demo_path, opened.job, {}, (opened.digest,))
        assert found.photos == {key: PNG} and found.job.survey.points[0].photo == key and len(found.rows) == 2
        place.save()
        assert dict(store.read(demo_path).photos) == {key: PNG} and place.photo(key) == PNG
        for name, data, words in (
            ("a.txt", b"hello", "JPEG and PNG"),
            ("b.png", PNG[:8] + b"\0" * 41_000_000, "too large"),
        ):
            with pytest.raises(JobError, match=words):
                place.add_photo(name, data)
        with pytest.raises(JobError, match="no photograph"):
            place.photo("other.png")
        place.close()


class TestGauge:
    def test_it_reads_near_the_truth_and_the_same_again(self) -> None:
        first, second = SimulatedGauge(0.2, 0.1, seed=4), SimulatedGauge(0.2, 0.1, seed=4)
        values = [first.reads(123.4) for _ in range(40)]
        assert values == [second.reads(123.4) for _ in range(40)] and len(set(values)) > 3
        assert all(abs(float(v) - 123.4) < 1 for v in values)


class TestRoom:
    @pytest.fixture
    def sheet(self, desk: Desk) -> SurveySheet:
        press(desk, Key.Key_F2)
        found = desk.sheets["survey"]
        assert isinstance(found, SurveySheet)
        return found

    def test_a_gauge_reads_into_the_field_that_waits(self, desk: Desk, sheet: SurveySheet) -> None:
        sheet.rooms.go("points")
        room = sheet.rooms.present
        assert isinstance(room, PointsRoom)
        room.point.setCurrentIndex(8)
        before = len(desk.session.job.survey.readings)
        for _ in range(3):
            click(desk, "Let a simulated gauge read")
        new = desk.session.job.survey.readings[before:]
        assert [r.kind for r in new] == ["forward", "left", "up"]
        at = network(desk.session.job).point("p9").at
        assert [r.value_mm for r in new] == pytest.approx(list(at), abs=3)

    def test_datums_sheets_csv_and_photographs(self, desk: Desk, sheet: SurveySheet, tmp_path: Path) -> None:
        sheet.rooms.go("records")
        room = sheet.rooms.present
        assert isinstance(room, RecordsRoom)
        click(desk, "Add it")
        assert "Say what the datum is" in room.refusal.text()
        room.datum_name.setText("Bench edge")
        click(desk, "Add it")
        assert "is not tied in" in room.ties.item(0, 1).text() and "Bench edge" in sheet.asked.text()  # type: ignore[union-attr]
        room.ties.selectRow(0)
        click(desk, "Strike out")
        room.fit_lines["tops"].setText("1, 2, 3, 44")
        room.fit_lines["pairs"].setText("1-2, 3-4")
        room.fit_lines["front"].setText("1, 2")
        click(desk, "Fit the datum to these")
        assert "“44” is no point" in room.refusal.text()
        room.fit_lines["tops"].setText("1, 2, 3, 4")
        click(desk, "Fit the datum to these")
        assert "Fitted" in room.fit_words.text() and abs(network(desk.session.job).point("p1").at[2]) < 0.6
        click(desk, "As it was taped")
        room.write_sheet(tmp_path / "s.pdf", blank=False)
        assert (tmp_path / "s.pdf").stat().st_size > 3000 and "Written to" in room.answer.text()
        (tmp_path / "r.csv").write_text("kind,point,value\nup,7,-96\n")
        room.take_csv(tmp_path / "r.csv")
        assert (
            desk.session.job.survey.readings[-1].value_mm == -96 and "1 readings taken" in room.answer.text()
        )
        (tmp_path / "bad.csv").write_bytes(b"\xff\xfe\x00")
        room.take_csv(tmp_path / "bad.csv")
        assert room.refusal.text() == "bad.csv is not text."
        (tmp_path / "p.png").write_bytes(PNG)
        room.attach(tmp_path / "p.png")
        assert desk.session.job.survey.points[0].photo == "p.png" and room.picture.isVisible()
        press(desk, Key.Key_S, CTRL)
        assert dict(store.read(desk.session.place.path).photos) == {"p.png": PNG}
        click(desk, "Take off")
        assert not room.picture.isVisible()
