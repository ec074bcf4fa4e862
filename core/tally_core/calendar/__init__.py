"""Work laid on days: shifts and moments, networks of steps, the longest path.

``calendars`` · ``schedule`` · ``critical_path``
"""
