"""Document to light on film: arrays, Embree scenes, compiled kernels."""
