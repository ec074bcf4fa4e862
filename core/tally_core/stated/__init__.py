"""What is stated of parts, sheets and work centers: the records, how they are read, checked, written and compared.

``definition`` · ``classes`` · ``numbering`` · ``records`` · ``reading`` · ``bundle_schema`` · ``bundle`` · ``compare``
"""
