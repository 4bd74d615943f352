"""Compiled loops that bring a coarse picture up to the film's size, guided by what every pixel's middle sees.

Light is taken apart from the surface's own colour, brought up where surfaces agree (joint bilateral upsampling, Kopf et
al. 2007), and put on the colour again. Names: S what is seen by pixel, H its ids, `step` pixels of the film from one
coarse pixel to the next, `k` from one pixel of the result to the next.
"""

import math

import numpy as np

from nocturne.engine.entries import compiled
from nocturne.engine.kernels.jit import loop
from nocturne.engine.layout import camera as cam
from nocturne.film.layout import PASSES, SIGHT, SIGHT_IDS
from nocturne.finish.kernels import in_bands

_ALBEDO, _CLEAN, _NORMAL = SIGHT.offsets["ALBEDO"], SIGHT.offsets["CLEAN_NORMAL"], SIGHT.offsets["NORMAL"]
_DEPTH, _EMISSION, _POSITION = SIGHT.offsets["DEPTH"], SIGHT.offsets["EMISSION"], SIGHT.offsets["POSITION"]
_ROUGHNESS = SIGHT.offsets["ROUGHNESS"]
_FIRST, _OBJECT, _GROUP = (SIGHT_IDS.offsets[name] for name in ("FIRST_OBJECT", "OBJECT", "LIGHT_GROUP"))
_STRAIGHT = (PASSES.offsets["EMISSION"], PASSES.offsets["BACKGROUND"])
EPS = np.float32(0.02)  # added to the albedo where light is divided by it, so that black stays finite
_NOTHING = np.uint32(0xFFFFFFFF)
# How much a neighbour counts whose surface is another one, and one that agrees with nothing.
_OTHER, _ANY = np.float32(0.02), np.float32(1e-5)
_SHARP_BLUR, _SOFT_BLUR = np.float32(0.7), np.float32(2.0)  # pixels: circles of confusion from guided to plain
_PRIOR = np.float32(0.75)  # most that an earlier picture counts

_f4 = np.float32
_TURN = _f4(2 * math.pi)


@loop
def _fall(x):
    """Return about exp(-x), x >= 0."""
    t = _f4(1) / (_f4(1) + x * _f4(0.25))
    t *= t
    return t * t


@loop
def _gain(gains, H, y, x, c):
    group = H[y, x, _GROUP]
    if group == _NOTHING:
        return _f4(1)
    return gains[group, c]


@compiled(
    "void(float32[:,:,:,::1], float32[:,:,:,::1], int32[:,::1], uint32[:,:,::1], float32[:,::1], int64,"
    " float32[:,:,::1], float32[:,:,::1], int64, int64)"
)
def _gather_rows(groups, passes, samples, H, gains, step, light, straight, y0, y1):
    """Take the coarse pixels off a film: mixed light without what comes straight, and that."""
    for j in range(y0, y1):
        y = j * step
        for i in range(light.shape[1]):
            x = i * step
            n = _f4(1) / _f4(max(samples[y, x], 1))
            for c in range(3):
                total = _f4(0)
                for g in range(groups.shape[0]):
                    total += groups[g, y, x, c] * gains[g, c]
                own = (passes[_STRAIGHT[0], y, x, c] + passes[_STRAIGHT[1], y, x, c]) * n * _gain(gains, H, y, x, c)
                light[j, i, c] = max(total * n - own, _f4(0))
                straight[j, i, c] = own


@compiled(
    "void(float32[:,:,::1], float32[:,:,::1], float32[:,:,::1], uint32[:,:,::1], float32[:,::1], int64, int64, float32,"
    " float32, float32[:,:,::1], float32[:,::1], float32[:,:,::1], int64, int64)"
)
def _raise_rows(bare, plain, S, H, gains, step, k, blur, focus, prior, trust, out, y0, y1):
    """Write light of every `k`th pixel: of two by two coarse pixels where they agree with it, else of four by four.

    bare: light over albedo. plain: light with what comes straight, for what is out of focus. blur, focus: circle of
    confusion in pixels times metres, metres. prior, trust: light over albedo of an earlier picture, how far it holds.
    """
    rows, columns = bare.shape[0], bare.shape[1]
    inv = _f4(1.0 / step)
    nothing = _f4(0)
    for oy in range(y0, y1):
        y = oy * k
        v = _f4(y) * inv
        j0 = int(v)
        for ox in range(out.shape[1]):
            x = ox * k
            u = _f4(x) * inv
            i0 = int(u)
            n0, n1, n2 = S[y, x, _CLEAN], S[y, x, _CLEAN + 1], S[y, x, _CLEAN + 2]
            q0, q1, q2 = S[y, x, _NORMAL], S[y, x, _NORMAL + 1], S[y, x, _NORMAL + 2]
            p0, p1, p2 = S[y, x, _POSITION], S[y, x, _POSITION + 1], S[y, x, _POSITION + 2]
            depth = S[y, x, _DEPTH]
            scale = _f4(150) / (_f4(step) * max(depth, _f4(0.05)))
            first, seen = H[y, x, _FIRST], H[y, x, _OBJECT]
            a0 = a1 = a2 = total = nothing
            for radius in range(1, 3):
                a0 = a1 = a2 = total = most = nothing
                for dj in range(1 - radius, radius + 1):
                    j = min(max(j0 + dj, 0), rows - 1)
                    fy = v - _f4(j0 + dj)
                    for di in range(1 - radius, radius + 1):
                        i = min(max(i0 + di, 0), columns - 1)
                        fx = u - _f4(i0 + di)
                        if radius == 1:
                            near = (_f4(1) - abs(fx)) * (_f4(1) - abs(fy)) + _f4(1e-4)
                        else:
                            near = _fall((fx * fx + fy * fy) * _f4(1.3))
                        b, a = j * step, i * step
                        turn = _f4(2)
                        turn -= n0 * S[b, a, _CLEAN] + n1 * S[b, a, _CLEAN + 1] + n2 * S[b, a, _CLEAN + 2]
                        turn -= q0 * S[b, a, _NORMAL] + q1 * S[b, a, _NORMAL + 1] + q2 * S[b, a, _NORMAL + 2]
                        off = (S[b, a, _POSITION] - p0) * n0 + (S[b, a, _POSITION + 1] - p1) * n1
                        off += (S[b, a, _POSITION + 2] - p2) * n2
                        w = near * _fall(max(turn * _f4(6) + abs(off) * scale, nothing))
                        if H[b, a, _FIRST] != first or H[b, a, _OBJECT] != seen:
                            w *= _OTHER
                        w += _ANY * near
                        total += w
                        most += near
                        a0 += w * bare[j, i, 0]
                        a1 += w * bare[j, i, 1]
                        a2 += w * bare[j, i, 2]
                if total > _f4(0.3) * most:
                    break
            n = _f4(1) / total
            t = trust[oy, ox]
            a0 = a0 * n + (prior[oy, ox, 0] - a0 * n) * t
            a1 = a1 * n + (prior[oy, ox, 1] - a1 * n) * t
            a2 = a2 * n + (prior[oy, ox, 2] - a2 * n) * t
            near = _f4(1) / max(depth, _f4(1e-3)) if depth > nothing else nothing
            circle = blur * abs(near - _f4(1) / focus)
            soft = min(max((circle - _SHARP_BLUR) / (_SOFT_BLUR - _SHARP_BLUR), nothing), _f4(1))
            j, i = min(j0, rows - 1), min(i0, columns - 1)
            j1, i1 = min(j + 1, rows - 1), min(i + 1, columns - 1)
            fy, fx = v - _f4(j0), u - _f4(i0)
            for c in range(3):
                sharp = a0 if c == 0 else a1 if c == 1 else a2
                sharp = sharp * (S[y, x, _ALBEDO + c] + EPS) + S[y, x, _EMISSION + c] * _gain(gains, H, y, x, c)
                if soft > nothing:
                    top = plain[j, i, c] + (plain[j, i1, c] - plain[j, i, c]) * fx
                    low = plain[j1, i, c] + (plain[j1, i1, c] - plain[j1, i, c]) * fx
                    sharp += (top + (low - top) * fy - sharp) * soft
                out[oy, ox, c] = sharp


@compiled("void(float32[:,:,::1], uint32[:,:,::1], int64, float32[:,:,::1], int64, int64)")
def _soften_rows(picture, H, k, out, y0, y1):
    """Average three by three pixels where one object ends: middles of pixels know no shares."""
    rows, columns = picture.shape[0], picture.shape[1]
    for y in range(y0, y1):
        up, down = max(y - 1, 0), min(y + 1, rows - 1)
        for x in range(columns):
            left, right = max(x - 1, 0), min(x + 1, columns - 1)
            own = H[y * k, x * k, _FIRST]
            ends = H[up * k, x * k, _FIRST] != own or H[down * k, x * k, _FIRST] != own
            if not (ends or H[y * k, left * k, _FIRST] != own or H[y * k, right * k, _FIRST] != own):
                for c in range(3):
                    out[y, x, c] = picture[y, x, c]
                continue
            for c in range(3):
                near = picture[up, x, c] + picture[down, x, c] + picture[y, left, c] + picture[y, right, c]
                far = picture[up, left, c] + picture[up, right, c] + picture[down, left, c] + picture[down, right, c]
                out[y, x, c] = _f4(0.25) * picture[y, x, c] + _f4(0.125) * near + _f4(0.0625) * far


@compiled(
    "void(float32[:,:,::1], float32[:,:,::1], float32[:,:,::1], uint32[:,:,::1], float32[:,::1], float32[:,:,::1],"
    " int64, int64)"
)
def _bare_rows(picture, albedo, S, H, gains, out, y0, y1):
    """Write light over albedo of a whole picture."""
    for y in range(y0, y1):
        for x in range(out.shape[1]):
            for c in range(3):
                light = picture[y, x, c] - S[y, x, _EMISSION + c] * _gain(gains, H, y, x, c)
                out[y, x, c] = max(light, _f4(0)) / (albedo[y, x, c] + EPS)


@compiled(
    "void(float32[:,:,::1], float32[:,:,::1], uint32[:,:,::1], int64, float32[:,:,::1], uint32[:,:,::1], int64,"
    " float32[::1], int64, float32[:,:,::1], float32[:,::1], int64, int64)"
)
def _reproject_rows(bare, S0, H0, k0, S, H, k, eye, is_same, out, trust, y0, y1):
    """Write, for every `k`th pixel, an earlier picture's light over albedo at the same place of the set, and its trust.

    bare, S0, H0: of the earlier picture, every `k0`th pixel of it. eye: its camera: position, right, up and ahead (3
    each), half size and shift of the picture (2 each), kind. is_same: it is today's; what mirrors and glass show is
    the same then.
    """
    rows, columns = bare.shape[0], bare.shape[1]
    width, height = _f4(S0.shape[1]), _f4(S0.shape[0])
    zero, one, half = _f4(0), _f4(1), _f4(0.5)
    for oy in range(y0, y1):
        y = oy * k
        for ox in range(out.shape[1]):
            x = ox * k
            trust[oy, ox] = zero
            rough = S[y, x, _ROUGHNESS]
            seen = H[y, x, _OBJECT]
            if seen == _NOTHING or H[y, x, _GROUP] != _NOTHING:
                continue
            if is_same != 0:
                if H0[y // k0 * k0, x // k0 * k0, _FIRST] != H[y, x, _FIRST]:
                    continue
                rough = one
            elif rough < zero:
                continue
            p0, p1, p2 = S[y, x, _POSITION], S[y, x, _POSITION + 1], S[y, x, _POSITION + 2]
            v0, v1, v2 = p0 - eye[0], p1 - eye[1], p2 - eye[2]
            ahead = v0 * eye[9] + v1 * eye[10] + v2 * eye[11]
            across = v0 * eye[3] + v1 * eye[4] + v2 * eye[5]
            over = v0 * eye[6] + v1 * eye[7] + v2 * eye[8]
            if eye[16] == _f4(cam.AROUND):
                flat = math.sqrt(across * across + ahead * ahead)
                across = _f4(math.atan2(across, ahead))
                ahead = math.sqrt(flat * flat + over * over)
                over = _f4(math.atan2(over, flat))
            elif ahead <= _f4(1e-4) and is_same == 0:
                continue
            elif eye[16] == _f4(cam.PERSPECTIVE):
                across /= ahead
                over /= ahead
            across = across / eye[12] - eye[14]
            if eye[16] == _f4(cam.AROUND):
                turn = _TURN / eye[12]
                across -= turn * _f4(math.floor((across + one) / turn))
            over = over / eye[13] - eye[15]
            u = ((across + one) * half * width - half) / _f4(k0)
            v = ((one - over) * half * height - half) / _f4(k0)
            if is_same != 0:  # what is seen in a mirror does not lie where it is seen
                u, v = _f4(x) / _f4(k0), _f4(y) / _f4(k0)
            if not (u > -half and v > -half and u < _f4(columns) - half and v < _f4(rows) - half):
                continue
            i0, j0 = math.floor(u), math.floor(v)
            fx, fy = u - _f4(i0), v - _f4(j0)
            far = _f4(0.02) * max(abs(ahead), _f4(1e-4))
            total = a0 = a1 = a2 = zero
            for dj in range(2):
                j = min(max(j0 + dj, 0), rows - 1)
                wy = fy if dj == 1 else one - fy
                for di in range(2):
                    i = min(max(i0 + di, 0), columns - 1)
                    w = wy * (fx if di == 1 else one - fx)
                    b, a = j * k0, i * k0
                    if H0[b, a, _OBJECT] != seen or H0[b, a, _GROUP] != _NOTHING:
                        continue
                    if is_same == 0 and S0[b, a, _ROUGHNESS] < zero:
                        continue
                    off = abs(S0[b, a, _POSITION] - p0) + abs(S0[b, a, _POSITION + 1] - p1)
                    off += abs(S0[b, a, _POSITION + 2] - p2)
                    if off > far:
                        continue
                    total += w
                    a0 += w * bare[j, i, 0]
                    a1 += w * bare[j, i, 1]
                    a2 += w * bare[j, i, 2]
            if total < half:
                continue
            n = one / total
            out[oy, ox, 0], out[oy, ox, 1], out[oy, ox, 2] = a0 * n, a1 * n, a2 * n
            # What mirrors a little looks otherwise from another place.
            trust[oy, ox] = _PRIOR * min(max(rough * _f4(3.3), _f4(0.2)), one)


def gather(
    film_arrays: dict[str, np.ndarray], ids: np.ndarray, gains: np.ndarray, step: int
) -> tuple[np.ndarray, np.ndarray]:
    """Return (light, what comes straight), (h, w, 3) each, of a film's every `step`th pixel.

    film_arrays: as `Film.arrays`. ids: of its `Sight`. gains: (n, 3) with which light groups are mixed.
    """
    samples = film_arrays["samples"]
    size = (-(-samples.shape[0] // step), -(-samples.shape[1] // step), 3)
    light, straight = np.empty(size, np.float32), np.empty(size, np.float32)
    arrays = [film_arrays[name] for name in ("groups", "passes", "samples")]
    in_bands(size[0], lambda a, b: _gather_rows(*arrays, ids, gains, step, light, straight, a, b))
    return light, straight


def raised(
    bare: np.ndarray,
    plain: np.ndarray,
    seen: np.ndarray,
    ids: np.ndarray,
    *,
    gains: np.ndarray,
    step: int,
    k: int,
    lens: tuple[float, float],
    prior: tuple[np.ndarray, np.ndarray] | None,
) -> np.ndarray:
    """Return (h / k, w / k, 3) light of a coarse picture, every `step`th pixel, brought up to every `k`th.

    bare, plain: its light over albedo, and its light. lens: (pixels of the circle of confusion at 1 / m from focus, m).
    prior: (light over albedo, trust) of an earlier picture, at the result's size.
    """
    size = (-(-seen.shape[0] // k), -(-seen.shape[1] // k))
    before, trust = prior or (np.zeros((*size, 3), np.float32), np.zeros(size, np.float32))
    out, soft = np.empty((*size, 3), np.float32), np.empty((*size, 3), np.float32)
    blur, focus = np.float32(lens[0]), np.float32(lens[1])
    in_bands(
        size[0],
        lambda a, b: _raise_rows(bare, plain, seen, ids, gains, step, k, blur, focus, before, trust, out, a, b),
    )
    in_bands(size[0], lambda a, b: _soften_rows(out, ids, k, soft, a, b))
    return soft


def over_albedo(
    picture: np.ndarray, albedo: np.ndarray, seen: np.ndarray, ids: np.ndarray, gains: np.ndarray
) -> np.ndarray:
    """Return (h, w, 3) light over albedo of a whole (h, w, 3) picture.

    albedo: (h, w, 3) as the picture has it: that of middles alone would leave bright rims where colours meet.
    """
    out = np.empty_like(picture)
    in_bands(len(picture), lambda a, b: _bare_rows(picture, albedo, seen, ids, gains, out, a, b))
    return out


def reprojected(
    bare: np.ndarray,
    before: tuple[np.ndarray, np.ndarray],
    now: tuple[np.ndarray, np.ndarray],
    eye: np.ndarray,
    k: int,
    *,
    is_same: bool = False,
) -> tuple[np.ndarray, np.ndarray]:
    """Return (light over albedo, trust) of an earlier picture where the set's places are seen now, every `k`th pixel.

    bare: (h, w, 3) of the earlier one, of every pixel or every other. before, now: arrays of the two `Sight`s. eye:
    (17,) float32, `Prepared.eye` of the earlier one. is_same: it is today's, and the pictures are as large: then
    mirrors and glass show the same, too.
    """
    seen, ids = now
    size = (-(-seen.shape[0] // k), -(-seen.shape[1] // k))
    out, trust = np.zeros((*size, 3), np.float32), np.zeros(size, np.float32)
    k0 = -(-before[0].shape[0] // bare.shape[0])
    in_bands(
        size[0], lambda a, b: _reproject_rows(bare, *before, k0, seen, ids, k, eye, int(is_same), out, trust, a, b)
    )
    return out, trust
