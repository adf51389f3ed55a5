"""The pot on the scale, divided into boxes. Imports services, core and the shared parts of web."""

from goodcrate.web.portion import labels, outcome, routes
from goodcrate.web.portion.address import router

__all__ = ["labels", "outcome", "router", "routes"]
