"""A document: words, figures and lists by name, as it is stored or sent. Whoever knows its format reads it by name."""

from collections.abc import Mapping
from typing import Any

Document = dict[str, Any]
ReadDocument = Mapping[str, Any]
