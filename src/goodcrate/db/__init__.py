"""Tables, queries and migrations. Knows core's value types and maps rows to them; nothing above is known here."""
