"""The keys of the window: menus are made from them, and F1 shows them with those of the stages."""

from __future__ import annotations

from dataclasses import dataclass

from nimble_cradle.cures.cures import MOST
from nimble_cradle.desk.bay_view.standpoints import STANDPOINTS
from nimble_cradle.desk.kit.keymap import FREE, Key, KeyGroup
from nimble_cradle.desk.stages import stage_desks
from nimble_cradle.judge.stages import STAGES


@dataclass(frozen=True)
class MenuRow:
    """A row of a menu. act: as of a ``Key``, a method of the window. also: the same key on other
    keyboards."""

    menu: str
    text: str
    key: str
    act: str
    also: str = ""


def stage_keys() -> dict[str, str]:
    """The function key of every stage, from F2 on; keys that the desktop needs are left out."""
    numbers = [f"F{n}" for n in range(2, 36) if f"F{n}" not in FREE]
    return {stage.id: key for stage, key in zip(STAGES, numbers, strict=False)}


def menu_rows() -> tuple[MenuRow, ...]:
    """Every row of the window's menus, in order."""
    stages = stage_keys()
    return (
        MenuRow("&Job", "New job …", "Ctrl+N", "ask_new"),
        MenuRow("&Job", "Open …", "Ctrl+O", "ask_open"),
        MenuRow("&Job", "Save", "Ctrl+S", "save"),
        MenuRow("&Job", "Save as …", "Ctrl+Shift+S", "ask_save_as"),
        MenuRow("&Job", "Write the shop pack …", "Ctrl+P", "write_pack"),
        MenuRow("&Job", "Close", "Ctrl+Q", "close"),
        MenuRow("&Change", "Undo", "Ctrl+Z", "undo"),
        MenuRow("&Change", "Redo", "Ctrl+Shift+Z", "redo"),
        MenuRow("&Change", "What would cure it", "Ctrl+K", "find_cures"),
        *(MenuRow("&Change", f"Take cure {k}", f"Alt+{k}", f"take_cure {k}") for k in range(1, MOST + 1)),
        *(MenuRow("&Show", f"Stage: {stage.name}", stages[stage.id], f"go {stage.id}") for stage in STAGES),
        *(
            MenuRow("&Show", f"Look: {name}", f"Ctrl+{k}", f"stand {point}")
            for k, (point, (name, _, _)) in enumerate(STANDPOINTS.items(), start=1)
        ),
        MenuRow("&Show", "Chosen bright, the rest faint", "Ctrl+B", "turn_focus"),
        MenuRow("&Show", "Taped sizes, drawn plain", "Ctrl+D", "turn_taped"),
        MenuRow("&Show", "Tape between two places", "Ctrl+T", "turn_tape"),
        MenuRow("&Show", "Wider sheet", "Alt+Left", "widen_sheet"),
        MenuRow("&Show", "Narrower sheet", "Alt+Right", "narrow_sheet"),
        MenuRow("&Show", "Larger text", "Ctrl++", "text_size 1", "Ctrl+="),
        MenuRow("&Show", "Smaller text", "Ctrl+-", "text_size -1"),
        MenuRow("&Show", "Usual text", "Ctrl+0", "text_size 0"),
        MenuRow("&Show", "Light, dark, bright sheet in turn", "Ctrl+L", "next_hall"),
        MenuRow("&Show", "Large controls for gloves", "Ctrl+G", "turn_gloves"),
        MenuRow("&Show", "Millimetres, inches, fractions in turn", "Ctrl+U", "turn_units"),
        MenuRow("&Help", "Help for this page, all keys", "F1", "show_keys"),
        MenuRow("&Help", "A short tour, in the demo", "Shift+F1", "take_tour"),
    )


def window_groups() -> tuple[KeyGroup, ...]:
    """The window's keys as the page of keys shows them."""
    stages = list(stage_keys().values())
    looks = tuple(f"Ctrl+{k}" for k in range(1, len(STANDPOINTS) + 1))
    return (
        KeyGroup(
            "Stages",
            (
                Key(
                    tuple(stages), f"{STAGES[0].name} … {STAGES[-1].name}", (), f"{stages[0]} … {stages[-1]}"
                ),
                Key(("Tab", "Shift+Tab"), "next field, last field"),
                Key(("Return",), "take what was typed", (), "Enter"),
                Key(("Esc",), "put back what was there, put the working away"),
            ),
        ),
        KeyGroup(
            "Look",
            (
                Key(
                    looks,
                    "driver's side, passenger's side, over the bonnet, front, underneath, front corner",
                    (),
                    "Ctrl 1 … Ctrl 6",
                ),
                Key((), "turn freely, come nearer", (), "Drag, wheel"),
                Key((), "drag the engine along one way of the car", (), "Shift and drag"),
                Key((), "pull a face of a thing or piece out or in", (), "Ctrl and drag"),
                Key(("Ctrl+B", "Ctrl+T"), "chosen bright and the rest faint; tape between two places"),
                Key(("Ctrl+D",), "taped sizes, drawn plain"),
                Key(("Alt+Left", "Alt+Right"), "wider sheet, narrower sheet"),
                Key(
                    ("Ctrl++", "Ctrl+-", "Ctrl+0"),
                    "larger, smaller, usual text",
                    (),
                    "Ctrl +, Ctrl -, Ctrl 0",
                ),
                Key(("Ctrl+L", "Ctrl+G"), "light, dark, bright sheet; large controls for gloves"),
            ),
        ),
        KeyGroup(
            "Job",
            (
                Key(("Ctrl+Z", "Ctrl+Shift+Z"), "undo, redo"),
                Key(("Ctrl+K",), "what would cure it"),
                Key(tuple(f"Alt+{k}" for k in range(1, MOST + 1)), "take a cure", (), "Alt 1 … Alt 5"),
                Key(("Ctrl+S", "Ctrl+Shift+S"), "save, save as"),
                Key(("Ctrl+N", "Ctrl+O"), "new job, open a job"),
                Key(("Ctrl+U",), "mm, inches, 1/16, 1/32"),
                Key(("Ctrl+P", "Ctrl+Q"), "write the shop pack, close"),
                Key(("F1", "Shift+F1"), "help and keys, a short tour"),
            ),
        ),
    )


def every_group() -> tuple[KeyGroup, ...]:
    """All keys there are: of the stages in their order, then of the window."""
    return (*(group for desk in stage_desks().values() for group in desk.keys), *window_groups())
