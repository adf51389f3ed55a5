"""The one router of recipes; files and library put their pages on it first, `/recipes/{id}` comes last."""

from fastapi import APIRouter

from goodcrate.web.again import AgainRoute

router = APIRouter(prefix="/recipes", route_class=AgainRoute)
