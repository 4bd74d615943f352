"""Owen-scrambled Sobol points by hashing (Burley 2020, Practical hash-based Owen scrambling).

Points come in pairs of dimensions, indexed by (pixel hash, sample, pair): the same bits whatever the thread or the
order. The second Sobol dimension is the Pascal matrix over GF(2), a Kronecker power, so five shift-and-mask steps do
what a loop over direction numbers would (Ahmed 2024, An implementation algorithm of 2D Sobol sequence).
"""

from nocturne.engine.kernels.jit import f4, jit, u4

INV_2_24 = f4(2.0**-24)


@jit
def reverse_bits(x):
    x = u4(u4(u4(x & u4(0x55555555)) << u4(1)) | u4(u4(x >> u4(1)) & u4(0x55555555)))
    x = u4(u4(u4(x & u4(0x33333333)) << u4(2)) | u4(u4(x >> u4(2)) & u4(0x33333333)))
    x = u4(u4(u4(x & u4(0x0F0F0F0F)) << u4(4)) | u4(u4(x >> u4(4)) & u4(0x0F0F0F0F)))
    x = u4(u4(u4(x & u4(0x00FF00FF)) << u4(8)) | u4(u4(x >> u4(8)) & u4(0x00FF00FF)))
    return u4(u4(x << u4(16)) | u4(x >> u4(16)))


@jit
def hashed(x):
    """Return a well mixed 32-bit hash (Wellons, lowbias32)."""
    x = u4(x ^ u4(x >> u4(16)))
    x = u4(x * u4(0x7FEB352D))
    x = u4(x ^ u4(x >> u4(15)))
    x = u4(x * u4(0x846CA68B))
    return u4(x ^ u4(x >> u4(16)))


@jit
def combined(a, b):
    """Return a hash of two words."""
    return hashed(u4(u4(a * u4(0x9E3779B9)) ^ hashed(b)))


@jit
def laine_karras(x, seed):
    """Return x permuted so that each bit depends only on lower ones (constants of Vegdahl)."""
    x = u4(x ^ u4(x * u4(0x3D20ADEA)))
    x = u4(x + seed)
    x = u4(x * u4(u4(seed >> u4(16)) | u4(1)))
    x = u4(x ^ u4(x * u4(0x05526C56)))
    return u4(x ^ u4(x * u4(0x53A22864)))


@jit
def owen(x, seed):
    """Return x (bits in the order of digits) under nested uniform scrambling."""
    return reverse_bits(laine_karras(reverse_bits(x), seed))


@jit
def sobol_second(i):
    """Return the second Sobol coordinate of point i as 32 bits."""
    x = i
    x = u4(x ^ u4(u4(x >> u4(1)) & u4(0x55555555)))
    x = u4(x ^ u4(u4(x >> u4(2)) & u4(0x33333333)))
    x = u4(x ^ u4(u4(x >> u4(4)) & u4(0x0F0F0F0F)))
    x = u4(x ^ u4(u4(x >> u4(8)) & u4(0x00FF00FF)))
    x = u4(x ^ u4(x >> u4(16)))
    return reverse_bits(x)


@jit
def pair(pixel, sample, index):
    """Return two numbers in [0, 1): pair `index` of `sample` in the pixel with hash `pixel`."""
    seed = combined(pixel, u4(index))
    i = reverse_bits(laine_karras(reverse_bits(u4(sample)), seed))
    # The second scramble starts from the bit order that owen() would restore, so both reversals fall together.
    x = reverse_bits(laine_karras(i, hashed(u4(seed ^ u4(0x68BC21EB)))))
    y = owen(sobol_second(i), hashed(u4(seed ^ u4(0x02E5BE93))))
    return f4(u4(x >> u4(8))) * INV_2_24, f4(u4(y >> u4(8))) * INV_2_24
