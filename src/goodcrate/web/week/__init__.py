"""Pages of the stage “week”."""

from goodcrate.web.week import choosing, planning, routes
from goodcrate.web.week.address import router

__all__ = ["choosing", "planning", "router", "routes"]
