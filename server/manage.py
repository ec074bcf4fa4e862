#!/usr/bin/env python3
"""The command line from a checkout; installed it is called ``round-tally``."""

from tally_site.command import main

if __name__ == "__main__":
    main()
