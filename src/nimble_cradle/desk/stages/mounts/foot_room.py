"""The chassis side of a mount: what its bush's cheeks stand on, and what that is made of."""

from __future__ import annotations

from nimble_cradle.design.first_foot import FootKind, first_foot, hosts_of, with_foot_kind
from nimble_cradle.desk.kit.described_fields import DescribedFields
from nimble_cradle.desk.kit.direction_field import DirectionField
from nimble_cradle.desk.kit.fields import ChoiceField
from nimble_cradle.desk.kit.kind_field import KindField
from nimble_cradle.desk.kit.pairs_field import PairsField
from nimble_cradle.desk.kit.quantity_field import RIGHT, UP
from nimble_cradle.desk.kit.told_in import told_in
from nimble_cradle.desk.kit.vector_field import VectorField
from nimble_cradle.desk.kit.words import button, row, words
from nimble_cradle.desk.stages.mounts.mount_room import MountRoom
from nimble_cradle.desk.stages.mounts.told import seat_words
from nimble_cradle.job.bay import Item
from nimble_cradle.job.edits import with_value
from nimble_cradle.job.foot import PlateFoot
from nimble_cradle.job.mounts import Mount
from nimble_cradle.judge.cautions import LIGHT_METAL, TACKING
from nimble_cradle.units import Display

FOOT_WORDS: tuple[tuple[FootKind | None, str], ...] = (
    (None, "not said"),
    ("plate", "cheeks on a foot plate"),
    ("saddle", "cheeks on a saddle over the rail"),
    ("tabs", "tabs welded straight on"),
    ("factory", "the car's own bracket"),
)


class FootRoom(MountRoom):
    """The chassis side."""

    title, key = "Chassis side", "foot"
    caution = f"{TACKING} {LIGHT_METAL}"

    def build(self) -> None:
        """Kind and host, what is known of them, sizes; the host's own section."""
        session = self.session
        self.column.addWidget(self.refusal)
        with self.two_sides():
            self.kind = KindField(session, "It is held by", FOOT_WORDS, self._other)
            self.host = ChoiceField(session, "Stands on", ())
            self.known = words("", "")
            self.nearest = row(
                button(
                    "Find the nearest face",
                    self.propose,
                    "A foot plate on the nearest part of the chassis",
                    "view",
                )
            )
            self.first, self.rest = DescribedFields(session, first=True), DescribedFields(session)
            for widget in (self.kind, self.host, self.nearest, self.known, self.first):
                self.column.addWidget(widget)
            with self.folded("Welds, bolts, doubler"):
                self.column.addWidget(self.rest)
                self.holes = PairsField(
                    session,
                    "Holes, from its middle as you face the foot with the bolt running right and left",
                    "hole",
                )
                self.column.addWidget(self.holes)
            with self.folded("Where it stands"):
                self.way = DirectionField(session, "From the bush to the chassis it")
                self.shift = VectorField(
                    session, "Foot beside the bush", (RIGHT, UP), ("along its bolt", "across it")
                )
                self.column.addWidget(self.way)
                self.column.addWidget(self.shift)
            self.right_side()
            with self.folded("What it stands on is made of", open_first=True):
                self.metal = words("", "")
                self.host_first, self.host_rest = (
                    DescribedFields(session, first=True),
                    DescribedFields(session),
                )
                for widget in (self.metal, self.host_first, self.host_rest):
                    self.column.addWidget(widget)

    def point(self, mount: Mount) -> None:
        base = f"mounts/{mount.id}/foot"
        self.kind.at(base, mount.name)
        self.kind.box.setObjectName(f"{base}/kind")
        self._pointed = ""

    def refresh(self) -> None:
        mount = self.mount
        if mount is None:
            return
        foot, base = mount.foot, f"mounts/{mount.id}/foot"
        self.host.offer(hosts_of(self.session.job))
        for widget in (self.host, self.way, self.shift):
            widget.setVisible(foot is not None)
        bolted = isinstance(foot, PlateFoot) and foot.fixing != "welded"
        self.holes.setVisible(bolted)
        for fields in (self.first, self.rest):
            fields.show_part(foot, base, mount.name)
        if foot is not None and self._pointed != base:
            self._pointed = base
            self.host.at(f"{base}/host", mount.name)
            self.way.at(f"{base}/way", mount.name)
            self.shift.at(f"{base}/shift", mount.name)
        if bolted and self.holes.path != f"{base}/holes":
            self.holes.at(f"{base}/holes", mount.name)
        display = Display(self.session.display.length)
        self.known.setText(seat_words(self.session.job, mount, display))
        self._show_host(mount)

    def _show_host(self, mount: Mount) -> None:
        """The section of an item that it stands on."""
        item = self._item(mount)
        for fields in (self.host_first, self.host_rest):
            if item is None:
                fields.show_part(None, "", "")
            else:
                fields.show_part(item.host, f"items/{item.id}/host", item.name)
        if item is None:
            own = mount.foot is not None
            self.metal.setText("What is made says its own section." if own else "Nothing is chosen yet.")
        else:
            self.metal.setText(f"{item.name}: {item.material}; that is said in the bay.")

    def _item(self, mount: Mount) -> Item | None:
        foot = mount.foot
        if foot is None:
            return None
        return next((item for item in self.session.job.items if item.id == foot.host), None)

    def _other(self, kind: FootKind | None) -> None:
        """Another kind of chassis side."""
        mount = self.mount
        if mount is not None:
            words_of = dict(FOOT_WORDS)
            after = with_foot_kind(self.session.job, mount, kind)
            self.session.edit(f"{mount.name}: {words_of[kind]}", after)

    def propose(self) -> None:
        """A foot plate on the nearest face of the chassis."""
        mount = self.mount
        if mount is not None:
            with told_in(self.refusal):
                job = self.session.job
                after = with_value(job, f"mounts/{mount.id}/foot", first_foot(job, mount))
                self.session.edit(f"{mount.name}: a foot on the nearest face", after)
