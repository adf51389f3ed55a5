"""The week’s shopping list. Imports services, core and the shared parts of web."""

from goodcrate.web.shop.routes import router

__all__ = ["router"]
