"""What every room of the mounts shares: the mount that it is about."""

from __future__ import annotations

from nimble_cradle.desk.kit.rooms import Room
from nimble_cradle.desk.kit.session import Session
from nimble_cradle.job.mounts import Mount


class ChosenMount:
    """The mount that the sheet is about, by its id."""

    def __init__(self, session: Session) -> None:
        self.session, self.id = session, ""

    def mount(self) -> Mount | None:
        """The mount; None where it is gone."""
        return next((mount for mount in self.session.job.mounts if mount.id == self.id), None)


class MountRoom(Room):
    """A room about the chosen mount. ``point`` lets its fields edit that mount."""

    def __init__(self, session: Session, chosen: ChosenMount) -> None:
        self.chosen = chosen
        super().__init__(session)

    @property
    def mount(self) -> Mount | None:
        """The chosen mount."""
        return self.chosen.mount()

    def point(self, mount: Mount) -> None:
        """Let every field edit this mount."""
