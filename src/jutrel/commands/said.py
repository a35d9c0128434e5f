"""What commands share: how they say no, and how they read and print a document."""

from __future__ import annotations

import json
import sys
from collections.abc import Callable
from pathlib import Path
from typing import Any

import typer

from jutrel.core.errors import BadInput


def fail(says: str) -> typer.Exit:
    """Say what is wrong, and end with 2."""
    typer.echo(says, err=True)
    return typer.Exit(2)


def as_json_text(document: object) -> None:
    """Print a document as JSON."""
    json.dump(document, sys.stdout, indent=2, ensure_ascii=False)
    sys.stdout.write("\n")


def document_of(file: Path, work: Callable[[dict[str, Any]], dict[str, Any]]) -> None:
    """Read a JSON document, do something with it and print what comes out; says plainly what is wrong with it."""
    try:
        document = json.loads(file.read_text(encoding="utf-8"))
        if not isinstance(document, dict):
            raise BadInput("file", "the document is not an object")
        out = work(document)
    except OSError as error:
        raise fail(f"{file}: {error.strerror}") from None
    except (json.JSONDecodeError, UnicodeDecodeError) as error:
        raise fail(f"{file}: is not JSON: {error}") from None
    except BadInput as error:
        raise fail(f"{file}: {error}") from None
    as_json_text(out)
