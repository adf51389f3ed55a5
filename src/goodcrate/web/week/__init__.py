"""Pages of the stage “week”."""

from goodcrate.web.week import planning, routes
from goodcrate.web.week.address import router

__all__ = ["planning", "router", "routes"]
