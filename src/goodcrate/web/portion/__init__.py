"""The pot on the scale, divided into boxes. Imports services, core and the shared parts of web."""

from goodcrate.web.portion.routes import router

__all__ = ["router"]
