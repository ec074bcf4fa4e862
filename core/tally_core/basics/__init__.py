"""What everything else stands on: words of errors, units (U1, U2), rounding, cost elements, kinds, facts of fields, order of a network.

``errors`` · ``units`` · ``rounding`` · ``elements`` · ``kinds`` · ``facts`` · ``ordering``
"""
