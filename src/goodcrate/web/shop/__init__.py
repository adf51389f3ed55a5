"""The week’s shopping list, its foods, the pantry. Imports services, core and the shared parts of web."""

# Addresses are tried in this order: those of one word before those of a day.
from goodcrate.web.shop import offline, pantry, routes, shelf_food
from goodcrate.web.shop.address import router

__all__ = ["offline", "pantry", "router", "routes", "shelf_food"]
