"""Where the pages of portioning are."""

from fastapi import APIRouter

from goodcrate.web.again import AgainRoute

router = APIRouter(prefix="/portion", route_class=AgainRoute)
