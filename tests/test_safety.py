"""Nothing lost: kills, torn lines, full disks, two hands, odd places, replaced files."""

from __future__ import annotations

import errno
import json
import os
import random
import signal
import socket
import sys
import threading
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import Any

import pytest
from nimble_cradle import trial
from nimble_cradle.cli.main import main
from nimble_cradle.desk.opening import opening_words
from nimble_cradle.desk.own_demo import demo_file
from nimble_cradle.desk.window import Desk
from nimble_cradle.files import beside, read_file
from nimble_cradle.job import journal, open_job, read_archive, store
from nimble_cradle.job.base import JobError
from nimble_cradle.job.edits import with_mesh, with_value
from nimble_cradle.job.job import Job
from nimble_cradle.job.lock import Lock
from nimble_cradle.job.open_job import OpenJob
from nimble_cradle.shop.pack import write_pack

from damage import change_bytes
from saving import Nursery, state

PNG = b"\x89PNG\r\n\x1a\n"


def to_y(place: OpenJob, y: float) -> None:
    """One edit, judged as the window does."""
    place.edit(f"y {y:g}", with_value(place.job, "position/y", y))
    place.judged()


def left(place: OpenJob) -> Path:
    """The file of a workplace whose program is gone: nothing saved, nothing tidied."""
    place.flush()
    assert place._lock is not None
    place._lock.release()
    return place.path


class TestKills:
    def test_what_was_told_as_done_is_there_after_25_kills(self, demo_path: Path) -> None:
        """Kill -9 at a random moment, 25 times in a row on one job, with edits, remarks, undone edits,
        photographs and saves between. A worker's last word was on the disk, so it is there; and nothing but
        the job and what belongs to it lies in the folder."""
        chance, nursery = random.Random(11), Nursery()
        at_least: dict[str, Any] = {}
        try:
            for turn in range(25):
                told = nursery.killed(demo_path, turn, chance.uniform(0, 0.05))
                for words in told:
                    assert all(words[k] >= v for k, v in at_least.items())
                    at_least = words
                place = OpenJob(demo_path)
                assert place.read_only == "" and place.job.meshes[0].data
                now = state(place)
                assert all(now[k] >= v for k, v in at_least.items()), (turn, now, at_least)
                assert all("cut off" in words for words in place.dropped), place.dropped
                at_least = now
                if chance.random() < 0.3:
                    place.save()
                place.close()
                here = {p.name for p in demo_path.parent.iterdir()}
                assert here <= {demo_path.name, f"{demo_path.name}.previous", f"{demo_path.name}.journal"}, (
                    here
                )
        finally:
            nursery.close()
        assert at_least["y"] > 25 and at_least["notes"] > 4 and at_least["photos"] > 4

    @pytest.mark.parametrize("kept", [0.0, 0.4, 0.999])
    def test_a_torn_line_costs_only_itself_and_work_goes_on_after_it(
        self, demo_path: Path, kept: float
    ) -> None:
        """Cut off in its middle, the last line is dropped and told; what is journalled after that start comes
        back at the next."""
        place = OpenJob(demo_path)
        to_y(place, 11.0)
        place.add_photo("a.png", PNG + os.urandom(50_000))
        where = journal.journal_path(left(place))
        lines = where.read_bytes().splitlines(keepends=True)
        where.write_bytes(b"".join(lines[:-1]) + lines[-1][: max(1, int(kept * len(lines[-1])))])
        place = OpenJob(demo_path)
        assert place.job.position.y == 11.0 and place.photos == () and "cut off" in opening_words(place)
        to_y(place, 12.0)
        place.note("after")
        place = OpenJob(left(place))
        assert place.job.position.y == 12.0 and place.dropped == ()
        assert [r["what"] for r in place.log][-3:] == ["y 11", "y 12", "Note: after"]
        place.close()

    @pytest.mark.parametrize("begun", [b"", b'{"base":"12'])
    def test_a_journal_that_was_only_just_begun_is_no_journal(self, demo_path: Path, begun: bytes) -> None:
        journal.journal_path(demo_path).write_bytes(begun)
        place = OpenJob(demo_path)
        assert place.read_only == "" and len(place.dropped) == (1 if begun else 0)
        place.close()
        assert [p.name for p in demo_path.parent.iterdir()] == [demo_path.name]

    def test_a_line_that_does_not_apply_is_set_aside_and_not_the_rest(self, demo_path: Path) -> None:
        opened = store.read(demo_path)
        where = journal.journal_path(demo_path)
        bad = [
            b'{"time":"t","what":"no sense","set":{"position":{"x":"far"}}}',
            b"\xff\xfe not a row",
            b'{"time":"t","what":"photo","set":{"photo bytes":{"../../a.png":"iVBORw0KGgo="}}}',
            b'{"what":"mesh","set":{"meshes":[{"name":"gone.stl","sha256":"' + b"0" * 64 + b'"}]}}',
            b'{"what":"digits","set":{"position":' + b"9" * 5000 + b"}}",
            b'{"what":"deep","set":' + b"[" * 5000 + b"]" * 5000 + b"}",
            b'{"what":"a stranger part","set":{"weather":"fine"}}',
            b'{"set":5}',
        ]
        good = [
            json.dumps({"time": "t", "what": f"w{k}", "set": {"name": f"N{k}"}}).encode() for k in range(9)
        ]
        rows = [json.dumps({"base": opened.digest}).encode()]
        for k, line in enumerate(good):
            rows += [line, *bad[k : k + 1]]
        where.write_bytes(b"\n".join(rows) + b"\n")
        place = OpenJob(demo_path)
        assert place.job.name == "N8" and len(place.log) == len(opened.log) + 9 and len(place.dropped) == 8
        assert "no sense" in opening_words(place) and "5 more" in opening_words(place)
        assert journal.aside_path(demo_path).read_bytes().splitlines() == bad
        place.close()
        place = OpenJob(demo_path)
        assert place.job.name == "N8" and place.dropped == (), "told once"
        place.close()

    def test_damaged_journals(self, demo_path: Path) -> None:
        """Bytes changed, taken out and doubled in a journal of every kind of row: the job opens with what is
        whole of it, can be worked on and saved, and every line that was not taken up is kept aside."""
        place, chance = OpenJob(demo_path), random.Random(4)
        base = place.job
        to_y(place, 1.0)
        place.note("remark")
        place.add_photo("a.png", PNG + bytes(300))
        place.edit("mesh", with_mesh(place.job, "box.stl", b"solid box"))
        place.undo()
        place.edit("name", with_value(place.job, "name", "Other"))
        where = journal.journal_path(left(place))
        whole, saved, seen = where.read_bytes(), demo_path.read_bytes(), set()
        for n in range(40):
            for old in demo_path.parent.glob(f"{demo_path.name}.journal*"):
                old.unlink()
            demo_path.write_bytes(saved)
            bad = change_bytes(whole, chance)
            where.write_bytes(bad)
            place = OpenJob(demo_path)
            assert place.read_only == "" and place.job.items == base.items, n
            seen.add((place.recovered, len(place.dropped)))
            to_y(place, 50.0 + n)
            place.save()
            place.close()
            assert store.read(demo_path).job.position.y == 50.0 + n
        assert len(seen) > 5, seen

    def test_a_journal_of_another_save_is_set_aside_and_never_one_over_another(self, demo_path: Path) -> None:
        where = journal.journal_path(demo_path)
        for n in range(2):
            where.write_text(f'{{"base":"another"}}\n{{"what":"w","set":{{"name":"Other{n}"}}}}\n')
            place = OpenJob(demo_path)
            assert place.job.name != f"Other{n}" and place.recovered == 0
            place.close()
        kept = [beside(demo_path, f".journal-old{end}").read_text() for end in ("", "-2")]
        assert "Other0" in kept[0] and "Other1" in kept[1] and not where.exists()

    def test_a_kill_between_a_save_and_the_end_of_its_journal_doubles_nothing(
        self, demo_path: Path, monkeypatch: pytest.MonkeyPatch
    ) -> None:
        place = OpenJob(demo_path)
        place.note("once")
        with monkeypatch.context() as m:
            m.setattr(journal.Journal, "close", lambda self, remove=False: None)
            place.save()
        again = OpenJob(left(place))
        assert [r["what"] for r in again.log].count("Note: once") == 1 and not again.unsaved
        assert not beside(demo_path, ".journal-old").exists()
        again.close()

    def test_an_edit_that_the_program_does_not_live_through_is_left_out_and_named(
        self, demo_path: Path
    ) -> None:
        place = OpenJob(demo_path)
        to_y(place, 5.0)
        place.edit("The deadly one", with_value(place.job, "position/x", -777.0))
        place.edit("A good one", with_value(place.job, "name", "Good"))  # neither has its verdict
        asked: list[Job] = []

        def tried(job: Job) -> str:
            asked.append(job)
            return "ended the program" if job.position.x == -777.0 else ""

        place = OpenJob(left(place), tried)
        assert place.job.position.y == 5.0 and place.job.position.x != -777.0 and place.job.name == "Good"
        assert place.dropped == ("“The deadly one”, which ended the program",) and len(asked) == 3
        assert b"The deadly one" in journal.aside_path(demo_path).read_bytes()
        asked.clear()
        place = OpenJob(left(place), tried)
        assert asked == [] and place.job.name == "Good", "what has been tried is not tried again"
        place.close()

    def test_a_job_is_tried_in_a_process_that_may_end(self, demo: Job) -> None:
        assert trial.tried(demo) == ""
        killer = (sys.executable, "-c", f"import os; os.kill(os.getpid(), {int(signal.SIGSEGV)})")
        assert trial.tried(demo, killer) == "ended the program"
        assert "could not judge" in trial.tried(demo, (sys.executable, "-c", "raise SystemExit(70)"))


class TestUnsaved:
    @pytest.mark.parametrize("what", ["note", "photo", "undone"])
    def test_whatever_is_not_in_the_file_is_unsaved_and_comes_back(self, demo_path: Path, what: str) -> None:
        place = OpenJob(demo_path)
        assert not place.unsaved
        if what == "note":
            place.note("only this")
        elif what == "photo":
            place.add_photo("a.png", PNG)
        else:
            to_y(place, 3.0)
            place.undo()
        assert place.unsaved
        log, photos = list(place.log), place.photos
        place.close()
        place = OpenJob(demo_path)
        assert place.unsaved and place.log == log and place.photos == photos
        place.save()
        assert not place.unsaved
        place.close()
        opened = store.read(demo_path)
        assert list(opened.log) == log and opened.photos == photos

    def test_a_window_with_only_a_remark_asks_before_it_closes(
        self, desk: Desk, monkeypatch: pytest.MonkeyPatch
    ) -> None:
        from PyQt6.QtWidgets import QMessageBox

        asked: list[str] = []

        def answer(box: QMessageBox) -> int:
            asked.append(box.text())
            box.buttons()[-1].click()
            return 0

        monkeypatch.setattr(QMessageBox, "exec", answer)
        desk.session.place.note("why the left one is lower")
        desk.refresh()
        assert "not saved" in desk.windowTitle()
        desk.close()
        assert len(asked) == 1 and "not saved" in asked[0]

    def test_a_save_that_could_not_be_opened_again_does_not_take_the_name(
        self, demo: Job, demo_path: Path, monkeypatch: pytest.MonkeyPatch
    ) -> None:
        place = OpenJob(demo_path)
        before = demo_path.read_bytes()
        for name in ("a.J PG", "b.jpeg?x", "ü.png", "-.png", "." * 90 + ".png"):
            key = place.add_photo(name, PNG + name.encode())
            assert store.PHOTO_NAME.fullmatch(key) and key.endswith(".png")
        with pytest.raises(JobError, match="Two meshes have one name"):
            with_value(demo, "meshes", (demo.meshes[0], demo.meshes[0]))
        place.edit("mesh", with_mesh(place.job, "large.stl", os.urandom(400_000)))
        monkeypatch.setattr(read_archive, "MOST_FILE", 300_000)
        with pytest.raises(JobError, match=r"could not be opened again.*too large.*still stands"):
            place.save()
        assert demo_path.read_bytes() == before and place.unsaved
        monkeypatch.undo()
        place.save()
        assert len(store.read(demo_path).photos) == 5
        place.close()

    def test_too_many_photographs_are_refused_when_they_come(
        self, demo_path: Path, monkeypatch: pytest.MonkeyPatch
    ) -> None:

        monkeypatch.setattr(open_job, "MOST_PHOTO_BYTES", 100)
        place = OpenJob(demo_path)
        place.add_photo("a.png", PNG + bytes(60))
        with pytest.raises(JobError, match="one too many"):
            place.add_photo("b.png", PNG + bytes(61))
        place.close()

    def test_half_letters_stop_neither_journal_nor_save(self, demo_path: Path) -> None:
        place = OpenJob(demo_path)
        place.edit("Brought in \udcff.stl", with_value(place.job, "name", "Half \ud800 a letter\x07"))
        place.note("\udc80")
        to_y(place, 8.0)
        place = OpenJob(left(place))
        assert place.job.position.y == 8.0 and place.job.name == "Half \ufffd a letter "
        assert [r["what"] for r in place.log][-3] == "Brought in \udcff.stl"
        place.save()
        place.close()
        assert store.read(demo_path).log[-2]["what"] == "Note: \udc80"


class Disk:
    """A disk with so much room: writes beyond it are cut short, then refused."""

    def __init__(self, room: int) -> None:
        self.room = room
        self._write: Callable[..., int] = os.write

    def write(self, handle: int, data: Any) -> int:
        """os.write as far as there is room."""
        if self.room <= 0:
            raise OSError(errno.ENOSPC, "No space left on device")
        done = self._write(handle, data[: self.room])
        self.room -= done
        return done


class TestFullDisk:
    def test_the_journal_goes_on_when_room_returns(
        self, demo_path: Path, monkeypatch: pytest.MonkeyPatch
    ) -> None:
        monkeypatch.setattr(journal, "AGAIN", 0.02)
        place = OpenJob(demo_path)
        to_y(place, 1.0)
        place.flush()
        disk = Disk(40)
        monkeypatch.setattr("nimble_cradle.job.journal.os.write", disk.write)
        to_y(place, 2.0)
        place.note("meanwhile")
        place.flush()
        assert "the drive is full" in place.trouble
        whole = journal.journal_path(demo_path).read_bytes()
        assert whole.endswith(b"\n") and b"meanwhile" not in whole, "no half line is left"
        disk.room = 10**9
        until = threading.Event()
        for _ in range(200):
            if not place.trouble:
                break
            until.wait(0.05)
        assert place.trouble == ""
        to_y(place, 3.0)
        place = OpenJob(left(place))
        assert place.job.position.y == 3.0 and place.dropped == ()
        assert [r["what"] for r in place.log][-4:] == ["y 1", "y 2", "Note: meanwhile", "y 3"]
        place.close()

    def test_its_trouble_is_in_sight_at_once_and_goes_with_its_cause(
        self, desk: Desk, qtbot: Any, monkeypatch: pytest.MonkeyPatch
    ) -> None:
        monkeypatch.setattr(journal, "AGAIN", 0.02)
        disk = Disk(0)
        monkeypatch.setattr("nimble_cradle.job.journal.os.write", disk.write)
        desk.session.place.note("x")  # nothing that judges or draws anew
        qtbot.waitUntil(lambda: desk.trouble.isVisible(), timeout=5000)
        assert "Not safe yet" in desk.trouble.text() and "drive is full" in desk.trouble.text()
        disk.room = 10**9
        qtbot.waitUntil(lambda: not desk.trouble.isVisible(), timeout=5000)

    def test_a_save_that_finds_no_room_leaves_the_last_one(
        self, demo_path: Path, monkeypatch: pytest.MonkeyPatch
    ) -> None:
        def full(handle: int) -> None:
            raise OSError(errno.ENOSPC, "No space left on device")

        place = OpenJob(demo_path)
        to_y(place, 4.0)
        place.flush()
        before = demo_path.read_bytes()
        with monkeypatch.context() as m:
            m.setattr("nimble_cradle.job.store.os.fsync", full)
            with pytest.raises(JobError, match=r"the drive is full\. The last save still stands"):
                place.save()
        assert demo_path.read_bytes() == before and place.unsaved
        place = OpenJob(left(place))
        assert place.job.position.y == 4.0
        place.close()
        assert len(list(demo_path.parent.iterdir())) == 2

    def test_a_job_opened_where_nothing_can_be_written_is_read_only(
        self, demo_path: Path, monkeypatch: pytest.MonkeyPatch
    ) -> None:

        monkeypatch.setattr("nimble_cradle.job.lock.os.write", Disk(0).write)
        place = OpenJob(demo_path)
        assert place.read_only == "no lock can be kept beside it: the drive is full" and place.job.items
        place.close()


class TestTwoHands:
    def test_one_writer_by_whatever_name(self, demo_path: Path, tmp_path: Path) -> None:
        """A link, a hard link and the file itself are one job."""
        (tmp_path / "sub").mkdir()
        soft, hard = tmp_path / "sub" / "soft.cradle", tmp_path / "hard.cradle"
        soft.symlink_to(demo_path)
        os.link(demo_path, hard)
        first = OpenJob(soft)
        assert first.read_only == "" and first.path == demo_path
        for other in (demo_path, soft, hard):
            second = OpenJob(other)
            assert "open in another window" in second.read_only, other
            second.close()
        to_y(first, 9.0)
        first.save()
        assert soft.is_symlink() and os.path.samefile(hard, demo_path), "saved through"
        assert store.read(hard).job.position.y == 9.0
        assert "another window" in OpenJob(hard).read_only, "still after a save"
        first.close()
        third = OpenJob(hard)
        assert third.read_only == ""
        third.close()

    def test_many_at_once_and_only_one_gets_it(self, demo_path: Path) -> None:
        """Sixteen hands take and leave the lock 30 times each: never two at once."""
        holders, most, gate = [0], [0], threading.Lock()

        def hand() -> None:
            for _ in range(30):
                lock = Lock(demo_path)
                if lock.held:
                    with gate:
                        holders[0] += 1
                        most[0] = max(most[0], holders[0])
                    with gate:
                        holders[0] -= 1
                lock.release()

        hands = [threading.Thread(target=hand) for _ in range(16)]
        for t in hands:
            t.start()
        for t in hands:
            t.join()
        assert most[0] == 1 and not beside(demo_path, ".lock").exists()

    def test_a_lock_that_is_no_longer_ours_is_left(self, demo_path: Path) -> None:
        first = Lock(demo_path)
        first.path.unlink()
        first.path.write_text("another's")
        first.release()
        assert first.path.read_text() == "another's"

    @pytest.mark.parametrize("ending", [".lock", ".journal", ".previous", ".journal-aside", ".schema-3"])
    def test_a_planted_link_is_never_followed(self, demo_path: Path, tmp_path: Path, ending: str) -> None:
        victim = tmp_path / "diary.txt"
        victim.write_text("mine")
        beside(demo_path, ending).symlink_to(victim)
        place = OpenJob(demo_path)
        if not place.read_only:
            to_y(place, 6.0)
            place.flush()
            place.save()
        place.close()
        assert victim.read_text() == "mine" and not victim.with_name("diary.txt.previous").exists()
        assert ending not in (".lock", ".journal") or "link" in place.read_only

    @pytest.mark.parametrize("how", ["replaced", "removed", "written into"])
    def test_a_file_changed_under_the_window_is_noticed_before_a_save(
        self, demo_path: Path, how: str
    ) -> None:
        place = OpenJob(demo_path)
        to_y(place, 7.0)
        other = b"someone else's"
        if how == "replaced":
            fresh = demo_path.with_name("new")
            fresh.write_bytes(other)
            os.replace(fresh, demo_path)
        elif how == "removed":
            demo_path.unlink()
        else:
            demo_path.write_bytes(other)
        with pytest.raises(
            JobError, match="no longer there" if how == "removed" else "changed by something else"
        ):
            place.save()
        assert how == "removed" or demo_path.read_bytes() == other
        place.save_as(demo_path)  # the user says so
        assert store.read(demo_path).job.position.y == 7.0
        assert how == "removed" or beside(demo_path, ".previous").read_bytes() == other
        place.close()

    def test_a_save_cut_off_while_written_into_a_hard_linked_file_is_put_right(self, demo_path: Path) -> None:
        os.link(demo_path, demo_path.with_name("other.cradle"))
        place = OpenJob(demo_path)
        to_y(place, 21.0)
        place.flush()
        beside(demo_path, ".previous").write_bytes(demo_path.read_bytes())
        with open(demo_path, "r+b") as stream:  # as a kill in the middle of it would leave it
            stream.write(os.urandom(2000))
            stream.truncate(3000)
        place = OpenJob(left(place))
        assert place.job.position.y == 21.0 and "had been cut off" in opening_words(place)
        place.save()
        place.close()
        assert store.read(demo_path.with_name("other.cradle")).job.position.y == 21.0


class TestNothingWrittenOver:
    def test_commands_write_only_under_free_names(
        self, demo_path: Path, tmp_path: Path, capsys: pytest.CaptureFixture[str]
    ) -> None:
        before = demo_path.read_bytes()
        dangling = tmp_path / "d.pdf"
        dangling.symlink_to(tmp_path / "elsewhere")
        for out in (demo_path, dangling):
            assert main(["survey", str(demo_path), "-o", str(out)]) == 1
            assert "is there already" in capsys.readouterr().err
        assert main(["edit", str(demo_path), "name=X", "-o", str(demo_path)]) == 2
        assert demo_path.read_bytes() == before and not (tmp_path / "elsewhere").exists()

    def test_a_pack_replaces_only_what_a_pack_wrote(self, demo: Job, tmp_path: Path) -> None:
        folder = tmp_path / "pack"
        files = write_pack(demo, folder)
        assert len(files) > 8 and all(f.exists() for f in files)
        renamed = with_value(demo, "mounts/left/id", "port")
        again = write_pack(renamed, folder)
        names = {p.name for p in folder.iterdir()}
        assert names == {f.name for f in again} and {f.name for f in files} - names, "no old template is left"
        (folder / "cut-list.csv").write_text("with my own notes")
        kept = {p.name: p.read_bytes() for p in folder.iterdir()}
        with pytest.raises(
            JobError, match=r"holds “cut-list\.csv”, which no pack wrote or which was changed"
        ):
            write_pack(demo, folder)
        assert {p.name: p.read_bytes() for p in folder.iterdir()} == kept
        other = tmp_path / "mine"
        other.mkdir()
        (other / "report.txt").write_text("thesis")
        with pytest.raises(JobError, match=r"report\.txt"):
            write_pack(demo, other)
        assert [p.name for p in other.iterdir()] == ["report.txt"]

    def test_a_demo_begun_again_keeps_what_was_there(
        self, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
    ) -> None:
        monkeypatch.setenv("XDG_DATA_HOME", str(tmp_path))
        path = demo_file("light-truck")
        for y in (31.0, 32.0):
            place = OpenJob(path)
            to_y(place, y)
            place.close()  # in the journal only
            assert demo_file("light-truck", fresh=True) == path and store.read(path).job.position.y != y
        for n, y in ((1, 31.0), (2, 32.0)):
            place = OpenJob(path.with_name(f"light-truck-kept-{n}.cradle"))
            assert place.job.position.y == y
            place.close()
        place = OpenJob(path)
        with pytest.raises(JobError, match="cannot be begun again: it is open"):
            demo_file("light-truck", fresh=True)
        place.close()


@pytest.fixture
def odd(tmp_path: Path) -> Iterator[dict[str, Path]]:
    """Places where a job is not expected."""
    os.mkfifo(tmp_path / "pipe.cradle")
    listener = socket.socket(socket.AF_UNIX)
    listener.bind(str(tmp_path / "s.cradle"))
    (tmp_path / "folder.cradle").mkdir()
    (tmp_path / "loop.cradle").symlink_to(tmp_path / "loop.cradle")
    (tmp_path / "dangling.cradle").symlink_to(tmp_path / "nowhere")
    (tmp_path / "file").write_text("x")
    yield {
        "pipe": tmp_path / "pipe.cradle",
        "socket": tmp_path / "s.cradle",
        "folder": tmp_path / "folder.cradle",
        "loop": tmp_path / "loop.cradle",
        "dangling": tmp_path / "dangling.cradle",
        "device": Path("/dev/zero"),
        "terminal": Path("/dev/tty"),
        "under a file": tmp_path / "file" / "a.cradle",
        "long": tmp_path / ("n" * 300 + ".cradle"),
        "control letters": tmp_path / "a\nb\x1b[2J\x07.cradle",
        "nothing": tmp_path / "",
        "root": Path("/"),
        "memory": Path("/proc/self/mem"),
        "deep": Path("/" + "x/" * 3000 + "a"),
        "up": Path(".."),
        "no name": Path("a\0b.cradle"),
    }
    listener.close()


class TestOddPlaces:
    def test_each_is_one_sentence(self, odd: dict[str, Path], capsys: pytest.CaptureFixture[str]) -> None:
        for word, path in odd.items():
            for use in (store.read, OpenJob, lambda p: read_file(p, 1000)):
                with pytest.raises(JobError) as refused:
                    use(path)
                said = refused.value.message
                assert 15 < len(said) < 200 and said.isprintable(), (word, said)
            assert main(["report", str(path)]) == 1, word
            assert len(capsys.readouterr().err.splitlines()) == 1

    def test_a_name_of_250_bytes_is_worked_on_like_any_other(self, demo: Job, tmp_path: Path) -> None:
        path = tmp_path / ("ü" * 121 + "x.cradle")
        assert len(os.fsencode(path.name)) == 250
        store.write(path, demo)
        place = OpenJob(path)
        to_y(place, 1.0)
        assert "another window" in OpenJob(path).read_only
        place = OpenJob(left(place))
        assert place.job.position.y == 1.0
        place.save()
        to_y(place, 2.0)
        place.save()
        place.close()
        assert (
            store.read(beside(path, ".previous")).job.position.y == 1.0 and len(list(tmp_path.iterdir())) == 2
        )

    def test_a_file_or_folder_not_to_be_written_opens_to_look_at(
        self, demo_path: Path, monkeypatch: pytest.MonkeyPatch
    ) -> None:
        monkeypatch.setattr(os, "access", lambda path, how: False)
        place = OpenJob(demo_path)
        assert place.read_only == "you may not write to it"
        place.close()
        monkeypatch.undo()

        def refuse(*_: Any) -> None:
            raise OSError(errno.EROFS, "Read-only file system")

        monkeypatch.setattr(Lock, "_own", refuse)
        place = OpenJob(demo_path)
        assert place.read_only == "no lock can be kept beside it: its drive is read-only" and place.job.items
        place.close()

    @pytest.mark.parametrize("code", [errno.ENOLCK, errno.EOPNOTSUPP, errno.EIO])
    def test_a_drive_that_cannot_lock_opens_to_look_at(
        self, demo_path: Path, monkeypatch: pytest.MonkeyPatch, code: int
    ) -> None:

        def refuse(*_: Any) -> None:
            raise OSError(code, "no locks here")

        monkeypatch.setattr("nimble_cradle.job.lock.fcntl.flock", refuse)
        place = OpenJob(demo_path)
        assert "cannot lock files" in place.read_only
        place.close()

    def test_a_drive_without_hard_links_keeps_everything_too(
        self, demo: Job, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
    ) -> None:
        """As memory sticks are: no links, and no files without a name."""
        path, whole = tmp_path / "s.cradle", os.open

        def refuse(*_: Any, **__: Any) -> None:
            raise OSError(errno.EPERM, "Operation not permitted")

        def no_nameless(name: Any, flags: int, *rest: Any, **more: Any) -> int:
            if flags & os.O_TMPFILE == os.O_TMPFILE:
                raise OSError(errno.EOPNOTSUPP, "Operation not supported")
            return whole(name, flags, *rest, **more)

        monkeypatch.setattr(os, "link", refuse)
        monkeypatch.setattr(os, "open", no_nameless)
        store.write(path, demo, fresh=True)
        with pytest.raises(JobError, match="is there already"):
            store.write(path, demo, fresh=True)
        place = OpenJob(path)
        for y in (1.0, 2.0):
            to_y(place, y)
            place.save()
        place.close()
        assert store.read(path).job.position.y == 2.0
        assert (
            store.read(beside(path, ".previous")).job.position.y == 1.0 and len(list(tmp_path.iterdir())) == 2
        )

    def test_a_drive_that_lies_about_locks_loses_nothing(
        self, demo_path: Path, monkeypatch: pytest.MonkeyPatch
    ) -> None:
        """Both get the lock; the second to save is told, and keeps his work under another name."""

        monkeypatch.setattr("nimble_cradle.job.lock.fcntl.flock", lambda *_: None)
        first, second = OpenJob(demo_path), OpenJob(demo_path)
        to_y(first, 1.0)
        to_y(second, 2.0)
        first.save()
        with pytest.raises(JobError, match="changed by something else"):
            second.save()
        second.save_as(demo_path.with_name("b.cradle"))
        assert store.read(demo_path).job.position.y == 1.0 and second.job.position.y == 2.0
        first.close()
        second.close()

    def test_a_folder_job_is_looked_at_and_saved_as_a_file(self, demo: Job, tmp_path: Path) -> None:
        (tmp_path / "f").mkdir()
        (tmp_path / "f" / "job.json").write_text(store.job_text(with_value(demo, "name", "From a folder")))
        (tmp_path / "f" / "meshes").mkdir()
        (tmp_path / "f" / "meshes" / "tunnel.stl").write_bytes(demo.meshes[0].data)
        place = OpenJob(tmp_path / "f")
        assert "folder" in place.read_only
        place.save_as(tmp_path / "g.cradle")
        assert store.read(tmp_path / "g.cradle").job.name == "From a folder"
        place.close()
