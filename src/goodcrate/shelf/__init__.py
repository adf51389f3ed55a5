"""The starter shelf: forty recipes of our own for a first week. Plain values, which know no other room.

Weights are invented for boxed meals and foods are keys of the reference table; liquid is listed, so that no cooked
weight has to be typed. One file per kind of meal; `all_recipes.SHELF` holds them all.
"""
