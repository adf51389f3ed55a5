"""Pages of the household's data as a whole: its archive out and in. Imports services, core and shared parts of web."""

from goodcrate.web.archive.routes import router

__all__ = ["router"]
