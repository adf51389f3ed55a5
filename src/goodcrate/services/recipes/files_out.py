"""Recipes as one file for other programs."""

import json
from uuid import UUID

from pydantic import ValidationError

from goodcrate.core.ground.document import Document
from goodcrate.formats.recipe_document import PortableRecipe
from goodcrate.formats.recipe_jsonld import archive_of, jsonld_of
from goodcrate.services.calling import Caller
from goodcrate.services.recipes import broken, library
from goodcrate.services.recipes.library import RecipePage


def portable(saved: RecipePage) -> PortableRecipe:
    """A saved recipe with what is said of it, as it travels."""
    return PortableRecipe(saved.recipe, saved.note, saved.tags)


def node_of(saved: RecipePage) -> Document | None:
    """The recipe's JSON-LD; None for one that cannot be computed, or holds what no document may."""
    try:
        return None if saved.broken else jsonld_of(portable(saved))
    except ValidationError:
        return None


def all_as_jsonld(caller: Caller) -> str:
    """Every recipe as one JSON-LD graph; beside it, as stored, those that make no document."""
    nodes, as_stored = [], []
    for saved in library.list_recipes(caller):
        node = node_of(saved)
        if node is None:
            as_stored.append(broken.stored(caller, UUID(saved.recipe.key)))
        else:
            nodes.append(node)
    return json.dumps(archive_of(nodes, as_stored), default=str, ensure_ascii=False)
