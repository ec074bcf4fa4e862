"""A sender's line and a part of ours: what texts say read as values, how two compare, and which pairs are proposed.

``kinds`` · ``values`` · ``describe`` · ``compare`` · ``numbers`` · ``propose``
"""
