"""Quality levels: how long a picture is computed and how far light is followed."""

from typing import Literal

from nocturne.scene.fields import Model, described


class Quality(Model):
    """A named set of render settings."""

    id: str
    name: str = described("Quality", "Name", kind="text")
    samples: int = described(
        256, "Samples", "Stop at this many for each pixel.", kind="whole", low=1, high=65536, log=True
    )
    least_samples: int = described(
        16, "At least", "Samples before the noise is trusted.", kind="whole", low=1, high=4096
    )
    noise: float = described(
        0.0,
        "Noise",
        "Stop where the error is below this part of the brightness; 0: never.",
        unit="%",
        kind="percent",
        low=0,
        high=1,
    )
    minutes: float = described(0.0, "Time", "Stop after this many minutes; 0: never.", unit="min", low=0, high=100000)
    diffuse_bounces: int = described(
        4, "Diffuse bounces", "How often light goes from matt thing to matt thing.", kind="whole", low=0, high=64
    )
    reflections: int = described(6, "Reflections", "Mirror in mirror.", kind="whole", low=0, high=64)
    transmissions: int = described(
        12, "Transmissions", "Surfaces of glass and liquid that light may pass.", kind="whole", low=0, high=64
    )
    bounces: int = described(16, "Bounces in all", "Limit of all kinds together.", kind="whole", low=0, high=90)
    clamp: float = described(
        0.0,
        "Clamp",
        "Holds indirect light under this many times white; 0: off. How much light that takes stands below.",
        low=0,
        high=1e6,
    )
    overlaps: bool = described(
        True,
        "Overlaps by order",
        "Where closed glass and liquid overlap, their order says which one exists. Off: every wall bends light as if "
        "air were on its other side, to compare.",
        kind="switch",
    )
    regularise: float = described(
        0.0,
        "Soften caustics",
        "Least roughness that light sees after a matt bounce; 0: off. Less noise, less crisp.",
        low=0,
        high=1,
    )
    denoise: Literal["off", "fast", "careful"] = described(
        "careful",
        "Denoise",
        "At the end; the noisy picture is kept.",
        kind="choice",
        choices=(("off", "Off"), ("fast", "Fast"), ("careful", "Careful")),
    )


def standard_qualities() -> tuple[Quality, ...]:
    """Return the quality levels a new project has."""
    return (
        Quality(
            id="draft",
            name="Draft",
            samples=24,
            diffuse_bounces=2,
            reflections=3,
            transmissions=8,
            bounces=10,
            clamp=128,
            regularise=0.3,
            denoise="fast",
        ),
        Quality(id="review", name="Review", samples=128, noise=0.04, clamp=512, regularise=0.25, denoise="careful"),
        Quality(
            id="final",
            name="Final",
            samples=2048,
            least_samples=64,
            noise=0.01,
            diffuse_bounces=8,
            reflections=12,
            transmissions=24,
            bounces=32,
            denoise="careful",
        ),
    )
