"""Which files a document names, as loaded files are keyed."""

from nocturne.scene import edit, grading
from nocturne.scene.assets import Assets, Named
from nocturne.scene.document import Document
from nocturne.scene.lights import make_light
from nocturne.scene.materials import Material
from nocturne.scene.patterns import Picture
from nocturne.scene.thing import Thing


def test_all_kinds_of_files_are_named_once_and_nothing_else():
    document = Document()
    for i, mesh in enumerate(("a.glb#lid", "a.glb#lid", "a.glb", "")):
        document = edit.put(document, "things", Thing(id=f"t{i}", name="Thing", mesh=mesh))
    pictures = (
        Picture(parameter="base_color", path="wood.png", space="colour"),
        Picture(parameter="specular_roughness", path="wood.png", space="data"),
        Picture(parameter="coat_roughness", path="", space="data"),
    )
    document = edit.put(document, "materials", Material(id="m", name="Wood", steps=pictures))
    document = edit.put(document, "lights", make_light(id="l1", name="Sky", kind="environment", image="sky.exr"))
    document, lut = grading.add_step(document, "lut")
    assert Named.of(document).luts == set(), "a step without a file names none"
    document = grading.alter_step(document, lut, path="print.cube")
    document, _ = grading.add_step(document, "exposure")
    named = Named.of(document)
    assert named.meshes == {"a.glb#lid", "a.glb"}
    assert named.images == {("wood.png", "colour"), ("wood.png", "data"), ("sky.exr", "colour")}
    assert named.luts == {"print.cube"}

    loaded = Assets(meshes={"a.glb": None}, images={("wood.png", "colour"): None}, luts={"print.cube": None})
    left = named.but(loaded)
    assert left == Named(frozenset({"a.glb#lid"}), frozenset({("wood.png", "data"), ("sky.exr", "colour")}))
    assert left
    assert not left.but(named)
    assert not Named.of(Document())
