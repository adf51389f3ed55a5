"""Pages of the stage “cook”."""

from goodcrate.web.cook import kitchen, routes
from goodcrate.web.cook.address import router

__all__ = ["kitchen", "router", "routes"]
