"""Glass that parts colours: indices by wavelength, and wavelengths by chance."""

from nocturne.engine.kernels import tables as T
from nocturne.engine.kernels.jit import f4, i4, jit
from nocturne.engine.kernels.vectors import ONE, mixed

# Squared reciprocals of Fraunhofer's lines d, F and C, micrometres.
_D2 = 1 / 0.5875618**2
_SPAN = 1 / 0.4861327**2 - 1 / 0.6562725**2
D2, PER_SPAN = f4(_D2), f4(1 / _SPAN)
LAST = f4(256)


@jit
def dispersed_index(ior, amount, wave):
    """Return the index at a wavelength, micrometres, of glass of index `ior` at line d (Cauchy; OpenPBR 1.1).

    amount: 1 over the Abbe number.
    """
    return ior + (ior - ONE) * amount * (ONE / (wave * wave) - D2) * PER_SPAN


@jit
def candidate(S, u):
    """Return a wavelength, micrometres, for a random number, and its (r, g, b) over its chance."""
    x = u * LAST
    i = min(i4(x), i4(255))
    f = x - f4(i)
    E = T.tab_wave(S)
    return mixed(f4(E[i, 0]), f4(E[i + 1, 0]), f), (
        mixed(f4(E[i, 1]), f4(E[i + 1, 1]), f),
        mixed(f4(E[i, 2]), f4(E[i + 1, 2]), f),
        mixed(f4(E[i, 3]), f4(E[i + 1, 3]), f),
    )
