"""The film's arrays as compiled views, by their names there: each function takes the packed table's address."""

from nocturne.engine.kernels.jit import film

globals().update(film)
