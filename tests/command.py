"""The command line, run in this process: to load it anew for each test costs more than what is tried."""

from __future__ import annotations

import io
from contextlib import redirect_stderr, redirect_stdout
from dataclasses import dataclass

from jutrel.commands.begin import main_with


@dataclass(frozen=True)
class Done:
    """What a command did: what it gave back, printed and complained of."""

    returncode: int
    stdout: str
    stderr: str


def run(*arguments: str) -> Done:
    """Run `jutrel` with these arguments."""
    out, err = io.StringIO(), io.StringIO()
    with redirect_stdout(out), redirect_stderr(err):
        code = main_with(list(arguments))
    return Done(code, out.getvalue(), err.getvalue())
