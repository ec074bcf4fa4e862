"""What can be wrong in a definition: one short rule for each, over columns of all sheets at once.

``checks`` · ``survey``
"""
