"""The week, its tape, planning, fitting and repeating. Imports services, core and the shared parts of web."""

from goodcrate.web.week import choosing, planning, repeating, routes, week_targets
from goodcrate.web.week.address import router

__all__ = ["choosing", "planning", "repeating", "router", "routes", "week_targets"]
