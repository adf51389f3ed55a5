"""Pages of the stage “week”."""

from goodcrate.web.week import choosing, planning, repeating, routes
from goodcrate.web.week.address import router

__all__ = ["choosing", "planning", "repeating", "router", "routes"]
