"""Pages of the stage “recipes”."""

from goodcrate.web.recipes import files, library, routes, sizing
from goodcrate.web.recipes.address import router

__all__ = ["files", "library", "router", "routes", "sizing"]
