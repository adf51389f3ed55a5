"""A day at the table, on a phone first, and the page of a box. Imports services, core and the shared parts of web."""

from fastapi import APIRouter

from goodcrate.web.today import box, calendar, routes

router = APIRouter()
router.include_router(routes.router)
router.include_router(box.router)
router.include_router(calendar.router)

__all__ = ["router"]
