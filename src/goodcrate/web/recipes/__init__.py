"""The library and the recipe bench. Imports services, core and the shared parts of web."""

from goodcrate.web.recipes import files, from_shelf, library, routes, sizing
from goodcrate.web.recipes.address import router

__all__ = ["files", "from_shelf", "library", "router", "routes", "sizing"]
