"""The scene's arrays as compiled views, by the names of `SCENE`: each function takes the packed table's address."""

from nocturne.engine.kernels.jit import scene

globals().update(scene)
