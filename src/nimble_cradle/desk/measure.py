"""Measures the window with a large scan, in a process of its own: import to the first picture, frames while
turning, memory. For ``bench``.

python -m nimble_cradle.desk.measure SCAN.ply
"""

from __future__ import annotations

import json
import resource
import sys
import tempfile
import time
from pathlib import Path

from nimble_cradle.demo import write_demo
from nimble_cradle.desk.start import application, ensure_screen
from nimble_cradle.desk.window_picture import settle


def measure(scan: Path) -> dict[str, float]:
    """Seconds from a scan's import to its first picture, frames a second while the view turns, and the
    most memory, MB."""
    ensure_screen()
    app = application()
    from nimble_cradle.desk.stages.survey.scan import ScanRoom
    from nimble_cradle.desk.stages.survey.sheet import SurveySheet
    from nimble_cradle.desk.window import Desk
    from nimble_cradle.job.open_job import OpenJob

    with tempfile.TemporaryDirectory() as work:
        desk = Desk(OpenJob(write_demo("light-truck", Path(work) / "j.cradle")))
        desk.show()
        settle(app, 1.0)
        desk.session.wait_first()
        desk.go("survey")
        sheet = desk.sheets["survey"]
        assert isinstance(sheet, SurveySheet)
        sheet.rooms.go("scans")
        room = sheet.rooms.present
        assert isinstance(room, ScanRoom)
        settle(app, 1.0)
        began = time.perf_counter()
        room.bring(scan, "mm")
        while room.working:
            app.processEvents()
            time.sleep(0.005)
        desk.view._draw()
        first = time.perf_counter() - began
        settle(app, 2.0)
        began = time.perf_counter()
        for _ in range(40):
            desk.view.renderer.GetActiveCamera().Azimuth(2)
            desk.view._draw()
        frames = 40 / (time.perf_counter() - began)
        desk.session.place.count_as_saved()
        desk.close()
    return {
        "first picture, s": round(first, 2),
        "frames a second": round(frames, 1),
        "memory, MB": round(resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024),
    }


if __name__ == "__main__":
    print(json.dumps(measure(Path(sys.argv[1]))))
