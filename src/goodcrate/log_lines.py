"""The log: warnings and errors as text, or all of it and each request as lines of JSON."""

import json
import logging
import time
from typing import Any

REQUESTS = "goodcrate.requests"
"""The logger of requests."""


class JsonLines(logging.Formatter):
    """Log records as lines of JSON: time, level, logger, words, and what a record was told besides."""

    def format(self, record: logging.LogRecord) -> str:
        """One record as one line."""
        line: dict[str, Any] = {
            "at": f"{self.formatTime(record, '%Y-%m-%dT%H:%M:%S')}.{int(record.msecs):03d}",
            "level": record.levelname,
            "from": record.name,
            "words": record.getMessage(),
            **getattr(record, "told", {}),
        }
        if record.exc_info:
            line["trace"] = self.formatException(record.exc_info)
        return json.dumps(line, ensure_ascii=False)


def log_to(how: str) -> None:
    """Set the log up: `text` says warnings and errors, `json` each request as well, a line each."""
    if how == "json":
        handler = logging.StreamHandler()
        JsonLines.converter = time.gmtime
        handler.setFormatter(JsonLines())
        logging.basicConfig(level=logging.WARNING, handlers=[handler])
        logging.getLogger(REQUESTS).setLevel(logging.INFO)
    else:
        logging.basicConfig(level=logging.WARNING, format="%(asctime)s %(levelname)s %(name)s: %(message)s")
