"""Which rays see an instance: bits of the masks of rays and instances."""

CAMERA_RAYS, INDIRECT_RAYS, SHADOW_RAYS, CLEAR_SHADOW_RAYS = 1, 2, 4, 8
ALL_RAYS = 0xFFFFFFFF
