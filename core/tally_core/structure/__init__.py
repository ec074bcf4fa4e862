"""A definition as columns, and what a basis makes of it: which lines count, what they take, what is needed.

``tables`` · ``tabulate`` · ``rates`` · ``overlay`` · ``effectivity`` · ``options`` · ``loops`` · ``structure`` · ``needs`` · ``rolled_fields`` · ``buildable`` · ``to_order``
"""
