"""Pages of the stage “foods”."""

from goodcrate.web.foods import exchange, label, routes
from goodcrate.web.foods.address import router

__all__ = ["exchange", "label", "router", "routes"]
