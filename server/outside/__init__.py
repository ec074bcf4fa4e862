"""Services outside: one file for each kind of interface, and nothing in it but how that is spoken to."""
