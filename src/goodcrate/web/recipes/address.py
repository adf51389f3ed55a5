"""The one router of recipes; files and library put their pages on it first, `/recipes/{id}` comes last."""

from fastapi import APIRouter

router = APIRouter(prefix="/recipes")
