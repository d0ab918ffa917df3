"""The bay's picture: roles told without colour, tags that hide nothing, a scale that is true, the hand."""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from nimble_cradle.desk.bay_view.canvas import Canvas
from nimble_cradle.desk.bay_view.drawers import as_taped
from nimble_cradle.desk.bay_view.dressing import chamfered, dressed_piece
from nimble_cradle.desk.bay_view.foot import Told, scale_of
from nimble_cradle.desk.bay_view.ground import dash_dot
from nimble_cradle.desk.bay_view.looks import FOULS, ROLES
from nimble_cradle.desk.bay_view.standpoints import STANDPOINTS
from nimble_cradle.desk.bay_view.still import Pattern, dressed, edges
from nimble_cradle.desk.bay_view.tag_places import Cover, Wanted, place_tags
from nimble_cradle.desk.window import Desk
from nimble_cradle.geometry.pose import unit
from nimble_cradle.geometry.solids import MeshPart
from nimble_cradle.job.job import Job
from nimble_cradle.job.powertrain import Piece
from nimble_cradle.job.shapes import Bar, Box
from nimble_cradle.survey.faces import seen
from nimble_cradle.survey.shapes import parts_of
from nimble_cradle.units import Display
from PyQt6.QtCore import QPoint, Qt
from PyQt6.QtWidgets import QApplication
from scipy.spatial import ConvexHull
from scipy.spatial.transform import Rotation

from pressing import CTRL, NONE, SHIFT, Key, QTest, press


def lightness(colour: str) -> float:
    """L* of #rrggbb under D65: CIE 1976, by sRGB's transfer curve (IEC 61966-2-1; both from memory)."""
    parts = [int(colour[k : k + 2], 16) / 255 for k in (1, 3, 5)]
    r, g, b = (p / 12.92 if p <= 0.04045 else ((p + 0.055) / 1.055) ** 2.4 for p in parts)
    y = 0.2126 * r + 0.7152 * g + 0.0722 * b
    return float(116 * y ** (1 / 3) - 16 if y > 216 / 24389 else y * 24389 / 27)


class TestRoles:
    def test_the_scale_of_lightness_itself(self) -> None:
        assert lightness("#ffffff") == pytest.approx(100) and lightness("#000000") == pytest.approx(0)
        assert lightness("#777777") == pytest.approx(50.0, abs=0.1), "mid grey"

    def test_roles_are_told_apart_in_grey(self) -> None:
        """By lightness, by at least eight, or by a pattern of their own."""
        solid = [name for name, role in ROLES.items() if role.opacity == 1.0]
        for i, a in enumerate(solid):
            for b in solid[:i]:
                if ROLES[a].pattern == ROLES[b].pattern:
                    assert abs(lightness(ROLES[a].light) - lightness(ROLES[b].light)) >= 8, (a, b)
        assert round(lightness(ROLES["powertrain"].light)) == 86 and round(lightness(FOULS)) == 40


class TestStillPicture:
    ids = np.zeros((60, 80), dtype=np.int32)
    ids[10:40, 10:40] = 1
    ids[20:50, 40:70] = 2

    def grey(self) -> Any:
        return np.full((60, 80, 4), 128, dtype=np.uint8)

    def test_an_outline_only_where_bodies_end(self) -> None:
        found = edges(self.ids)
        by_hand = np.zeros_like(found)
        for y in range(60):
            for x in range(80):
                here = self.ids[y, x]
                by_hand[y, x] = (x < 79 and self.ids[y, x + 1] != here) or (
                    y < 59 and self.ids[y + 1, x] != here
                )
        assert (found == by_hand).all() and found.sum() > 200

    @pytest.mark.parametrize("kind", ["hatch", "dots", "seam"])
    def test_a_pattern_lies_within_its_body_and_is_seen_in_grey(self, kind: str) -> None:
        plain = dressed(self.grey(), self.ids, {1: Pattern(), 2: Pattern()}, "#000000", 1.0)
        told = dressed(self.grey(), self.ids, {1: Pattern(kind), 2: Pattern()}, "#000000", 1.0)
        changed = (plain != told).any(2)
        ys, xs = np.nonzero(changed)
        assert changed.sum() > 60 and ys.min() >= 8 and ys.max() <= 41 and xs.min() >= 8 and xs.max() <= 41
        inner = told[13:37, 13:37, :3].mean(2)
        assert kind == "seam" or inner.std() > 8, "not one flat tone"

    def test_what_is_chosen_has_a_rim_in_black_and_white(self) -> None:
        told = dressed(self.grey(), self.ids, {1: Pattern(chosen=True)}, "#000000", 1.0)
        row = told[25, 2:10, :3].mean(1)
        assert row.min() < 20 and row.max() > 230 and tuple(told[25, 25, :3]) == (128, 128, 128)


tag = st.builds(Wanted, st.floats(0, 760), st.floats(0, 520), st.floats(120, 260), st.floats(40, 70))


class TestTags:
    @given(st.lists(tag, min_size=1, max_size=5))
    def test_they_stand_at_the_edge_inside_and_apart(self, tags: list[Wanted]) -> None:
        places = place_tags(tags, 770, 530)
        boxes = [(x, y, t.wide, t.high) for t, at in zip(tags, places, strict=True) if at for x, y in [at]]
        assert len(boxes) == len(tags), "five have room in a view of the usual size"
        for i, (x, y, w, h) in enumerate(boxes):
            assert x >= 0 and y >= 0 and x + w <= 770 and y + h <= 530
            assert min(x, y, 770 - x - w, 530 - y - h) <= 21, "at an edge"
            for p, q, u, v in boxes[:i]:
                assert x >= p + u or p >= x + w or y >= q + v or q >= y + h

    def test_they_hide_the_bodies_least(self) -> None:
        """A body fills the left three quarters: the tag of a point in it stands at the right."""
        mask = np.zeros((133, 193))
        mask[:, :140] = 1.0
        place = place_tags([Wanted(300, 260, 180, 60)], 770, 530, 0, Cover(mask, 4.0))[0]
        assert place is not None and place[0] >= 560

    def test_the_cover_counts_as_a_loop_does(self) -> None:
        rng = np.random.default_rng(5)
        mask = (rng.random((50, 60)) > 0.6).astype(float)
        cover = Cover(mask, 4.0)
        for _ in range(50):
            x, y, w, h = 4 * rng.integers(0, 30), 4 * rng.integers(0, 30), 4 * 12, 4 * 9
            by_hand = mask[y // 4 : y // 4 + 9, x // 4 : x // 4 + 12].sum() / (9 * 12)
            assert cover.share(np.array([x]), np.array([y]), w, h)[0] == pytest.approx(by_hand)

    def test_a_tag_stays_where_it_stood(self) -> None:
        one = place_tags([Wanted(300, 260, 180, 60)], 770, 530)[0]
        assert one is not None
        again = place_tags([Wanted(304, 262, 180, 60, one)], 770, 530)[0]
        assert again == one

    @pytest.mark.picture
    @pytest.mark.parametrize("point", list(STANDPOINTS))
    def test_on_the_demo_they_cover_little_of_the_engine(self, desk: Desk, qtbot: Any, point: str) -> None:
        """Measured from the picture of numbers: at most a twentieth in the worst standpoint."""
        desk.view.stand(point)
        qtbot.wait(60)
        desk.view._draw_smooth()
        view = desk.view
        ids, _ = view._numbered()
        own = [k for k, key in enumerate(view.bodies, start=1) if key[0] in ("piece", "mount")]
        engine = np.isin(ids, own)
        under = np.zeros_like(engine)
        for box in view.layer.boxes:
            under[max(0, int(box.top())) : int(box.bottom()), max(0, int(box.left())) : int(box.right())] = (
                True
            )
        assert view.layer.tags and (engine & under).sum() <= 0.05 * engine.sum()


class TestScale:
    @given(st.floats(0.02, 8.0), st.sampled_from([Display(), Display("in"), Display("in", 16)]))
    def test_a_round_length_of_a_good_size(self, px_per_mm: float, display: Display) -> None:
        pixels, words = scale_of(px_per_mm, display)
        assert words.endswith(display.length) and "≈" not in words
        assert pixels >= 60 or px_per_mm < 0.05
        assert pixels <= 160 or px_per_mm > 3

    def test_it_is_true_at_the_crank(self, desk: Desk, qtbot: Any) -> None:
        """Square on from the side: two points of the crank line 200 mm apart are as far apart on the
        screen as the scale says."""
        desk.view.stand("left")
        qtbot.wait(60)
        told = desk.view.foot.drawn.told
        assert isinstance(told, Told)
        at = np.array([desk.session.job.position.x, 0.0, desk.session.job.position.z])
        a, b = (np.array(desk.view._seen_at(at + (dx, 0.0, 0.0))) for dx in (-100.0, 100.0))
        assert np.hypot(*(b - a)) == pytest.approx(200 * told.px_per_mm, rel=0.02)
        assert abs(told.front[0]) == pytest.approx(1.0, abs=0.05), "the front lies in the picture"
        desk.view.stand("front")
        qtbot.wait(60)
        told = desk.view.foot.drawn.told
        assert told is not None and told.towards > 0.9

    def test_the_sides_are_square_on(self) -> None:
        for side, sign in (("left", 1.0), ("right", -1.0)):
            assert STANDPOINTS[side][1] == (0.0, sign, 0.0)

    def test_dashes_cover_a_line_from_end_to_end(self) -> None:
        rows = dash_dot(np.array([0.0, 0, 0]), np.array([500.0, 0, 0]))
        assert rows[0, 0, 0] == 0 and rows.max() <= 500
        assert (rows[1:, 0, 0] > rows[:-1, 1, 0]).all(), "none upon another"


def test_a_chamfered_box_is_whole() -> None:
    """Closed, outward, and as large as the hull of its corners (Qhull)."""
    part = chamfered((-30, 5, -8), (55, 60, 40), 7.0)
    assert isinstance(part, MeshPart) and part.closed
    hull = ConvexHull(part.vertices)
    assert part.mass_properties().volume == pytest.approx(hull.volume, rel=1e-9)
    assert len(part.vertices) == 24 and hull.volume < 85 * 55 * 48


class TestTheHand:
    def middle_of(self, desk: Desk, key: tuple[str, str]) -> QPoint:
        low_high = np.array(desk.view.bodies[key].surface.GetBounds()).reshape(3, 2)
        x, y = desk.view._seen_at(low_high.mean(1))
        return QPoint(round(x), round(y))

    def test_a_tape_between_two_places(self, desk: Desk, qtbot: Any, monkeypatch: Any) -> None:
        desk.view.stand("left")
        qtbot.wait(60)
        said: list[str] = []
        desk.session.said.connect(said.append)
        press(desk, Key.Key_T, CTRL)
        assert desk.view.tape.on
        canvas = desk.view.gl
        for spot in (QPoint(300, 260), QPoint(420, 260)):
            QTest.mouseClick(canvas, Qt.MouseButton.LeftButton, NONE, spot)
        assert len(desk.view.tape.places) == 2
        a, b = desk.view.tape.places
        assert any("mm: " in words and "lengthwise" in words for words in said)
        qtbot.waitUntil(lambda: desk.view.layer.overlay is not None)
        shown = desk.view.layer.overlay
        assert shown is not None and shown.words == f"{np.linalg.norm(b - a):.1f} mm"
        press(desk, Key.Key_Escape)
        qtbot.waitUntil(lambda: desk.view.layer.overlay is None)
        assert not desk.view.tape.on

    def drag(self, desk: Desk, by: QPoint, let_go: bool = True) -> None:
        canvas = desk.view.gl
        start = QPoint(canvas.width() // 2, canvas.height() // 2)
        QTest.mousePress(canvas, Qt.MouseButton.LeftButton, SHIFT, start)
        for k in range(1, 5):
            at = start + by * k / 4
            event = QApplication.instance()
            assert event is not None
            _move(canvas, at)
        if let_go:
            QTest.mouseRelease(canvas, Qt.MouseButton.LeftButton, SHIFT, start + by)

    def test_the_engine_dragged_along_one_way(self, desk: Desk, qtbot: Any) -> None:
        """From the driver's side the front is at the left: a drag to the left goes forward, and nowhere
        else."""
        desk.view.stand("left")
        qtbot.wait(60)
        before, count = desk.session.job.position, len(desk.session.place.log)
        told = desk.view.foot.drawn.told
        assert told is not None
        side = 1 if told.front[0] > 0 else -1
        self.drag(desk, QPoint(side * 80, 6))
        after = desk.session.job.position
        assert after.x - before.x == pytest.approx(80 / told.px_per_mm, abs=3)
        assert (after.y, after.z, after.pitch_deg) == (before.y, before.z, before.pitch_deg)
        assert desk.session.film is None and len(desk.session.place.log) == count + 1, "one edit"
        assert (
            "Dragged" in desk.session.place.log[-1]["what"]
            and "forward" in desk.session.place.log[-1]["what"]
        )

    def test_escape_puts_it_back(self, desk: Desk, qtbot: Any) -> None:
        desk.view.stand("left")
        qtbot.wait(60)
        began = desk.session.job
        self.drag(desk, QPoint(0, -60), let_go=False)
        assert desk.session.film is not None and "up" in (
            desk.view.drag.line.words if desk.view.drag.line else ""
        )
        press(desk, Key.Key_Escape)
        assert desk.session.film is None and desk.session.job is began and not desk.view.drag.on

    def grip(self, desk: Desk, qtbot: Any) -> tuple[QPoint, QPoint, float]:
        """A place on the driver's side of the picture where a face that is seen askew can be held, and 40 px
        along its way; how many mm that is."""
        desk.view.stand("corner")
        qtbot.wait(60)
        view, canvas = desk.view, desk.view.gl
        eye = np.array(view.renderer.GetActiveCamera().GetPosition())
        for x in range(40, canvas.width() - 40, 23):
            for y in range(40, canvas.height() - 40, 23):
                key, place = view._under(QPoint(x, y))
                if key is None or key[0] != "item":
                    continue
                item = next(i for i in desk.session.job.items if i.id == key[1])
                hit = (
                    None
                    if item.cuts or item.motion
                    else seen(item.shapes, eye - item.moved, unit(place - eye))
                )
                if hit is None:
                    continue
                middle = hit[1].ring.mean(0) + item.moved
                step = np.subtract(view._seen_at(middle + 10 * hit[1].normal), view._seen_at(middle)) / 10
                if np.hypot(*step) > 0.3:
                    on = np.round(40 * step / np.hypot(*step)).astype(int)
                    return QPoint(x, y), QPoint(x + int(on[0]), y + int(on[1])), 40 / float(np.hypot(*step))
        raise AssertionError("no face is seen askew")

    def pull(self, desk: Desk, a: QPoint, b: QPoint) -> None:
        canvas = desk.view.gl
        QTest.mousePress(canvas, Qt.MouseButton.LeftButton, CTRL, a)
        for k in range(1, 5):
            _move(canvas, a + (b - a) * k / 4, CTRL)

    def test_a_face_pulled_along_its_way(self, desk: Desk, qtbot: Any) -> None:
        """The solid reaches farther by the figure at the hand, in one way of space only; one edit."""
        a, b, mm = self.grip(desk, qtbot)
        began, count = desk.session.job, len(desk.session.place.log)
        self.pull(desk, a, b)
        line = desk.view.pull.line
        assert desk.session.job is began and line is not None and len(line.ring) >= 4
        figure = float(line.words.split(" mm")[0])
        assert figure == pytest.approx(mm, abs=2.5) and " mm out: " in line.words
        QTest.mouseRelease(desk.view.gl, Qt.MouseButton.LeftButton, CTRL, b)
        after = desk.session.job
        changed = [(i, j) for i, j in zip(began.items, after.items, strict=True) if i != j]
        assert len(changed) == 1 and len(desk.session.place.log) == count + 1
        said = f"{changed[0][0].name}: a face pulled {figure:.1f} mm out, a guess until it is measured"
        assert desk.session.place.log[-1]["what"] == said
        assert changed[0][1].measured == "guess" and changed[0][1].give_or_take == 10.0
        old, new = (
            np.vstack([part.triangles[0] for shape in i.shapes for part in parts_of(shape, {})])
            for i in changed[0]
        )
        far = [np.linalg.norm(old - p, axis=1).min() for p in new]
        assert max(far) == pytest.approx(figure, abs=0.05), "its corners go so far"

    def test_a_pull_put_back_and_one_that_cannot_be(self, desk: Desk, qtbot: Any) -> None:
        a, b, _ = self.grip(desk, qtbot)
        began, said = desk.session.job, list[str]()
        self.pull(desk, a, b)
        press(desk, Key.Key_Escape)
        QTest.mouseRelease(desk.view.gl, Qt.MouseButton.LeftButton, CTRL, b)
        assert desk.session.job is began and not desk.view.pull.on
        desk.session.said.connect(said.append)
        self.pull(desk, QPoint(3, 3), QPoint(60, 60))
        QTest.mouseRelease(desk.view.gl, Qt.MouseButton.LeftButton, CTRL, QPoint(60, 60))
        assert desk.session.job is began and any("Only faces of things" in words for words in said)


def _move(canvas: Canvas, at: QPoint, held: Qt.KeyboardModifier = SHIFT) -> None:
    """The mouse with its left button and a key held."""
    from PyQt6.QtCore import QEvent, QPointF
    from PyQt6.QtGui import QMouseEvent

    event = QMouseEvent(
        QEvent.Type.MouseMove, QPointF(at), Qt.MouseButton.NoButton, Qt.MouseButton.LeftButton, held
    )
    QApplication.sendEvent(canvas, event)


class TestTheEye:
    def test_it_never_ends_inside_a_part(self, desk: Desk, qtbot: Any) -> None:
        camera = desk.view.renderer.GetActiveCamera()
        for point in ("front", "corner", "left"):
            desk.view.stand(point)
            for _ in range(60):
                desk.view.gl.wheelEvent(_Wheel())
            place = camera.GetPosition()
            inside = [
                key for key, body in desk.view.bodies.items() if body.opacity > 0.5 and body.holds(place)
            ]
            assert not inside

    def test_the_bay_is_seen_whole_again_when_it_grows(self, desk: Desk, qtbot: Any) -> None:
        """A piece far in front of the others is in sight without a key."""
        from nimble_cradle.job.edits import added
        from nimble_cradle.job.powertrain import Piece
        from nimble_cradle.job.shapes import Box

        desk.view.stand("left")
        far = Piece(id="far", name="Far", mass_kg=1, shapes=(Box(centre=(1500, 0, 0), size=(80, 80, 80)),))
        desk.session.edit("Added", added(desk.session.job, "powertrain/pieces", far))
        x, y = desk.view._seen_at(np.array([1250.0, 0.0, 20.0]))
        assert 0 < x < desk.view.gl.width() and 0 < y < desk.view.gl.height()

    def test_the_chosen_pair_alone_on_one_key(self, desk: Desk) -> None:
        gap = desk.session.verdict.gaps[0]
        desk.session.select("gap", f"{gap.piece}/{gap.item}")
        press(desk, Key.Key_B, CTRL)
        bright = {key for key, body in desk.view.bodies.items() if body.faded == 1.0}
        assert bright == {("piece", gap.piece), ("item", gap.item)}
        press(desk, Key.Key_Escape)
        assert all(body.faded == 1.0 for body in desk.view.bodies.values())


class _Wheel:
    """A notch of the wheel towards the bay."""

    def angleDelta(self) -> QPoint:
        return QPoint(0, 120)


BOX_WORDS = ("block", "head", "sump", "inlet manifold", "gearbox", "a box")
BAR_WORDS = ("fan", "alternator", "oil filter", "bellhousing", "crank pulley", "a bar")


def pieces(job: Job) -> list[Piece]:
    return [piece for piece in job.powertrain.pieces if dressed_piece(piece) is not None]


class TestDressed:
    """Pieces look like what they are and lie within what was taped."""

    @pytest.mark.parametrize("which", ["demo", "hatchback"])
    def test_no_drawn_point_lies_outside_what_was_taped(self, which: str, request: Any) -> None:
        """Each against the exact solid of its own shape: a box by its half sizes, a bar by radius and length,
        worked out here from the file's figures."""
        job: Job = request.getfixturevalue(which)
        told = 0
        for piece in pieces(job):
            drawn = dressed_piece(piece)
            assert drawn
            points = np.vstack([part.triangles[0] for part in drawn])
            inside = np.zeros(len(points), dtype=bool)
            for shape in piece.shapes:
                inside |= _inside(shape, points, 0.1)
            assert inside.all(), (piece.id, points[~inside][:3])
            told += len(points)
        assert told > 3000

    @given(st.tuples(*(st.floats(20, 320) for _ in range(3))), st.sampled_from(BOX_WORDS))
    def test_every_box_recipe_touches_each_face_and_no_more(self, size: Any, word: str) -> None:
        piece = Piece(id="x", name=word, mass_kg=1, shapes=(Box(centre=(0, 0, 0), size=size),))
        points = np.vstack([part.triangles[0] for part in dressed_piece(piece) or []])
        half = np.array(size) / 2
        assert points.max(0) == pytest.approx(half, abs=0.1) and points.min(0) == pytest.approx(
            -half, abs=0.1
        )

    @given(st.floats(10, 220), st.floats(12, 320), st.sampled_from(BAR_WORDS))
    def test_every_bar_recipe_touches_its_ends_and_its_round(
        self, radius: float, long: float, word: str
    ) -> None:
        shape = Bar(start=(0, 0, 0), end=(long, 0, 0), diameter=2 * radius)
        piece = Piece(id="x", name=word, mass_kg=1, shapes=(shape,))
        points = np.vstack([part.triangles[0] for part in dressed_piece(piece) or []])
        away = np.hypot(points[:, 1], points[:, 2])
        assert points[:, 0].min() == pytest.approx(0, abs=0.1)
        assert points[:, 0].max() == pytest.approx(long, abs=0.1)
        assert away.max() == pytest.approx(radius, abs=0.1)
        for axis in (1, 2):
            assert np.abs(points[:, axis]).max() == pytest.approx(radius, abs=0.1)

    def test_what_fouls_or_is_chosen_is_drawn_as_taped(self, desk: Desk) -> None:
        """Else a drawn waist looked like room: the fan fouls, the block is chosen, the head is neither."""
        fouling = frozenset(gap.piece for gap in desk.session.verdict.gaps if gap.margin < 0)
        assert as_taped(desk.session) == fouling and "fan" in fouling
        dressed = len(_triangles(desk, "block"))
        desk.session.select("piece", "block")
        assert as_taped(desk.session) == fouling | {"block"}
        assert len(_triangles(desk, "block")) == 12 < dressed
        assert len(_triangles(desk, "head")) > 12
        press(desk, Key.Key_D, CTRL)
        assert as_taped(desk.session) is None and len(_triangles(desk, "head")) == 12


def _triangles(desk: Desk, piece: str) -> range:
    mapper: Any = desk.view.bodies["piece", piece].surface.GetMapper()
    mapper.Update()
    return range(mapper.GetInput().GetNumberOfCells())


def _inside(shape: Any, points: Any, by: float) -> Any:
    """True (n,) within a box or a bar, grown by ``by`` mm."""
    if isinstance(shape, Box):
        back = (points - np.array(shape.centre)) @ Rotation.from_euler(
            "xyz", shape.turn, degrees=True
        ).as_matrix()
        return (np.abs(back) <= np.array(shape.size) / 2 + by).all(1)
    a, b = np.array(shape.start), np.array(shape.end)
    long = float(np.linalg.norm(b - a))
    along = (points - a) @ (b - a) / long
    away = np.linalg.norm(points - a - np.outer(along, (b - a) / long), axis=1)
    return (along >= -by) & (along <= long + by) & (away <= shape.diameter / 2 + by)
