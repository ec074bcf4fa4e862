"""The rules of the job: what a made part takes and what it costs.

Nothing here knows of a web framework, a database, a file or a screen. The floors of the package, from below: ``basics``,
``calendar``, ``stated``, ``structure``, ``cost``, ``time``, ``checks``, ``lists``. The way through it: ``stated`` holds a definition as
plain records; ``structure`` turns one into columns, applies a basis (day and options) and orders the parts; ``cost`` computes,
and takes any figure apart again. The rule numbers (U1, N1, C1 ...) are those of ``docs/arithmetic.md``.
"""
