"""What to buy: needs less the house, in whole packs. Imports week and below."""
