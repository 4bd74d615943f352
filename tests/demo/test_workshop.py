"""The demo project: the same every time, whole, and ordinary."""

import numpy as np
import pytest

from nocturne.demo import workshop
from nocturne.engine.pick import facing, pick
from nocturne.engine.prepare import Preparer
from nocturne.engine.render import blank_film, render
from nocturne.io import project
from nocturne.jobs import run
from nocturne.scene import edit
from nocturne.scene import solids as forms
from nocturne.scene.patterns import every


def test_it_is_built_the_same_every_time():
    (a, meshes_a), (b, meshes_b) = workshop.build(), workshop.build()
    assert a == b
    assert {k: m.digest for k, m in meshes_a.items()} == {k: m.digest for k, m in meshes_b.items()}


def test_it_is_an_ordinary_project_with_all_it_needs(demo):
    document = demo.document
    assert not demo.assets.problems
    assert document.light_groups == ("sun", "sky", "lamp", "tube", "globe", "pilots")
    assert [v.name for v in document.views] == ["Wide", "Bench", "Orrery close-up", "Flask close-up", "Window", "Town"]
    assert len(document.cues) == 4
    for thing in document.things:
        assert not thing.mesh or thing.mesh in demo.assets.meshes
        assert not thing.material or document.find("materials", thing.material), thing.name
    for material in document.materials:
        for step in every(material.steps):
            assert step.picture is None or step.picture in demo.assets.images
    assert project.read_document(demo.path) == document


def test_forms_are_closed_and_face_outwards():
    for mesh in (
        forms.ball(1.0),
        forms.rounded_box((1, 2, 3), 0.1),
        forms.ring(1.0, 0.2),
        forms.sweep([(0, 0, 0), (0, 0, 1), (0, 1, 2)], 0.1),
        forms.lathe(forms.rounded_profile([(0, 0), (1, 0), (1, 1), (0, 1)], 0.1)),
        forms.gear(1.0, 12, 0.2),
    ):
        corners = mesh.vertices[mesh.triangles].astype(float)
        volume = np.einsum("ij,ij->i", corners[:, 0], np.cross(corners[:, 1], corners[:, 2])).sum() / 6
        assert volume > 0, "faces must look outwards"
        face = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
        area = np.linalg.norm(face, axis=1)
        assert np.abs(face.sum(0)).max() < 1e-3 * area.sum(), "a closed surface has no boundary"
        normal = mesh.normals[mesh.triangles].mean(1)
        assert ((face * normal).sum(1) > 0)[area > 1e-9].mean() > 0.995


def test_every_light_group_reaches_the_wide_view(engine, demo):
    prepared = Preparer().prepare(demo.document, demo.assets, width=160, height=90)
    film = run(render(prepared, blank_film(prepared), samples=8, noise=0.0))
    for i, name in enumerate(film.group_names):
        assert film.group(i).mean() > 0, name
    assert np.isfinite(film.groups).all()
    exposed = film.beauty().mean() / demo.document.view.white_luminance
    assert 0.02 < exposed < 1.0, "the wide view is neither black nor burnt out"


@pytest.mark.parametrize("view", ["wide", "bench", "orrery", "flask", "window", "town"])
def test_no_solid_is_seen_from_behind(demo, engine, view):
    document = edit.changed(demo.document, active_view=view)
    prepared = Preparer().prepare(document, demo.assets, width=240, height=135)
    sides = facing(prepared, 240, 135)
    behind = {pick(prepared, x + 0.5, y + 0.5).name for y, x in np.argwhere(sides < 0)}
    assert behind <= {"Globe"}, "the paper globe is a sheet, open below"
