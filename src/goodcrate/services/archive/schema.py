"""The archive's published JSON Schemas (docs/formats): the manifest, the household, and a line of each table."""

import json
from collections.abc import Mapping

from goodcrate.core.ground.document import Document
from goodcrate.formats.archive.container import ARCHIVE_FORMAT, Manifest
from goodcrate.services.archive.tables import household_shape, shapes

_DRAFT = {"$schema": "https://json-schema.org/draft/2020-12/schema"}


def schema_texts() -> Mapping[str, str]:
    """By name, as they stand in `docs/formats/`. The number in a name is the archive's format: another set of columns
    is another number."""
    lines: Document = {
        **_DRAFT,
        "title": f"Good Crate archive, format {ARCHIVE_FORMAT}: household.json, and a line of data/<table>.jsonl",
        "$defs": {"household": household_shape().schema(), **{name: s.schema() for name, s in shapes().items()}},
    }
    manifest: Document = {**_DRAFT, **Manifest.model_json_schema()}
    texts = {f"archive-{ARCHIVE_FORMAT}": lines, f"archive-{ARCHIVE_FORMAT}-manifest": manifest}
    return {name: json.dumps(schema, indent=1, ensure_ascii=False) + "\n" for name, schema in texts.items()}
