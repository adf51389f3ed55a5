"""Pages of a household's people, for its owner. Imports services, core and the shared parts of web."""

from goodcrate.web.people.routes import router

__all__ = ["router"]
