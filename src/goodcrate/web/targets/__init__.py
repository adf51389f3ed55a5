"""Eaters, their days and slots. Imports services, core and the shared parts of web."""

from goodcrate.web.targets.routes import router

__all__ = ["router"]
