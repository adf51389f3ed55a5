"""Run sheets, batches to weigh in, and the kitchen’s pots. Imports services, core and the shared parts of web."""

from goodcrate.web.cook import kitchen, now, routes, sheet, weighing
from goodcrate.web.cook.address import router

__all__ = ["kitchen", "now", "router", "routes", "sheet", "weighing"]
