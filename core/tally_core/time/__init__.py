"""How long it takes, over columns and without a day; what the shop reports of it.

``leadtime`` · ``measured``
"""
