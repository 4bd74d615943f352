"""Modelled shapes from parameters: turned, swept, rounded, cut. UVs are metres along the surface."""

import numpy as np

from nocturne.scene.shapes import Mesh, joined, smooth_normals

_CREASE = np.cos(np.radians(32.0))


def moved(mesh: Mesh, matrix: np.ndarray) -> Mesh:
    """Return a mesh under a (4, 4) matrix."""
    linear = matrix[:3, :3]
    normals = mesh.normals @ np.linalg.inv(linear)
    normals = normals / np.maximum(np.linalg.norm(normals, axis=1, keepdims=True), 1e-12)
    return Mesh(mesh.vertices @ linear.T + matrix[:3, 3], mesh.triangles, normals, mesh.uvs)


def grid(points: np.ndarray, normals: np.ndarray, uvs: np.ndarray) -> Mesh:
    """Return the mesh of a (rows, columns, 3) net of points; a net turns counter-clockwise by columns, then rows."""
    rows, columns = points.shape[:2]
    i = np.arange(rows - 1)[:, None] * columns + np.arange(columns - 1)
    quads = np.stack([i, i + 1, i + columns + 1, i + columns], axis=-1).reshape(-1, 4)
    triangles = np.concatenate([quads[:, [0, 1, 2]], quads[:, [0, 2, 3]]])
    p = points.reshape(-1, 3)
    corner = p[triangles]
    area = np.linalg.norm(np.cross(corner[:, 1] - corner[:, 0], corner[:, 2] - corner[:, 0]), axis=1)
    return Mesh(p, triangles[area > 1e-12], normals.reshape(-1, 3), uvs.reshape(-1, 2))


def rounded_profile(points: list[tuple[float, float]], radius: float, steps: int = 5) -> np.ndarray:
    """Return an open (n, 2) polyline with its inner corners rounded."""
    p = [np.array(q, float) for q in points]
    out = [p[0]]
    for before, corner, after in zip(p, p[1:], p[2:]):
        a, b = before - corner, after - corner
        la, lb = np.linalg.norm(a), np.linalg.norm(b)
        reach = min(radius, 0.48 * la, 0.48 * lb)
        start, end = corner + a / la * reach, corner + b / lb * reach
        t = np.linspace(0, 1, steps)[:, None]
        out.extend((1 - t) ** 2 * start + 2 * t * (1 - t) * corner + t**2 * end)
    out.append(p[-1])
    return np.array(out)


def lathe(profile: np.ndarray | list, *, segments: int = 72) -> Mesh:
    """Turn a profile of (radius, z), from below upwards on the outside, about z; corners over 32 degrees stay sharp."""
    p = np.array(profile, float)
    d = np.diff(p, axis=0)
    size = np.linalg.norm(d, axis=1)
    p, d = p[np.concatenate([[True], size > 1e-9])], d[size > 1e-9]
    out = np.stack([d[:, 1], -d[:, 0]], axis=1) / np.linalg.norm(d, axis=1, keepdims=True)
    rows, normals = [], []
    for i in range(len(p)):
        before, after = out[max(i - 1, 0)], out[min(i, len(out) - 1)]
        if before @ after > _CREASE:
            n = before + after
            rows.append(p[i])
            normals.append(n / np.linalg.norm(n))
        else:
            rows += [p[i], p[i]]
            normals += [before, after]
    rows, normals = np.array(rows), np.array(normals)
    along = np.concatenate([[0], np.cumsum(np.linalg.norm(np.diff(rows, axis=0), axis=1))])
    phi = np.linspace(0, 2 * np.pi, segments + 1)
    c, s = np.cos(phi), np.sin(phi)
    points = np.stack([rows[:, :1] * c, rows[:, :1] * s, np.repeat(rows[:, 1:], len(phi), 1)], axis=-1)
    normal = np.stack([normals[:, :1] * c, normals[:, :1] * s, np.repeat(normals[:, 1:], len(phi), 1)], axis=-1)
    around = phi * max(rows[:, 0].max(), 1e-6)
    uvs = np.stack([np.broadcast_to(around, points.shape[:2]), np.broadcast_to(along[:, None], points.shape[:2])], -1)
    return grid(points, normal, uvs)


def ball(radius: float, *, segments: int = 64) -> Mesh:
    """Return a sphere; its UVs run 0..1 around and up, for pictures of planets."""
    theta = np.linspace(-np.pi / 2, np.pi / 2, segments // 2 + 1)
    phi = np.linspace(0, 2 * np.pi, segments + 1)
    n = np.stack(
        [
            np.cos(theta)[:, None] * np.cos(phi),
            np.cos(theta)[:, None] * np.sin(phi),
            np.repeat(np.sin(theta)[:, None], len(phi), 1),
        ],
        axis=-1,
    )
    u, v = np.meshgrid(phi / (2 * np.pi), (theta + np.pi / 2) / np.pi)
    return grid(n * radius, n, np.stack([u, v], axis=-1))


def sweep(path: np.ndarray | list, radius: float | np.ndarray, *, segments: int = 16, closed: bool = False) -> Mesh:
    """Draw a round section along a path, without twist; open ends are closed by round caps."""
    p = np.array(path, float)
    r = np.broadcast_to(np.asarray(radius, float), len(p)).copy()
    if not closed:
        first, last = p[0] - p[1], p[-1] - p[-2]
        first, last = first / np.linalg.norm(first), last / np.linalg.norm(last)
        t = np.linspace(np.pi / 2, 0, 6)[:-1]
        head = [(p[0] + first * r[0] * np.sin(a), max(r[0] * np.cos(a), 1e-7)) for a in t]
        tail = [(p[-1] + last * r[-1] * np.sin(a), max(r[-1] * np.cos(a), 1e-7)) for a in t[::-1]]
        p = np.array([*(h[0] for h in head), *p, *(q[0] for q in tail)])
        r = np.array([*(h[1] for h in head), *r, *(q[1] for q in tail)])
    ahead = np.roll(p, -1, 0) - np.roll(p, 1, 0) if closed else np.gradient(p, axis=0)
    ahead /= np.maximum(np.linalg.norm(ahead, axis=1, keepdims=True), 1e-12)
    side = np.cross(ahead[0], (0, 0, 1) if abs(ahead[0][2]) < 0.9 else (1, 0, 0))
    sides = []
    for t in ahead:
        side = side - t * (side @ t)
        side = side / np.linalg.norm(side)
        sides.append(side)
    sides = np.array(sides)
    if closed:
        p, r, ahead, sides = (np.concatenate([a, a[:1]]) for a in (p, r, ahead, sides))
    up = np.cross(ahead, sides)
    phi = np.linspace(0, 2 * np.pi, segments + 1)
    n = sides[:, None] * np.cos(phi)[:, None] + up[:, None] * np.sin(phi)[:, None]
    points = p[:, None] + n * r[:, None, None]
    slope = np.gradient(r) / np.maximum(np.linalg.norm(np.gradient(p, axis=0), axis=1), 1e-9)
    n = n - ahead[:, None] * slope[:, None, None]
    n /= np.linalg.norm(n, axis=-1, keepdims=True)
    length = np.concatenate([[0], np.cumsum(np.linalg.norm(np.diff(p, axis=0), axis=1))])
    u, v = np.meshgrid(phi * r.max(), length)
    return grid(points, n, np.stack([u, v], axis=-1))


def ring(radius: float, thickness: float, *, segments: int = 128) -> Mesh:
    """Return a torus about z."""
    phi = np.linspace(0, 2 * np.pi, segments, endpoint=False)
    path = np.stack([radius * np.cos(phi), radius * np.sin(phi), 0 * phi], axis=1)
    return sweep(path, thickness, segments=24, closed=True)


def rounded_box(size: tuple[float, float, float], radius: float, *, steps: int = 4) -> Mesh:
    """Return a box centred on its base, all edges rounded; flat sides stay flat in shading too."""
    h = np.array(size, float) / 2
    radius = min(radius, *(h * 0.98))
    quarter = np.linspace(0, np.pi / 2, steps + 1)
    theta = np.concatenate([quarter - np.pi / 2, quarter])
    z_sign = np.concatenate([-np.ones(steps + 1), np.ones(steps + 1)])
    phi = np.concatenate([quarter + q * np.pi / 2 for q in range(4)] + [[2 * np.pi]])
    x_sign = np.concatenate([np.full(steps + 1, s) for s in (1, -1, -1, 1)] + [[1]])
    y_sign = np.concatenate([np.full(steps + 1, s) for s in (1, 1, -1, -1)] + [[1]])
    n = np.stack(
        [
            np.cos(theta)[:, None] * np.cos(phi),
            np.cos(theta)[:, None] * np.sin(phi),
            np.repeat(np.sin(theta)[:, None], len(phi), 1),
        ],
        axis=-1,
    )
    inner = np.stack(
        [
            np.broadcast_to(x_sign * (h[0] - radius), n.shape[:2]),
            np.broadcast_to(y_sign * (h[1] - radius), n.shape[:2]),
            np.broadcast_to((z_sign * (h[2] - radius))[:, None], n.shape[:2]),
        ],
        axis=-1,
    )
    points = inner + radius * n + (0, 0, h[2])
    shell = grid(points, n, np.zeros((*n.shape[:2], 2)))
    caps = []
    for row, up in ((-1, 1.0), (0, -1.0)):
        corners = points[row][[0, steps + 1, 2 * (steps + 1), 3 * (steps + 1)]]
        order = [[0, 1, 2], [0, 2, 3]] if up > 0 else [[0, 2, 1], [0, 3, 2]]
        caps.append(Mesh(corners, np.array(order), np.tile((0, 0, up), (4, 1)), np.zeros((4, 2))))
    return by_side_uvs(joined(shell, *caps))


def by_side_uvs(mesh: Mesh) -> Mesh:
    """Return a mesh with UVs in metres, laid on from the side that each vertex faces most."""
    a = np.abs(mesh.normals)
    v = mesh.vertices
    side = a.argmax(1)
    uvs = np.where((side == 2)[:, None], v[:, [0, 1]], np.where((side == 1)[:, None], v[:, [0, 2]], v[:, [1, 2]]))
    return Mesh(v, mesh.triangles, mesh.normals, uvs)


def faceted(mesh: Mesh) -> Mesh:
    """Return a mesh shaded flat, each triangle with corners of its own."""
    v = mesh.vertices[mesh.triangles].reshape(-1, 3)
    t = np.arange(len(v)).reshape(-1, 3)
    return Mesh(v, t, smooth_normals(v, t), mesh.uvs[mesh.triangles].reshape(-1, 2))


def gear(radius: float, teeth: int, thickness: float, *, hole: float = 0.3, bevel: float = 0.08) -> Mesh:
    """Return a spur gear about z with bevelled rims; `hole` is a part of the radius."""
    depth = 2.2 * radius / teeth
    turn = np.arange(teeth)[:, None] / teeth + np.array([0.0, 0.28, 0.5, 0.78]) / teeth
    outline_r = np.tile([radius, radius, radius - depth, radius - depth], (teeth, 1)).ravel()
    phi = np.append(turn.ravel(), 1.0) * 2 * np.pi
    outline_r = np.append(outline_r, outline_r[0])
    b, h = bevel * thickness, thickness / 2
    rims = [
        (hole * radius, -h),
        (outline_r - b, -h),
        (outline_r, -h + b),
        (outline_r, h - b),
        (outline_r - b, h),
        (hole * radius, h),
        (hole * radius, -h),
    ]
    parts = []
    for (r0, z0), (r1, z1) in zip(rims, rims[1:]):
        rows = []
        for r, z in ((r0, z0), (r1, z1)):
            r = np.broadcast_to(r, phi.shape)
            rows.append(np.stack([r * np.cos(phi), r * np.sin(phi), np.full_like(phi, z)], axis=1))
        points = np.stack(rows)
        parts.append(grid(points, np.zeros_like(points) + (0, 0, 1), points[..., :2].copy()))
    return faceted(joined(*parts))


def sheet(width: float, depth: float, *, curl: float = 0.0, n: int = 24) -> Mesh:
    """Return a sheet of paper facing +z, its far edge curled up by `curl` metres; UVs 0..1."""
    u, v = np.meshgrid(np.linspace(0, 1, n), np.linspace(0, 1, n))
    z = curl * np.maximum(v - 0.55, 0) ** 2 / 0.2025 + 0.3 * curl * np.maximum(u - 0.7, 0) ** 2 / 0.09
    points = np.stack([(u - 0.5) * width, (v - 0.5) * depth, z], axis=-1)
    flat = grid(points, np.zeros_like(points) + (0, 0, 1), np.stack([u, v], axis=-1))
    return Mesh(flat.vertices, flat.triangles, smooth_normals(flat.vertices, flat.triangles), flat.uvs)


def panel(corners: list[tuple[float, float, float]]) -> Mesh:
    """Return a flat four-sided panel, counter-clockwise from its front, UVs in metres along its first two sides."""
    p = np.array(corners, float)
    x = p[1] - p[0]
    n = np.cross(x, p[3] - p[0])
    n, x = n / np.linalg.norm(n), x / np.linalg.norm(x)
    y = np.cross(n, x)
    uvs = np.stack([(p - p[0]) @ x, (p - p[0]) @ y], axis=1)
    return Mesh(p, np.array([[0, 1, 2], [0, 2, 3]]), np.tile(n, (4, 1)), uvs)


def terrain(extent: float, height: np.ndarray) -> Mesh:
    """Return a square heightfield of (n, n) heights in metres over `extent` metres."""
    n = len(height)
    x, y = np.meshgrid(np.linspace(-0.5, 0.5, n) * extent, np.linspace(-0.5, 0.5, n) * extent)
    points = np.stack([x, y, height], axis=-1)
    flat = grid(points, np.zeros_like(points) + (0, 0, 1), np.stack([x, y], axis=-1))
    return Mesh(flat.vertices, flat.triangles, smooth_normals(flat.vertices, flat.triangles), flat.uvs)
