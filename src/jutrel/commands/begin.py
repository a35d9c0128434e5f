"""Where the command line begins: it loads everything, then does what it was asked."""

from __future__ import annotations

import gc
import sys
from collections.abc import Sequence


def main() -> None:
    """Run the command line. Nothing of what is loaded becomes garbage, so it is not looked for meanwhile."""
    gc.disable()
    import jutrel.commands.main  # noqa: F401

    gc.freeze()
    gc.enable()
    sys.exit(main_with(sys.argv[1:]))


def main_with(arguments: Sequence[str]) -> int:
    """What a command gives back; a catalog that cannot be read is told with file, line and field."""
    from jutrel.catalog.files import BadFile
    from jutrel.commands.main import app

    app.pretty_exceptions_enable = False
    try:
        app(arguments, prog_name="jutrel")
    except BadFile as error:
        print(error, file=sys.stderr)
        return 2
    except SystemExit as done:
        return done.code if isinstance(done.code, int) else int(done.code is not None)
    return 0
