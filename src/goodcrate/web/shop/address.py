"""Where shopping is found."""

from fastapi import APIRouter

from goodcrate.web.again import AgainRoute

router = APIRouter(prefix="/shop", route_class=AgainRoute)
