"""What the material units do: read the material at a hit, work out its lobes, evaluate and sample them."""

from nocturne.engine.kernels import tables as T
from nocturne.engine.kernels.jit import f4, i4, row_f4, row_u4
from nocturne.engine.kernels.lobes import surface
from nocturne.engine.kernels.lobes.sheet import let_straight
from nocturne.engine.kernels.patterns.machine import read_material, texture_coordinates
from nocturne.engine.kernels.shading import bend_normal, local, same_side
from nocturne.engine.kernels.vectors import ZERO, dot, load, store, transform_normal, unit
from nocturne.engine.layout import instance as Instance
from nocturne.engine.layout import lamp as Lamp
from nocturne.engine.layout import ray as Ray
from nocturne.engine.layout import scratch as Scratch
from nocturne.engine.layout import value as Value


def read(S, wp):
    """Unit: read the hit's material and bend its normal."""
    W = row_f4(wp, Scratch.COUNT)
    I = row_u4(wp, Scratch.COUNT)
    read_material(S, W, Scratch.MAT, i4(I[Scratch.MATERIAL]), f4(W[Scratch.UV]), f4(W[Scratch.UV + 1]))
    bend_normal(W)


def read_sheet(S, wp):
    """Unit: write to STRAIGHT what the thin sheet that a shadow ray met lets through; texture coordinates in UV."""
    W = row_f4(wp, Scratch.COUNT)
    I = row_u4(wp, Scratch.COUNT)
    at = Scratch.SHADOW
    inst = i4(I[at + Ray.INSTANCE])
    u, v = texture_coordinates(
        S, T.inst_i(S)[inst, Instance.MESH], i4(I[at + Ray.PRIMITIVE]), f4(W[at + Ray.U]), f4(W[at + Ray.V])
    )
    read_material(S, W, Scratch.CLEAR_MAT, T.inst_i(S)[inst, Instance.MATERIAL], u, v)
    n = unit(transform_normal(T.inst_nm(S), inst, load(W, at + Ray.NORMAL)))
    mu = abs(dot(n, load(W, at + Ray.DIRECTION)))
    store(W, Scratch.STRAIGHT, let_straight(S, W, Scratch.CLEAR_MAT, f4(W[Scratch.OUTSIDE]), mu))


def evaluate_lamp(S, wp):
    """Unit: evaluate the material for the light sample in LAMP."""
    W = row_f4(wp, Scratch.COUNT)
    I = row_u4(wp, Scratch.COUNT)
    wi = load(W, Scratch.LAMP + Lamp.DIRECTION)
    li = local(W, wi)
    if same_side(W, I, wi, li[2]):
        surface.evaluate(W, I, local(W, load(W, Scratch.WO)), li)
    else:
        W[Scratch.EVAL + Value.DENSITY] = ZERO


def sample_direction(S, wp):
    """Unit: choose where the path goes on."""
    surface.sample(row_f4(wp, Scratch.COUNT), row_u4(wp, Scratch.COUNT))


def derive_hit(S, wp):
    """Unit: work out the lobes; the least alpha is handed over in RANDOM."""
    W = row_f4(wp, Scratch.COUNT)
    surface.derive(S, W, row_u4(wp, Scratch.COUNT), f4(W[Scratch.RANDOM]))
