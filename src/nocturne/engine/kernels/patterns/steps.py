"""The kinds of steps: what a binding puts out at a hit. S scene table, b binding.

size: how far what looks reaches, in texture coordinates. more: what the mesh carries besides, from `carried.more_at`.
"""

from nocturne.engine.kernels import tables as T
from nocturne.engine.kernels.dispatch import by_kind
from nocturne.engine.kernels.jit import f4, jit
from nocturne.engine.kernels.patterns import checker, colours, picture
from nocturne.engine.kernels.vectors import ONE, ZERO
from nocturne.engine.layout import pattern as Pattern

# Which file works out a kind of step of the document.
STEPS = {"picture": picture, "checker": checker, "colours": colours}
_value = by_kind({module.NUMBER: module.value for module in STEPS.values()})


@jit
def placed(S, b, u, v, size, more):
    """Return the coordinates of binding b's step at the hit, and how far what looks reaches in them."""
    F = T.bind_f(S)
    if T.bind_i(S)[b, Pattern.SECOND_SET] != 0:
        u = more[0]
        v = more[1]
        size = more[2]
    return (
        f4(F[b, Pattern.TO_U]) * u + f4(F[b, Pattern.TO_U + 1]) * v + f4(F[b, Pattern.TO_U + 2]),
        f4(F[b, Pattern.TO_V]) * u + f4(F[b, Pattern.TO_V + 1]) * v + f4(F[b, Pattern.TO_V + 2]),
        size * f4(F[b, Pattern.STRETCH]),
    )


@jit
def ask_ahead(S, b, u, v, size, more):
    """Ask for what binding b will read, so that several are fetched at once."""
    if T.bind_i(S)[b, Pattern.KIND] == picture.NUMBER:
        x, y, reach = placed(S, b, u, v, size, more)
        picture.ask(S, b, x, y, reach)


@jit
def bound_value(S, b, u, v, size, more):
    """Return what binding b puts out where the texture coordinates are (u, v), inverted if it is to be."""
    x, y, reach = placed(S, b, u, v, size, more)
    t = _value(T.bind_i(S)[b, Pattern.KIND], S, b, x, y, reach, more)
    if f4(T.bind_f(S)[b, Pattern.IS_INVERTED]) > ZERO:
        # A picture may hold values above 1; their negative is black, not less.
        t = (max(ONE - t[0], ZERO), max(ONE - t[1], ZERO), max(ONE - t[2], ZERO))
    return t
