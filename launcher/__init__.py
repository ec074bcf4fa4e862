"""What ``./tally`` does; it needs nothing but Python 3.11 and installs the rest."""
