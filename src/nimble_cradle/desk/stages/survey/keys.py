"""Keys on the survey's tables."""

from __future__ import annotations

from nimble_cradle.desk.kit.keymap import Key, KeyGroup

READING_KEYS = KeyGroup(
    "Readings",
    (
        Key(("P",), "another point, on a table", ("add_point",)),
        Key(("Del", "R"), "drop or use again, retake the chosen reading", ("drop", "retake"), "Delete, R"),
        Key(("N", "W"), "take the proposed reading next, how a reading is judged", ("adopt", "work")),
    ),
)
PROPOSAL_KEYS = KeyGroup("Worth measuring next", (Key(("N",), "take the proposed reading", ("adopt",)),))
DROP_KEYS = KeyGroup("Rows of a table", (Key(("Del",), "drop or use again", ("drop",), "Delete"),))
