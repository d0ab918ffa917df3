"""Nimble Cradle: puts an engine and gearbox into a chassis that never had them.

The core (everything but ``desk``) computes; it never imports a window toolkit. See docs/architecture.md.
"""

import os

os.environ.setdefault(
    "OPENBLAS_NUM_THREADS", "1"
)  # the matrices here are small: more threads only wait for one another, and take cores from the workers
os.environ.setdefault("PYDANTIC_DISABLE_PLUGINS", "__all__")
# none is looked for: it takes 20 ms of every start, and nothing of the machine's comes between a job and its
# checks
__version__ = "0.1.0"
