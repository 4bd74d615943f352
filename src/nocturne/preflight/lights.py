"""Lights: environments that double each other, powers that no lamp has, a set without light."""

from collections.abc import Iterator
from pathlib import Path

from nocturne.preflight.findings import Finding, Mend
from nocturne.scene import edit
from nocturne.scene.assets import Assets
from nocturne.scene.document import Document
from nocturne.scene.faces import materials_of
from nocturne.scene.glowing import settled_materials
from nocturne.scene.lights import Light, make_light
from nocturne.scene.lights.light import SUN_NIT


def _off(light: Light) -> Mend:
    return Mend(f"Switch “{light.name}” off", lambda d, i=light.id: edit.alter(d, "lights", i, on=False))


def doubled_environments(document: Document, assets: Assets, folder: Path) -> Iterator[Finding]:
    """Yield environments that bring the same light a second time."""
    on = [light for light in document.lights if light.on and light.is_infinite]
    skies = [light for light in on if light.kind in ("sky", "environment", "dome")]
    suns = [light for light in on if light.kind == "sun"]
    for several, what in ((skies, "sky light"), (suns, "sun")):
        for light in several[1:]:
            first = several[0]
            words = f"“{first.name}” and “{light.name}” both light the set: the {what} counts twice."
            yield Finding("doubled light", words, "lights", light.id, (_off(light), _off(first)))
    picture = next((light for light in on if light.kind == "environment" and light.image), None)
    if picture is not None and suns:
        words = f"“{picture.name}” is a picture that may hold a sun, and “{suns[0].name}” is a second one."
        yield Finding("doubled light", words, "lights", suns[0].id, (_off(suns[0]), _off(picture)), is_wrong=False)


def odd_powers(document: Document, assets: Assets, folder: Path) -> Iterator[Finding]:
    """Yield lights brighter than any of their kind, and lights that are on and give nothing."""
    for light in document.lights:
        if not light.on or not light.gives_light:
            continue
        power, unit = light.usual
        usual = Mend(
            f"Make it {power:g} {'× nature' if unit == 'x' else unit}",
            lambda d, i=light.id, p=power, u=unit: edit.alter(d, "lights", i, power=p, unit=u),
        )
        if light.power == 0:
            words = f"“{light.name}” is on, but its power is 0."
            yield Finding("odd powers", words, "lights", light.id, (usual, _off(light)), is_wrong=False)
            continue
        factor = light.too_bright_by()
        if factor > 1:
            words = (
                f"“{light.name}” is {factor:.3g} times as bright as the brightest {light.title.lower()} "
                "there is. If the picture is too dark, open the camera instead."
            )
            yield Finding("odd powers", words, "lights", light.id, (usual,))
    for material in settled_materials(document, assets):
        if material.is_emitter and material.emission_luminance > SUN_NIT:
            words = f"“{material.name}” glows brighter than the sun's disc."
            mend = Mend(
                "Make it 5,000 nit, as a neon tube",
                lambda d, i=material.id: edit.alter(d, "materials", i, emission_luminance=5000.0, emission_unit="nit"),
            )
            yield Finding("odd powers", words, "materials", material.id, (mend,))


def no_light(document: Document, assets: Assets, folder: Path) -> Iterator[Finding]:
    """Yield one finding if nothing shines."""
    worn = {id for thing in document.things for id in materials_of(thing)}
    glows = any(m.is_emitter and m.id in worn for m in document.materials)
    if (
        document.things
        and not glows
        and not any(light.on and light.gives_light and light.power > 0 for light in document.lights)
    ):

        def lit(d: Document) -> Document:
            dome = make_light(id="dome", name="Dome", kind="dome", unit="nit", power=50.0, group=d.light_groups[0])
            n = 1
            while d.find("lights", dome.id) is not None:
                n += 1
                dome = edit.changed(dome, id=f"dome-{n}")
            return edit.put(d, "lights", dome)

        mend = Mend("Add a dome of soft light", lit)
        yield Finding("no light", "Nothing shines: the picture will be black.", "lights", "", (mend,))


def points_behind_glass(document: Document, assets: Assets, folder: Path) -> Iterator[Finding]:
    """Yield lamps without a size in a set with solid glass: what refracts light cannot find a point again."""
    worn = {id for thing in document.things if thing.visible for id in materials_of(thing)}
    glass = next((m for m in document.materials if m.is_medium and m.id in worn), None)
    if glass is None:
        return
    for light in document.lights:
        if not light.on or not light.gives_light or light.is_infinite or light.can_be_seen:
            continue
        words = (
            f"“{light.name}” has no size: through “{glass.name}” and other solid glass it gives no light, nor does it "
            "show in mirrors."
        )
        mends = (Mend("Give it a radius of 1 cm, as bright", lambda d, i=light.id: _with_size(d, i)),)
        yield Finding("lamps without a size", words, "lights", light.id, mends, is_wrong=False)


def _with_size(document: Document, id: str) -> Document:
    light = document.find("lights", id)
    return edit.alter(document, "lights", id, bulb_radius=0.01) if light is not None else document


def negative_pixels(document: Document, assets: Assets, folder: Path) -> Iterator[Finding]:
    """Yield environment pictures with values below zero, which are taken as black."""
    for light in document.lights:
        image = assets.picture(light.image) if light.kind == "environment" and light.on else None
        n = int((image < 0).any(-1).sum()) if image is not None else 0
        if n:
            words = (
                f"{n:,} pixels of {light.image} are below zero, {float(image.min()):.3g} at least; "
                f"“{light.name}” takes them as black."
            )
            yield Finding("negative light", words, "lights", light.id, (), is_wrong=False)
