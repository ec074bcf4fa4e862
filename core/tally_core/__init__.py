"""The rules of the job: what a made part takes and what it costs.

Nothing here knows of a web framework, a database, a file or a screen. The way through the package:

``bundle`` or ``definition`` hold a definition as plain records; ``tabulate`` turns one into columns;
``structure`` applies a basis (day and options) and orders the parts; ``needs`` and ``cost`` compute; ``working``
takes any figure apart again. The rule numbers (U1, N1, C1 ...) are those of ``docs/arithmetic.md``.
"""
