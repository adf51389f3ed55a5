"""Load, let core compute, save; one transaction per call. Used by web and command line alike.

One room for each stage of the work. `calling`, `accounts` and `kitchen` are what all of them stand on; each knows those
before it, and the week also what is in the house.
"""
