"""The one router of foods; label, exchange and routes put their pages on it, `/foods/{key}` last."""

from fastapi import APIRouter

router = APIRouter(prefix="/foods")
