"""Nimble Cradle: puts an engine and gearbox into a chassis that never had them.

The core (everything but ``desk``) computes; it never imports a window toolkit. See docs/architecture.md.
"""

__version__ = "0.1.0"
