"""An item made from surveyed points, and how an item moves with wheel or steering."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from typing import Any

from pydantic import ValidationError
from PyQt6.QtWidgets import QInputDialog, QLineEdit, QVBoxLayout, QWidget

from nimble_cradle.desk.kit.ask_file import file_to_open
from nimble_cradle.desk.kit.choice_box import ChoiceBox
from nimble_cradle.desk.kit.direction_field import DirectionField
from nimble_cradle.desk.kit.pairs_field import PairsField
from nimble_cradle.desk.kit.quantity_field import LEFT, UP, QuantityField
from nimble_cradle.desk.kit.refusal import Refusal
from nimble_cradle.desk.kit.session import Session
from nimble_cradle.desk.kit.words import button, fresh_body, part, row, words
from nimble_cradle.desk.stages.bay.grid_field import GridField
from nimble_cradle.files import read_file
from nimble_cradle.geometry.solids import ShapeError
from nimble_cradle.job.base import JobError
from nimble_cradle.job.bay import Item
from nimble_cradle.job.edits import with_value
from nimble_cradle.job.from_points import (
    BarFrom,
    BoxFrom,
    GridFrom,
    OutlineFrom,
    PanelFrom,
    RailFrom,
    ShaftFrom,
    TunnelFrom,
)
from nimble_cradle.survey.traced import MOST_BYTES, read_traced

KINDS: tuple[tuple[str, str, str], ...] = (
    ("box", "box", "two opposite corners"),
    ("bar", "round bar or tube", "points on its axis"),
    ("rail", "rail", "points on the middle of its top, front to back"),
    ("panel", "flat panel or floor", "three or more corners, in order"),
    ("shaft", "shaft with joints", "three or more points; a joint at each inner one"),
    ("outline", "outline traced on card", "from the first point to the second"),
    ("grid", "grid of heights, as a bonnet", "the point they are taken from"),
    ("tunnel", "tunnel through profiles", "a point for each profile"),
)
SIZES: dict[str, tuple[tuple[str, str], ...]] = {
    "bar": (("Diameter", "diameter_mm"),),
    "rail": (("Width", "width_mm"), ("Height", "height_mm")),
    "panel": (("Thickness", "thickness_mm"),),
    "shaft": (
        ("Diameter", "diameter_mm"),
        ("A joint sweeps", "joint_mm"),
        ("A joint is long", "joint_long_mm"),
    ),
}


def first_recipe(kind: str, points: tuple[str, ...]) -> Any:
    """A recipe of a kind with sizes to type over. Raises ValidationError where the points are too few or
    many."""
    some: dict[str, Callable[[], Any]] = {
        "box": lambda: BoxFrom(points=points),
        "bar": lambda: BarFrom(points=points, diameter_mm=25),
        "rail": lambda: RailFrom(points=points, width_mm=60, height_mm=100),
        "panel": lambda: PanelFrom(points=points),
        "shaft": lambda: ShaftFrom(points=points, diameter_mm=22, joint_mm=60),
        "outline": lambda: OutlineFrom(points=points, outline=((-40, 0), (40, 0), (40, 60), (-40, 60))),
        "grid": lambda: GridFrom(
            points=points,
            forward=(-300, 0, 300),
            left=(-300, 0, 300),
            heights=((0, 20, 0), (0, 30, 0), (0, 20, 0)),
        ),
        "tunnel": lambda: TunnelFrom(
            points=points,
            profiles=(((150, -120), (130, 60), (0, 130), (-130, 60), (-150, -120)),) * len(points),
        ),
    }
    return some[kind]()


class MadeEditor(QWidget):
    """Makes the chosen item from points by their numbers; its sizes are fields."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session, self.item_id = session, ""
        self.column = QVBoxLayout(self)
        self.column.setContentsMargins(0, 0, 0, 0)
        self.column.setSpacing(2)
        self.column.addWidget(part("Made from surveyed points"))
        self.kind = ChoiceBox()
        self.kind.setAccessibleName("What is made from points")
        self.kind.addItems([name for _, name, _ in KINDS])
        self.kind.currentIndexChanged.connect(self._hint)
        self.points = QLineEdit()
        self.points.setAccessibleName("Numbers of its points")
        self.points.setObjectName("made from points")
        self.points.setPlaceholderText("e.g. 5, 6")
        self.points.returnPressed.connect(self.make)
        self.column.addWidget(
            row(
                self.kind,
                self.points,
                button("Make it so", self.make, "Enter; the shapes it had go"),
                stretch=False,
            )
        )
        self.hint = words("")
        self.column.addWidget(self.hint)
        self.refusal = Refusal(session)
        self.column.addWidget(self.refusal)
        self.body = QWidget()
        self.column.addWidget(self.body)
        self._shown: Any = None
        self._hint()

    def _hint(self) -> None:
        self.hint.setText(f"Wants {KINDS[self.kind.currentIndex()][2]}.")

    def at(self, item: Item) -> None:
        """Show how an item is made."""
        shown = (item.id, item.made.kind if item.made else "", len(item.made.points) if item.made else 0)
        if shown == self._shown:
            return
        self._shown, self.item_id = shown, item.id
        self.refusal.hide()
        self.points.clear()
        self.body, column = fresh_body(self.column, self.body)
        if item.made is not None:
            numbers = [point.id for point in self.session.job.survey.points]
            self.kind.setCurrentIndex([k for k, *_ in KINDS].index(item.made.kind))
            self.points.setText(", ".join(str(numbers.index(key) + 1) for key in item.made.points))
            base = f"items/{item.id}/made"
            for label, name in SIZES.get(item.made.kind, ()):
                column.addWidget(QuantityField(self.session, label, "length").at(f"{base}/{name}", item.name))
            if item.made.kind == "outline":
                outline = PairsField(
                    self.session,
                    "Outline as one sees it from its second point, looking back at the first: right or left,"
                    " up or down from the first; an emptied line takes the point away",
                    "point",
                )
                outline.at(f"{base}/outline", item.name)
                column.addWidget(DirectionField(self.session, "Its up").at(f"{base}/up", item.name))
                column.addWidget(
                    row(
                        button(
                            "Outline from DXF, SVG …",
                            self.ask_outline,
                            "Traced on card, seen from the second point; its own nought is the first point",
                            "view",
                        )
                    )
                )
                column.addWidget(outline)
            elif item.made.kind == "tunnel":
                for k in range(len(item.made.points)):
                    profile = PairsField(
                        self.session,
                        f"Profile {k + 1}: left or right of the car, up or down from its point",
                        "point",
                        (LEFT, UP),
                    )
                    profile.at(f"{base}/profiles/{k}", item.name)
                    column.addWidget(profile)
            elif item.made.kind == "grid":
                column.addWidget(GridField(self.session, base, item.name))
            column.addWidget(
                QuantityField(self.session, "Its sizes, give or take", "length").at(
                    f"{base}/size_plus_minus_mm", item.name
                )
            )

    def ask_outline(self) -> None:
        """Ask for a traced outline; where the file does not say its unit, ask that too."""
        path = file_to_open(self, "Traced outline", "Drawings (*.dxf *.svg)")
        if path is not None and not self.take_outline(path):
            unit, taken = QInputDialog.getItem(
                self, "Unit", "The drawing does not say its unit. It is in", ["mm", "inch"], 0, False
            )
            if taken:
                self.take_outline(path, 1.0 if unit == "mm" else 25.4)

    def take_outline(self, path: Path, unit_mm: float | None = None) -> bool:
        """The largest closed line of a traced file becomes the outline. False where only the unit is
        missing."""
        try:
            traced = read_traced(path.name, read_file(path, MOST_BYTES), unit_mm)
            if len(traced.outline) < 3:
                raise ShapeError(f"“{path.name}” has no closed line.")
            if len(traced.outline) > 500:
                raise ShapeError(
                    f"“{path.name}” has {len(traced.outline)} corners; at most 500 are taken. Draw it"
                    " coarser."
                )
            outline = tuple((round(float(x), 3) + 0.0, round(float(y), 3) + 0.0) for x, y in traced.outline)
            self.session.set_value(
                f"items/{self.item_id}/made/outline",
                outline,
                f"Outline from {path.name}: {len(outline)} corners",
            )
            self.refusal.hide()
            if traced.left_out:
                self._say(f"Not used of {path.name}: {', '.join(traced.left_out)}.")
        except (ShapeError, JobError) as error:
            self._say(str(error))
            return "does not say its unit" not in str(error)
        return True

    def _say(self, sentence: str) -> None:
        self.refusal.tell(sentence)

    def make(self) -> None:
        """Make the item from the points that were typed."""
        item = self.session.value(f"items/{self.item_id}")
        if not isinstance(item, Item):
            return
        surveyed = self.session.job.survey.points
        try:
            numbers = [w for w in self.points.text().replace(",", " ").split() if w]
            bad = next((w for w in numbers if not w.isdigit() or not 1 <= int(w) <= len(surveyed)), None)
            if bad is not None or not numbers:
                raise JobError(
                    f"“{bad or ''}” is no point; there are points 1 to {len(surveyed)}."
                    if surveyed
                    else "There are no surveyed points yet: tape them on Survey first."
                )
            keys = tuple(surveyed[int(w) - 1].id for w in numbers)
            kind = KINDS[self.kind.currentIndex()][0]
            sizes = {
                name: getattr(item.made, name)
                for _, name in SIZES.get(kind, ())
                if item.made is not None and item.made.kind == kind
            }
            try:
                made = first_recipe(kind, keys).model_copy(update=sizes)
            except ValidationError:
                raise JobError(
                    f"A {KINDS[self.kind.currentIndex()][1]} wants {KINDS[self.kind.currentIndex()][2]}."
                ) from None
            fields = {**{k: getattr(item, k) for k in Item.model_fields}, "shapes": (), "made": made}
            after = with_value(self.session.job, f"items/{item.id}", Item(**fields))
            self.refusal.hide()
            self.session.edit(f"{item.name}: made as a {kind} from points {', '.join(numbers)}", after)
        except JobError as error:
            self._say(error.message)
            self.points.selectAll()
