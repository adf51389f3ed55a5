"""A weighed pot into boxes, and the week as it then stands. Imports cook and below."""
