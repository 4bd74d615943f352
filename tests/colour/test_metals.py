"""Measured metals: the shipped table, tables of text, and what both come to."""

import numpy as np
import pytest

from nocturne.colour import metals
from nocturne.colour.spectrum import WAVELENGTHS_NM, channels, reflectance_to_working
from nocturne.errors import BadFile, MissingFile
from nocturne.io import metaltable
from nocturne.scene import metals as of_material
from nocturne.scene.materials import Material

GOLD = metals.metals()["gold"]


def test_the_table_is_whole_and_each_metal_says_who_measured_it():
    table = metals.metals()
    assert len(table) >= 30
    for metal in table.values():
        assert metal.wavelength_nm[0] <= 380
        assert metal.wavelength_nm[-1] >= 780
        assert (metal.n > 0).all()
        assert (metal.k > 0).all()
        assert len(metal.source) > 20
        assert not metals.doubt(*metals.of_channels(metal.wavelength_nm, metal.n, metal.k)), metal.name


@pytest.mark.parametrize(
    ("key", "wave", "n", "k"),
    [
        ("gold", 616.8, 0.21, 3.272),  # Johnson and Christy 1972, table I
        ("silver", 495.9, 0.05, 3.093),
        ("copper", 549.1, 1.02, 2.577),
        ("iron", 563.6, 2.94, 2.99),  # Johnson and Christy 1974
    ],
)
def test_the_table_holds_what_was_published(key, wave, n, k):
    metal = metals.metals()[key]
    assert np.interp(wave, metal.wavelength_nm, metal.n) == pytest.approx(n, abs=0.06)
    assert np.interp(wave, metal.wavelength_nm, metal.k) == pytest.approx(k, rel=0.03)


def test_channels_weigh_light_of_all_wavelengths_as_white():
    assert channels().sum(0) == pytest.approx([1, 1, 1], abs=1e-12)
    green = np.exp(-((WAVELENGTHS_NM - 535) ** 2) / 200)
    assert np.argmax(reflectance_to_working(WAVELENGTHS_NM, green)) == 1


@pytest.mark.parametrize("key", list(metals.metals()))
def test_three_pairs_reflect_what_the_spectrum_does(key):
    metal = metals.metals()[key]
    n, k = (np.array(v) for v in metals.of_channels(metal.wavelength_nm, metal.n, metal.k))
    assert metal.channel_n == pytest.approx(n, rel=1e-3), "what is shipped is what is made"
    assert metal.channel_k == pytest.approx(k, rel=1e-3)
    # At the two angles that are fitted, and at those between.
    for cosine, off in ((1.0, 2e-3), (metals.EDGE, 4e-3), (0.7, 0.012), (0.4, 0.02)):
        exact = metals.colour_at(cosine, metal.wavelength_nm, metal.n, metal.k)
        assert metals.fresnel(cosine, n, k) == pytest.approx(exact, abs=off)


TABLES = {
    "nm": "wl, n, k\n400, 1.47, 1.95\n550, 0.42, 2.4\n700, 0.13, 4.1\n",
    "um": "0.40 1.47 1.95\n0.55 0.42 2.4\n0.70 0.13 4.1\n".replace(" ", ","),
    "tabs and points": "# gold\n400\t1.47\t1.95\n550\t0.42\t2.4\n700\t0.13\t4.1\n",
    "two tables": "wl,n\n0.4,1.47\n0.55,0.42\n0.7,0.13\nwl,k\n0.4,1.95\n0.55,2.4\n0.7,4.1\n",
    "decimal commas": "400;1,47;1,95\n550;0,42;2,4\n700;0,13;4,1\n",
    "spaces": "nm n k\n400  1.47 1.95\n550  0.42 2.4\n700  0.13 4.1\n",
    "falling": "700;0.13;4.1\n550;0.42;2.4\n400;1.47;1.95\n",
}


@pytest.mark.parametrize("kind", TABLES)
def test_tables_of_text_are_read_as_they_come(tmp_path, kind):
    path = tmp_path / "gold.csv"
    path.write_text(TABLES[kind])
    rows = metaltable.read(path)
    assert np.array(rows) == pytest.approx(np.array([(400, 1.47, 1.95), (550, 0.42, 2.4), (700, 0.13, 4.1)]))


@pytest.mark.parametrize(
    ("text", "words"),
    [
        ("nothing here", "no rows"),
        ("400,1.5\n500,1.5\n", "two columns"),
        ("400,-1,2\n700,1,2\n", "below 0"),
        ("2000,1,2\n3000,1,2\n", "nothing that is seen"),
        ("400,nan,2\n700,1,2\n", "finite"),
    ],
)
def test_what_is_no_table_is_told(tmp_path, text, words):
    path = tmp_path / "bad.csv"
    path.write_text(text)
    with pytest.raises(BadFile, match=words):
        metaltable.read(path)
    with pytest.raises(MissingFile):
        metaltable.read(tmp_path / "none.csv")


def test_what_cannot_be_is_doubted():
    assert "exchanged" in metals.doubt((3.2, 2.3, 1.9), (0.25, 0.5, 1.2))
    assert "clear" in metals.doubt((1.5, 1.5, 1.5), (0.0, 0.0, 0.0))
    assert "nearest" in metals.doubt((9.0, 9.0, 9.0), (0.5, 0.5, 0.5))


def test_typed_indices_are_taken_from_their_wavelengths():
    at_channels = Material(id="m", base_metalness=1, metal_from="nk", metal_n=(1, 2, 3), metal_k=(4, 5, 6))
    assert of_material.indices(at_channels) == ((1, 2, 3), (4, 5, 6))
    typed = at_channels.model_copy(update={"metal_wavelengths_nm": (700.0, 550.0, 400.0)})
    n, _k = of_material.indices(typed)
    assert n[0] == pytest.approx(np.interp(630, [550, 700], [2, 1]))
    in_um = Material(id="m", metal_wavelengths_nm=(0.7, 0.55, 0.4))
    assert in_um.metal_wavelengths_nm == pytest.approx((700, 550, 400))
    with pytest.raises(ValueError, match="wavelengths"):
        Material(id="m", metal_wavelengths_nm=(5000.0, 550.0, 400.0))


def test_each_way_of_giving_a_metal_reflects_as_it_says():
    gold = Material(id="m", base_metalness=1, metal_from="table", metal_name="gold")
    exact = metals.colour_at(1.0, GOLD.wavelength_nm, GOLD.n, GOLD.k)
    assert of_material.reflected(gold, np.array(1.0)) == pytest.approx(exact, abs=2e-3)
    rows = tuple(zip(GOLD.wavelength_nm.tolist(), GOLD.n.tolist(), GOLD.k.tolist()))
    read = gold.model_copy(update={"metal_from": "spectrum", "metal_spectrum": rows})
    assert of_material.reflected(read, np.array(0.5)) == pytest.approx(of_material.reflected(gold, np.array(0.5)))
    plain = Material(id="m", base_metalness=1, metal_from="plain", base_color=(0.9, 0.5, 0.2), specular_color=(0, 0, 0))
    assert of_material.reflected(plain, np.array(1.0)) == pytest.approx((0.9, 0.5, 0.2))
    assert of_material.reflected(plain, np.array(0.0)) == pytest.approx((1, 1, 1))
    edged = plain.model_copy(update={"metal_from": "colour", "specular_color": (0.5, 0.5, 0.5)})
    schlick = np.array((0.9, 0.5, 0.2)) + (1 - np.array((0.9, 0.5, 0.2))) * (1 - metals.EDGE) ** 5
    assert of_material.reflected(edged, np.array(metals.EDGE)) == pytest.approx(0.5 * schlick)
    assert of_material.edge_tint(edged) == (0.5, 0.5, 0.5)
