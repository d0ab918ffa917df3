"""Takes out of an environment what no line of this program loads of the two largest libraries it uses: parts
of the window toolkit (engines for web, quick and 3-D scenes, films, translations) and of the visualisation
library. Called by ``./run`` with the environment's own Python, right after it was set up; never for any
other.

python tools/lean.py
"""

from __future__ import annotations

import re
import subprocess
import sys
import sysconfig
from pathlib import Path

SITE = Path(sysconfig.get_paths()["purelib"])
SOURCE = Path(__file__).parent.parent / "src"
TESTED = ("PyQt6.QtTest",)
"""What only the tests load."""
PLUGINS = (
    "platforms",
    "platforminputcontexts",
    "platformthemes",
    "xcbglintegrations",
    "egldeviceintegrations",
    "imageformats",
    "iconengines",
    "styles",
    "wayland-decoration-client",
    "wayland-graphics-integration-client",
    "wayland-shell-integration",
)
"""Plugins of the window toolkit that a desktop may ask for; all that they are linked to stays too."""
LIBRARY = re.compile(r"\.so(\.\d+)*$")


def imported() -> list[str]:
    """Names of the modules of both libraries that the source imports."""
    text = "\n".join(p.read_text(encoding="utf-8") for p in SOURCE.rglob("*.py"))
    found = set(re.findall(r"(?:from|import) ((?:PyQt6|vtkmodules)\.[\w.]+)", text))
    return sorted({*found, *TESTED})


def loaded(modules: list[str]) -> set[Path]:
    """Shared libraries that a process has open once it has imported some modules."""
    code = (
        "import importlib, sys\n"
        "for m in sys.argv[1:]: importlib.import_module(m)\n"
        "print('\\n'.join({l.split()[-1] for l in open('/proc/self/maps') if '.so' in l}))"
    )
    done = subprocess.run([sys.executable, "-c", code, *modules], capture_output=True, text=True, check=True)
    return {Path(line).resolve() for line in done.stdout.split("\n") if line.startswith(str(SITE))}


def linked(files: list[Path]) -> set[Path]:
    """Shared libraries that files are linked to, all the way down, within the environment."""
    done = subprocess.run(["ldd", *map(str, files)], capture_output=True, text=True, check=False)
    found = re.findall(r"=> (\S+)", done.stdout)
    return {Path(f).resolve() for f in found if f.startswith(str(SITE))}


def lean() -> int:
    """Take the rest out; number of bytes that this saved."""
    qt = SITE / "PyQt6" / "Qt6"
    plugins = [f for name in PLUGINS for f in (qt / "plugins" / name).glob("*.so")]
    keep = loaded(imported()) | linked(plugins) | {p.resolve() for p in plugins}
    saved = 0
    for folder in (SITE / "vtkmodules", SITE / "PyQt6"):
        for file in folder.rglob("*"):
            library = file.is_file() and LIBRARY.search(file.name) is not None
            scenery = any((qt / name) in file.parents for name in ("qml", "translations", "metatypes"))
            if file.is_file() and (scenery or (library and file.resolve() not in keep)):
                saved += file.stat().st_size
                file.unlink()
    return saved


if __name__ == "__main__":
    print(f"run: {lean() / 1e6:.0f} MB of libraries that nothing here loads were taken out", file=sys.stderr)
