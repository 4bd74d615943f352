"""Thin sheets and faces of glass: what goes straight through without an event. at offset of a row in work row W."""

import math

from nocturne.engine.kernels.albedos import table_glass
from nocturne.engine.kernels.jit import f4, jit
from nocturne.engine.kernels.lobes.base import base_albedo, coated_roughness
from nocturne.engine.kernels.lobes.coat import coat_passes
from nocturne.engine.kernels.lobes.dielectric import sheet_reflectance, transmit_tint, weighted_eta
from nocturne.engine.kernels.lobes.film import ask_film, glass_reflects, metal_reflects
from nocturne.engine.kernels.lobes.fuzz import fuzz_keeps
from nocturne.engine.kernels.lobes.metal import metal_outside
from nocturne.engine.kernels.lobes.onward import SHARP
from nocturne.engine.kernels.lobes.undercoat import bent_cosine, eta_under, slant_of, tinted
from nocturne.engine.kernels.microfacet import fresnel_dielectric
from nocturne.engine.kernels.vectors import ONE, TWO, ZERO, clamped, mixed
from nocturne.engine.layout import mat as Mat


@jit
def let_straight(S, W, wp, at, outside, mu, is_thin, leaves):
    """Return what of the light a thin sheet, or a face of closed glass, lets straight through at cosine mu.

    It is decided from the row as it is at the hit, by the same equations for paths and for shadow rays; what is rough
    there scatters what it lets through. A face of closed glass reflects as much of what leaves as of what enters
    (Stokes' reversibility); its coat is met from outside only, as paths meet it.
    """
    glass = clamped(f4(W[at + Mat.TRANSMISSION]), ZERO, ONE) * (ONE - clamped(f4(W[at + Mat.METALNESS]), ZERO, ONE))
    rough = coated_roughness(W, at)
    if glass <= ZERO or rough * rough >= SHARP:
        return (ZERO, ZERO, ZERO)
    mu = clamped(mu, f4(1e-4), ONE)
    weight = f4(W[at + Mat.SPECULAR_WEIGHT])
    eta = weighted_eta(f4(W[at + Mat.IOR]) / outside, weight)
    is_coated = f4(W[at + Mat.COAT]) > ZERO and (is_thin or not leaves)
    below, met, ratio = outside, mu, eta
    if is_coated:
        below = metal_outside(W, at, outside)
        met = bent_cosine(mu, below / outside)
        ratio = weighted_eta(eta_under(W, at, outside, f4(W[at + Mat.IOR]) / outside), weight)
    ask_film(S, W, wp, at, met, below, below * ratio, below)
    r = glass_reflects(W, at, met, ratio)
    q = glass
    if is_thin or not leaves:
        q *= fuzz_keeps(S, W, at, mu)
    passed = (ONE - r[0], ONE - r[1], ONE - r[2])
    if is_thin:
        back = fresnel_dielectric(mu, eta)
        passed = (
            ONE - sheet_reflectance(r[0], back),
            ONE - sheet_reflectance(r[1], back),
            ONE - sheet_reflectance(r[2], back),
        )
    out = (
        q * passed[0] * transmit_tint(W, at, is_thin, 0),
        q * passed[1] * transmit_tint(W, at, is_thin, 1),
        q * passed[2] * transmit_tint(W, at, is_thin, 2),
    )
    if is_coated:
        coat_eta = f4(W[at + Mat.COAT_IOR]) / outside
        coat_rough = clamped(f4(W[at + Mat.COAT_ROUGHNESS]), ZERO, ONE)
        c = fresnel_dielectric(mu, coat_eta)
        if coat_rough * coat_rough >= SHARP:
            whole, part = table_glass(S, coat_eta, coat_rough, mu)
            c = part / whole
        tail = clamped(f4(W[at + Mat.COAT_TAIL]), ZERO, ONE)
        if tail > ZERO:
            tail_rough = clamped(f4(W[at + Mat.COAT_TAIL_ROUGHNESS]), ZERO, ONE)
            whole, part = table_glass(S, coat_eta, math.sqrt(max(tail_rough * tail_rough, SHARP)), mu)
            c = mixed(c, part / whole, tail)
        metal = (ZERO, ZERO, ZERO)
        if f4(W[at + Mat.METALNESS]) > ZERO:
            metal = metal_reflects(W, at, met, below)
        slant = slant_of(mu, coat_eta)
        out = (
            out[0] * tinted(W, at, TWO * slant, 0),
            out[1] * tinted(W, at, TWO * slant, 1),
            out[2] * tinted(W, at, TWO * slant, 2),
        )
        out = (
            out[0] * coat_passes(W, at, c, coat_eta, slant, rough, base_albedo(W, at, metal[0], r[0], is_thin, 0), 0),
            out[1] * coat_passes(W, at, c, coat_eta, slant, rough, base_albedo(W, at, metal[1], r[1], is_thin, 1), 1),
            out[2] * coat_passes(W, at, c, coat_eta, slant, rough, base_albedo(W, at, metal[2], r[2], is_thin, 2), 2),
        )
    return out
