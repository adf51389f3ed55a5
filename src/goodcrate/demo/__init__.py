"""The demo household, the Lockside boat, as data; loaded through the services like anybody's own."""
