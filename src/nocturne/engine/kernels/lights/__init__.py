"""One file for each kind of light: how it is sampled, with what density, and what it sends.

Kinds with a surface or a place have `sample` and, where rays can hit them, `density`; kinds at infinity have `sample`
and `seen`. `units` makes dispatchers from the table of kinds.
"""
