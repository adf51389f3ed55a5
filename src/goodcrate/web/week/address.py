"""The one router of the week."""

from fastapi import APIRouter

from goodcrate.web.again import AgainRoute

router = APIRouter(prefix="/week", route_class=AgainRoute)
