"""The built front end: files as they were built, compressed where the browser takes that."""

from __future__ import annotations

import re
from pathlib import Path

from fastapi.responses import FileResponse, Response
from starlette.types import Scope

from jutrel.api.door import problem
from jutrel.core.wording import say

CODINGS = (("br", ".br"), ("gzip", ".gz"))
TYPES = {
    ".html": "text/html; charset=utf-8",
    ".js": "text/javascript",
    ".css": "text/css",
    ".svg": "image/svg+xml",
    ".json": "application/json",
    ".webmanifest": "application/manifest+json",
    ".woff2": "font/woff2",
    ".png": "image/png",
    ".txt": "text/plain; charset=utf-8",
}


class FrontEnd:
    """The files under one folder, and the single page for every other address."""

    def __init__(self, folder: Path) -> None:
        self.folder = folder.resolve()

    def answer(self, scope: Scope, path: str, accepts: str) -> Response:
        """What an address gets."""
        if "\x00" in path or len(path) > 500:
            return problem(scope, 404, "no-page", say("There is no such page."))
        file = (self.folder / path).resolve()
        if path and file.suffix in TYPES and self.folder in file.parents and file.is_file():
            forever = path.startswith("assets/")
            return self._file(file, accepts, "public, max-age=31536000, immutable" if forever else "no-cache")
        # A defect's id ends with a dot and a number: its page is not a file, and the code on its tag leads there.
        if path.startswith("assets/") or re.search(r"\.[A-Za-z]\w*$", path.rsplit("/", 1)[-1]):
            return problem(scope, 404, "no-page", say("There is no such file."))
        index = self.folder / "index.html"
        if not index.exists():
            return problem(scope, 404, "no-web", say("The front end is not built: run `make demo`."))
        return self._file(index, accepts, "no-cache")

    def _file(self, file: Path, accepts: str, keep: str) -> Response:
        headers = {"Cache-Control": keep, "Vary": "Accept-Encoding"}
        taken = {part.split(";")[0].strip() for part in accepts.split(",")}
        for coding, suffix in CODINGS:
            beside = file.with_name(file.name + suffix)
            if coding in taken and beside.is_file():
                headers["Content-Encoding"] = coding
                return FileResponse(beside, headers=headers, media_type=TYPES[file.suffix])
        return FileResponse(file, headers=headers, media_type=TYPES[file.suffix])
