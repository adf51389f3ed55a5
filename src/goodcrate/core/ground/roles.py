"""What a person of a household may do."""

OWNER, COOK, EATER = ROLES = ("owner", "cook", "eater")
"""The owner does all, the people and the whole data too; a cook all but that; an eater sees their own day and says what
became of their own boxes."""
