"""Work laid on days: shifts and moments, networks of steps, the longest path.

``calendars`` · ``paces`` · ``schedule`` · ``critical_path``
"""
