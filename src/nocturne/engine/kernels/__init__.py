"""Compiled kernels: light transport on the arrays declared in `nocturne.engine.types`."""
