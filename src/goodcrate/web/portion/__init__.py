"""The pot on the scale, divided into boxes. Imports services, core and the shared parts of web."""

from fastapi import APIRouter

from goodcrate.web.portion import labels, outcome, routes
from goodcrate.web.portion.address import router as benches

router = APIRouter()
router.include_router(benches)
router.include_router(labels.boxes)

__all__ = ["labels", "outcome", "router", "routes"]
