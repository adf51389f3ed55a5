"""What is outside: the barcode catalogue, its protocol and the stand-in that ships. Imports core only."""
