"""``python -m nimble_cradle`` is the same as the ``nimble-cradle`` command."""

from nimble_cradle.cli.main import main

raise SystemExit(main())
