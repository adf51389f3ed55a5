"""The household's settings: name, money, cups and spoons. Imports services, core and the shared parts of web."""

from goodcrate.web.settings.routes import router

__all__ = ["router"]
