"""What it costs, what each figure is made of, what moves it and what moved it.

``cost`` · ``answers`` · ``other_charges`` · ``lot_curve`` · ``sensitivity`` · ``causes`` · ``working`` with ``working_basics``, ``working_of_fields``,
``working_of_moves``, ``working_of_work``
"""
