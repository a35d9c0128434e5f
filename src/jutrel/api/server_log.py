"""What the server writes to its log: one line of JSON for each thing that went wrong."""

from __future__ import annotations

import json
import logging
import sys
from datetime import UTC, datetime

log = logging.getLogger("jutrel")


class JsonLine(logging.Formatter):
    """A record as one line: what happened, how bad, when, what it was about, and where it was raised."""

    def format(self, record: logging.LogRecord) -> str:
        """The line, without its end."""
        line = {
            "event": record.getMessage(),
            "level": record.levelname.lower(),
            "timestamp": datetime.fromtimestamp(record.created, UTC).isoformat(),
            **getattr(record, "about", {}),
        }
        if record.exc_info:
            line["exception"] = self.formatException(record.exc_info)
        return json.dumps(line, ensure_ascii=False)


def log_plainly() -> None:
    """Write lines to standard output, once however often it is asked for."""
    if not log.handlers:
        handler = logging.StreamHandler(sys.stdout)
        handler.setFormatter(JsonLine())
        log.addHandler(handler)
        log.propagate = False
