"""Where the command line begins: it loads everything, then does what it was asked."""

from __future__ import annotations

import gc


def main() -> None:
    """Run the command line. Nothing of what is loaded becomes garbage, so it is not looked for meanwhile."""
    gc.disable()
    from jutrel.cli import app

    gc.freeze()
    gc.enable()
    app()
