"""What the material units do: read the material at a hit, work out its lobes, evaluate and sample them."""

from nocturne.engine.kernels import tables as T
from nocturne.engine.kernels.jit import f4, i4, inlined, row_f4, row_u4, u4
from nocturne.engine.kernels.lobes import surface
from nocturne.engine.kernels.lobes.sheet import let_straight
from nocturne.engine.kernels.patterns.drive import read_material
from nocturne.engine.kernels.patterns.layers import layer_chance, settle_layer, shown_below
from nocturne.engine.kernels.patterns.relief import raise_relief
from nocturne.engine.kernels.random import hashed
from nocturne.engine.kernels.rounding import round_hit
from nocturne.engine.kernels.shading import bend_normal, local, place_frame, same_side
from nocturne.engine.kernels.spot import face_viewer, fill_spot
from nocturne.engine.kernels.vectors import ONE, ZERO, clamped, dot, load, negated, store, transform_normal, unit
from nocturne.engine.layout import instance as Instance
from nocturne.engine.layout import lamp as Lamp
from nocturne.engine.layout import mat as Mat
from nocturne.engine.layout import ray as Ray
from nocturne.engine.layout import scratch as Scratch
from nocturne.engine.layout import value as Value


def read(S, wp):
    """Unit: read the hit's material, bend its normal, and lay its tangents."""
    W = row_f4(wp)
    I = row_u4(wp)
    read_material(S, W, I, wp, i4(I[Scratch.MATERIAL]), Scratch.MAT, Scratch.SPOT)
    round_hit(S, W, I)
    settle_layer(S, W, I, wp)
    store(W, Scratch.SMOOTH, load(W, Scratch.N))
    if T.mat_i(S)[i4(I[Scratch.MATERIAL]), Mat.HEIGHTS] > 0:
        raise_relief(S, W, I, wp)
    bend_normal(W)
    place_frame(W)


@inlined
def face_of(I, at, salt):
    """Return a number of the face that a shadow ray met: each has a chance of its own in a sample."""
    return u4(hashed(u4(u4(I[at + Ray.INSTANCE] * u4(0x9E3779B9)) ^ I[at + Ray.PRIMITIVE])) ^ salt)


def read_sheet(S, wp):
    """Unit: write to STRAIGHT what the sheet or glass that a shadow ray met lets through, SHEET and LEAVES with it."""
    W = row_f4(wp)
    I = row_u4(wp)
    at = Scratch.SHADOW
    inst = i4(I[at + Ray.INSTANCE])
    n = unit(transform_normal(T.inst_nm(S), inst, load(W, at + Ray.NORMAL)))
    d = load(W, at + Ray.DIRECTION)
    c = dot(n, d)
    m = T.inst_i(S)[inst, Instance.MATERIAL]
    if T.mat_i(S)[m, Mat.BINDINGS] > 0 or T.mat_i(S)[m, Mat.OVER] >= 0:
        u, v = f4(W[at + Ray.U]), f4(W[at + Ray.V])
        mesh = T.inst_i(S)[inst, Instance.MESH]
        fill_spot(S, W, I, Scratch.ASIDE, inst, mesh, i4(I[at + Ray.PRIMITIVE]), u, v, ZERO)
        face_viewer(W, Scratch.ASIDE, n, negated(d))
    read_material(S, W, I, wp, m, Scratch.CLEAR_MAT, Scratch.ASIDE)
    if T.mat_i(S)[m, Mat.OVER] >= 0:
        u = layer_chance(I, face_of(I, at, u4(0x51ED270B)))
        m = shown_below(S, W, I, wp, m, Scratch.CLEAR_MAT, Scratch.ASIDE, u)
    I[Scratch.SHEET] = u4(m)
    outside = f4(W[Scratch.OUTSIDE])
    is_thin = T.mat_i(S)[m, Mat.IS_THIN] != 0
    passes = is_thin or T.mat_i(S)[m, Mat.PASSES] != 0
    there = ONE
    if T.mat_i(S)[m, Mat.CUT] != 0:
        there = clamped(f4(W[Scratch.CLEAR_MAT + Mat.OPACITY]), ZERO, ONE)
    I[Scratch.LEAVES] = u4(1) if c > ZERO else u4(0)
    if passes and not is_thin and there < ONE:
        # The ray is in the glass behind the face, or it is not: half of each it cannot be.
        there = ZERO if layer_chance(I, face_of(I, at, u4(0x2C1B3C6D))) >= there else ONE
    straight = (ZERO, ZERO, ZERO)
    if passes and there > ZERO:
        straight = let_straight(S, W, wp, Scratch.CLEAR_MAT, outside, abs(c), is_thin, c > ZERO)
    elif not is_thin:
        I[Scratch.LEAVES] = u4(2)
    hole = ONE - there
    store(W, Scratch.STRAIGHT, (there * straight[0] + hole, there * straight[1] + hole, there * straight[2] + hole))


def evaluate_lamp(S, wp):
    """Unit: evaluate the material for the light sample in LAMP."""
    W = row_f4(wp)
    I = row_u4(wp)
    wi = load(W, Scratch.LAMP + Lamp.DIRECTION)
    li = local(W, wi)
    if same_side(W, I, wi, li[2]):
        surface.evaluate(W, I, S, wp, local(W, load(W, Scratch.WO)), li)
    else:
        W[Scratch.EVAL + Value.DENSITY] = ZERO


def sample_direction(S, wp):
    """Unit: choose where the path goes on."""
    surface.sample(row_f4(wp), row_u4(wp), S, wp)


def derive_hit(S, wp):
    """Unit: work out the lobes; the least alpha is handed over in RANDOM."""
    W = row_f4(wp)
    surface.derive(S, W, row_u4(wp), wp, f4(W[Scratch.RANDOM]))
