"""Lists from outside: typed cells, lists whose first row names their columns, and what the rows of a parts list say.

``cells`` · ``titled`` · ``intake`` · ``titles`` · ``neutral`` · ``placements``
"""
