"""What lies where in the rows that kernels read and write; modules, as compiled code takes constants from modules.

Each module describes its rows and holds their offsets in capitals. Of a pair of rows, whole numbers and floats of one
noun, no two parts share a name.
"""
