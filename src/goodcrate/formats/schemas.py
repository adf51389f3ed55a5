"""The published JSON Schemas of `crate compute …` (docs/formats)."""

import json

from pydantic import BaseModel

from goodcrate.formats.compute import DivideRequest, DivideResult, LabelRequest, LabelResult
from goodcrate.formats.compute_lines import LinesResult
from goodcrate.formats.compute_review import ReviewRequest, ReviewResult
from goodcrate.formats.compute_runsheet import RunSheetRequest, RunSheetResult
from goodcrate.formats.compute_serving import ServingResult
from goodcrate.formats.compute_shop import ShopRequest, ShopResult
from goodcrate.formats.compute_week import WeekRequest, WeekResult
from goodcrate.formats.serving_request import ServingRequest

SCHEMAS: dict[str, type[BaseModel]] = {
    "serving-request": ServingRequest,
    "serving-result": ServingResult,
    "lines-result": LinesResult,
    "week-request": WeekRequest,
    "week-result": WeekResult,
    "shop-request": ShopRequest,
    "shop-result": ShopResult,
    "review-request": ReviewRequest,
    "review-result": ReviewResult,
    "runsheet-request": RunSheetRequest,
    "runsheet-result": RunSheetResult,
    "label-request": LabelRequest,
    "label-result": LabelResult,
    "divide-request": DivideRequest,
    "divide-result": DivideResult,
}


def schema_text(name: str) -> str:
    """One published JSON Schema, as it stands in `docs/formats/`."""
    schema: dict[str, object] = {"$schema": "https://json-schema.org/draft/2020-12/schema"}
    schema |= SCHEMAS[name].model_json_schema(mode="serialization" if name.endswith("result") else "validation")
    return json.dumps(schema, indent=2, ensure_ascii=False) + "\n"
