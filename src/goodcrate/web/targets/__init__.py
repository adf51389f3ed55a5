"""Eaters, their days and slots. Imports services, core and the shared parts of web."""

from goodcrate.web.targets import first, routes
from goodcrate.web.targets.address import router

__all__ = ["first", "router", "routes"]
