"""Several numbers at once, as vectors of the compiler's: a vertex's random numbers, and the pixels around a place.

The compiler does not find these by itself in loops over eight. Bits are those of `random.pair` (tested).
"""

from llvmlite import ir

from nocturne.engine.kernels.later import intrinsic

LANES = 8  # pairs that are drawn at once
_WORD, _FLOAT, _SHORT = ir.IntType(32), ir.FloatType(), ir.IntType(16)
_FAST = ("nsz", "arcp", "contract", "afn")


def _same(kind: ir.Type, value: float, count: int) -> ir.Constant:
    return ir.Constant(ir.VectorType(kind, count), [ir.Constant(kind, value)] * count)


def _spread(builder, value, count: int):
    """Return a vector that holds a number in every lane."""
    kind = ir.VectorType(value.type, count)
    first = builder.insert_element(ir.Constant(kind, ir.Undefined), value, _WORD(0))
    return builder.shuffle_vector(first, ir.Constant(kind, ir.Undefined), _same(_WORD, 0, count))


class _Words:
    """Operations on eight 32-bit words: those of `random`, by the same names."""

    def __init__(self, builder) -> None:
        from numba.core import cgutils

        self.builder, self.kind = builder, ir.VectorType(_WORD, LANES)
        function = ir.FunctionType(self.kind, [self.kind])
        self._reverse = cgutils.get_or_insert_function(builder.module, function, f"llvm.bitreverse.v{LANES}i32")

    def number(self, value: int):
        return _same(_WORD, value & 0xFFFFFFFF, LANES)

    def reverse_bits(self, x):
        return self.builder.call(self._reverse, [x])

    def folded(self, x, by: int):
        """Return x ^ (x >> by)."""
        return self.builder.xor(x, self.builder.lshr(x, self.number(by)))

    def hashed(self, x):
        x = self.builder.mul(self.folded(x, 16), self.number(0x7FEB352D))
        x = self.builder.mul(self.folded(x, 15), self.number(0x846CA68B))
        return self.folded(x, 16)

    def stirred(self, x, by: int):
        """Return x ^ (x * by)."""
        return self.builder.xor(x, self.builder.mul(x, self.number(by)))

    def laine_karras(self, x, seed):
        b = self.builder
        x = b.add(self.stirred(x, 0x3D20ADEA), seed)
        x = b.mul(x, b.or_(b.lshr(seed, self.number(16)), self.number(1)))
        return self.stirred(self.stirred(x, 0x05526C56), 0x53A22864)

    def pascal(self, x):
        """Return the bits of the second Sobol coordinate, lowest digit last."""
        b = self.builder
        for by, mask in ((1, 0x55555555), (2, 0x33333333), (4, 0x0F0F0F0F), (8, 0x00FF00FF)):
            x = b.xor(x, b.and_(b.lshr(x, self.number(by)), self.number(mask)))
        return self.folded(x, 16)


@intrinsic
def draw_pairs(typing_context, address, pixel, sample, first):
    """Write eight pairs of `sample` in the pixel with hash `pixel`, from pair `first` on: eight x, then eight y.

    As `random.pair` makes them, float32 in [0, 1).
    """

    def generate(context, builder, signature, args):
        at, pixel, sample, start = args
        w = _Words(builder)
        lane = ir.Constant(w.kind, [_WORD(k) for k in range(LANES)])
        index = builder.add(_spread(builder, start, LANES), lane)
        mixed = builder.mul(pixel, _WORD(0x9E3779B9))
        seed = w.hashed(builder.xor(_spread(builder, mixed, LANES), w.hashed(index)))
        i = w.reverse_bits(w.laine_karras(w.reverse_bits(_spread(builder, sample, LANES)), seed))
        x = w.reverse_bits(w.laine_karras(i, w.hashed(builder.xor(seed, w.number(0x68BC21EB)))))
        second = w.hashed(builder.xor(seed, w.number(0x02E5BE93)))
        y = w.reverse_bits(w.laine_karras(w.pascal(i), second))
        for k, bits in enumerate((x, y)):
            floats = builder.sitofp(builder.lshr(bits, w.number(8)), ir.VectorType(_FLOAT, LANES))
            floats = builder.fmul(floats, _same(_FLOAT, 2.0**-24, LANES))
            place = builder.add(at, ir.Constant(at.type, 4 * LANES * k))
            builder.store(floats, builder.inttoptr(place, floats.type.as_pointer()), align=4)
        return context.get_dummy_value()

    from numba import types

    return types.void(types.intp, types.uint32, types.uint32, types.uint32), generate


@intrinsic
def blended_texels(typing_context, texels, a, b, c, d, x, y):
    """Return the (RGB) bilinear value of four texels: indices a b above, c d below; x, y how far towards b and c.

    `texels` is the address of four uint16 for each, the roots of 0..1 times 65535 (RGB and one that is not used); their
    squares are blended.
    """

    def generate(context, builder, signature, args):
        base, *indices, x, y = args
        shorts, floats = ir.VectorType(_SHORT, 4), ir.VectorType(_FLOAT, 4)
        rows = builder.inttoptr(base, shorts.as_pointer())
        loaded = []
        for index in indices:
            row = builder.load(builder.gep(rows, [index], inbounds=True), align=8)
            row.set_metadata("invariant.load", builder.module.add_metadata([]))
            loaded.append(row)
        values = []
        for row in loaded:
            root = builder.sitofp(builder.zext(row, ir.VectorType(_WORD, 4)), floats)
            values.append(builder.fmul(root, root, flags=_FAST))

        def towards(a, b, share):
            return builder.fadd(a, builder.fmul(builder.fsub(b, a, flags=_FAST), share, flags=_FAST), flags=_FAST)

        x, y = _spread(builder, x, 4), _spread(builder, y, 4)
        top, low = towards(values[0], values[1], x), towards(values[2], values[3], x)
        whole = builder.fmul(towards(top, low, y), _same(_FLOAT, 65535.0**-2, 4), flags=_FAST)
        return context.make_tuple(
            builder, signature.return_type, [builder.extract_element(whole, _WORD(k)) for k in range(3)]
        )

    from numba import types

    index, share = types.int64, types.float32
    return types.UniTuple(share, 3)(types.intp, index, index, index, index, share, share), generate


@intrinsic
def whole_below(typing_context, x):
    """Return the largest whole float32 that is not above x: one instruction, where `math.floor` makes an int64."""

    def generate(context, builder, signature, args):
        floor = builder.module.declare_intrinsic("llvm.floor", [_FLOAT])
        return builder.call(floor, [args[0]])

    from numba import types

    return types.float32(types.float32), generate


@intrinsic
def exponent_of(typing_context, x):
    """Return floor(log2(x)) of a positive normal float32, as int32."""

    def generate(context, builder, signature, args):
        bits = builder.bitcast(args[0], _WORD)
        return builder.sub(builder.and_(builder.lshr(bits, _WORD(23)), _WORD(0xFF)), _WORD(127))

    from numba import types

    return types.int32(types.float32), generate
