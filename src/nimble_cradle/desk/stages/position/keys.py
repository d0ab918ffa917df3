"""Keys on Position: the arrows move the engine."""

from __future__ import annotations

from nimble_cradle.desk.kit.keymap import Key, KeyGroup

MOVE_KEYS = KeyGroup(
    "Move the engine on Position",
    (
        Key(("Up", "Down"), "forward, back", ("nudge forward", "nudge back"), "↑  ↓"),
        Key(
            ("Left", "Right"), "left, right, as seated in the vehicle", ("nudge left", "nudge right"), "←  →"
        ),
        Key(("PgUp", "PgDown"), "up, down", ("nudge up", "nudge down"), "Page up, Page down"),
        Key(
            ("Ctrl+Up", "Ctrl+Down"),
            "nose up, nose down",
            ("turn nose-up", "turn nose-down"),
            "Ctrl ↑  Ctrl ↓",
        ),
        Key(
            ("Ctrl+Left", "Ctrl+Right"),
            "clock to the left, to the right",
            ("turn clock-left", "turn clock-right"),
            "Ctrl ←  Ctrl →",
        ),
        Key(
            ("Ctrl+PgUp", "Ctrl+PgDown"),
            "nose to the left, to the right",
            ("turn nose-left", "turn nose-right"),
            "Ctrl Page up, down",
        ),
        Key(("1", "2", "3"), "step 0.1, 1, 10 mm", ("step_mm 0", "step_mm 1", "step_mm 2"), "1  2  3"),
        Key(("4", "5"), "turn 0.1, 1 deg", ("step_deg 0", "step_deg 1"), "4  5"),
        Key(("L",), "set level across", ("level_across",)),
        Key(
            (
                "Shift+Up",
                "Shift+Down",
                "Shift+Left",
                "Shift+Right",
                "Shift+PgUp",
                "Shift+PgDown",
                "Ctrl+Shift+Up",
                "Ctrl+Shift+Down",
                "Ctrl+Shift+Left",
                "Ctrl+Shift+Right",
                "Ctrl+Shift+PgUp",
                "Ctrl+Shift+PgDown",
            ),
            "push until it stops",
            (
                "push forward",
                "push back",
                "push left",
                "push right",
                "push up",
                "push down",
                "push_turn nose-up",
                "push_turn nose-down",
                "push_turn clock-left",
                "push_turn clock-right",
                "push_turn nose-left",
                "push_turn nose-right",
            ),
            "Shift with an arrow",
        ),
        Key(("P",), "arrows and buttons push", ("arrows_push",)),
    ),
    "position",
)
SEAT_KEYS = KeyGroup(
    "Seats on Position",
    (
        Key(("S",), "settle the engine", ("settle",)),
        Key(("T",), "work out what each cut buys", ("work_out_trades",)),
        Key((".", ",", "A"), "next, last, take it", ("next_trade", "last_trade", "take_trade"), ".  ,  A"),
    ),
    "position",
)
GAP_KEYS = KeyGroup(
    "Gaps",
    (
        Key(("G", "Shift+G"), "next gap, last gap", ("next_gap", "last_gap")),
        Key(("W",), "working of the chosen gap", ("gap_work",)),
    ),
    "position",
)
