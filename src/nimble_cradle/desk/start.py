"""Starting the window: on the screen there is, or on a virtual one; on the demo, on a file, or for
pictures."""

from __future__ import annotations

import atexit
import ctypes
import os
import resource
import shutil
import subprocess
import sys
import tempfile
from pathlib import Path
from typing import TYPE_CHECKING

from nimble_cradle.demo import DEMOS, write_demo
from nimble_cradle.desk.opened import begin_desk, open_desk
from nimble_cradle.desk.own_demo import demo_file
from nimble_cradle.desk.window_picture import picture, settle
from nimble_cradle.job.base import JobError
from nimble_cradle.workers import rest

if TYPE_CHECKING:
    from PyQt6.QtWidgets import QApplication

    from nimble_cradle.design.begin import Answers


def ensure_screen(last: bool = False) -> None:
    """Where there is no screen, start a virtual one and use it. Raises JobError where none can be had.

    It ends with its last window, or with ``last`` when this program ends (for one window after another).
    """
    if os.environ.get("WAYLAND_DISPLAY"):
        return
    if os.environ.get("DISPLAY"):
        _reach(os.environ["DISPLAY"])
        return
    if shutil.which("Xvfb") is None:
        raise JobError("There is no screen and no Xvfb to stand in for one; install the package xvfb.")
    read, write = os.pipe()
    server = subprocess.Popen(
        [
            "Xvfb",
            "-displayfd",
            str(write),
            "-screen",
            "0",
            "1280x800x24",
            "-nolisten",
            "tcp",
            *([] if last else ["-terminate"]),
        ],
        pass_fds=(write,),
        stdout=subprocess.DEVNULL,
        stderr=subprocess.DEVNULL,
    )
    if last:
        atexit.register(server.terminate)
    os.close(write)
    with os.fdopen(read) as stream:
        number = stream.readline().strip()
    if not number:
        raise JobError("The virtual screen (Xvfb) did not start.")
    os.environ["DISPLAY"] = f":{number}"
    print(f"No screen here: the window is on the virtual screen :{number}.", file=sys.stderr)


def _reach(display: str) -> None:
    """Raises JobError where the X display does not answer: the toolkit would end the program."""
    try:
        xcb = ctypes.CDLL("libxcb.so.1")
    except OSError:
        return  # it cannot be asked; the toolkit will tell
    xcb.xcb_connect.restype = ctypes.c_void_p
    xcb.xcb_connection_has_error.argtypes = xcb.xcb_disconnect.argtypes = (ctypes.c_void_p,)
    connection = xcb.xcb_connect(display.encode(), None)
    refused = xcb.xcb_connection_has_error(connection)
    xcb.xcb_disconnect(connection)
    if refused:
        raise JobError(
            f"The display “{display}” cannot be reached. Log in at the screen, or leave DISPLAY empty for a"
            " virtual one."
        )


def application() -> QApplication:
    """The application, dressed."""
    os.environ.setdefault("QT_ENABLE_HIGHDPI_SCALING", "1")
    if os.environ.get("DISPLAY") and not os.environ.get("WAYLAND_DISPLAY"):
        os.environ.setdefault("QT_QPA_PLATFORM", "xcb")
    from PyQt6.QtWidgets import QApplication

    from nimble_cradle.desk.kit.style import dress

    app = QApplication.instance()
    if not isinstance(app, QApplication):
        app = QApplication(["nimble-cradle"])
        dress(app)
    app.setApplicationName("Nimble Cradle")
    return app


def run_demo(name: str, stage: str, shot: Path | None, fresh: bool = False) -> int:
    """Open a demo job; with ``shot`` take a picture of a fresh one and leave."""
    ensure_screen()
    app = application()
    if shot is not None:
        with tempfile.TemporaryDirectory() as folder:
            desk = open_desk(write_demo(name, Path(folder) / f"{name}.cradle"), stage)
            settle(app)
            desk.session.wait_first()
            settle(app)
            picture(desk, shot)
            desk.finish()
        return 0
    return _until_closed(app, demo_file(name, fresh), stage)


def run_file(path: Path) -> int:
    """Open a job file."""
    ensure_screen()
    app = application()
    return _until_closed(app, path)


def run_start() -> int:
    """The start page; from there jobs of one's own and the demos."""
    ensure_screen()
    app = application()
    from nimble_cradle.desk.fault import Faults
    from nimble_cradle.desk.start_window import StartWindow

    faults = Faults()
    faults.catch()
    window = StartWindow(open_desk, begin_desk, lambda name: open_desk(demo_file(name)))
    window.show()
    code = app.exec()
    rest()
    return code


def run_new(path: Path, answers: Answers) -> int:
    """Begin a job and open it."""
    ensure_screen()
    app = application()
    from nimble_cradle.design.begin import write_new_job

    write_new_job(path, answers)
    return _until_closed(app, path, "survey")


def _until_closed(app: QApplication, path: Path, stage: str = "position") -> int:
    from nimble_cradle.desk.fault import Faults

    faults = Faults()
    faults.catch()
    desk = open_desk(path, stage)
    if os.environ.get("NIMBLE_CRADLE_READY"):
        from PyQt6.QtCore import QTimer

        def tell() -> None:
            """For the bench: the first picture stands, so say so with the memory used, and leave."""
            settle(app, 0.0)
            print(f"ready {resource.getrusage(resource.RUSAGE_SELF).ru_maxrss // 1024}", flush=True)
            desk.finish()
            app.quit()

        QTimer.singleShot(0, tell)
    code = app.exec()
    rest()
    return code


def run_shots(folder: Path) -> int:
    """One PNG of every main view from the demo jobs, and of the start page. What the user keeps is not
    touched."""
    ensure_screen()
    with tempfile.TemporaryDirectory() as own:
        os.environ["XDG_DATA_HOME"] = own
        app = application()
        from nimble_cradle.desk.shots import HATCHBACK, TRUCK, take, take_door

        for name, shots in zip(DEMOS, (TRUCK, HATCHBACK), strict=True):
            desk = open_desk(write_demo(name, Path(own) / f"{name}.cradle"))
            for path in take(app, desk, shots, folder):
                print(path)
            desk.session.place.count_as_saved()
            desk.close()
        for path in take_door(app, folder, Path(own)):
            print(path)
    return 0
