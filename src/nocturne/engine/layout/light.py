"""Offsets in a row of `light_f`, and kinds."""

RGB = 0  # radiance (area, infinite) or intensity (point, spot)
POS = 3
X = 6  # rect: half-edge vector; spot, sun, sphere: axis (X holds the direction it shines in)
Y = 9
N = 12
AREA = 15
RADIUS = 16
COS_INNER = 17
COS_OUTER = 18
TURN = 19  # world to environment, 3x3
DENSITY = 28  # environment: density over solid angle where luminance and the ratio of sines are 1
RECT, SPHERE, POINT, SPOT, MESH, ENVIRONMENT, DOME, SUN = range(8)
