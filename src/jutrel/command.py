"""Where the command line begins: it loads everything, then does what it was asked."""

from __future__ import annotations

import gc
import sys


def main() -> None:
    """Run the command line; a catalog that cannot be read is told with file, line and field.

    Nothing of what is loaded becomes garbage, so it is not looked for meanwhile.
    """
    gc.disable()
    from jutrel.catalog.files import BadFile
    from jutrel.cli import app

    gc.freeze()
    gc.enable()
    app.pretty_exceptions_enable = False
    try:
        app()
    except BadFile as error:
        print(error, file=sys.stderr)
        sys.exit(2)
