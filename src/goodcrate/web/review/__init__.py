"""A week looked back on, weeks over time, body weight. Imports services, core and the shared parts of web."""

# Addresses are tried in this order: those of one word before those of a day.
from goodcrate.web.review import routes, weight
from goodcrate.web.review.address import router

__all__ = ["router", "routes", "weight"]
