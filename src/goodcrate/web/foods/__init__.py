"""Finding, comparing, labels, measures, foods as files. Imports services, core and the shared parts of web."""

from goodcrate.web.foods import exchange, label, routes
from goodcrate.web.foods.address import router

__all__ = ["exchange", "label", "router", "routes"]
