"""Which files a USD stage is put together from, looked at before it is: the library would open any file, also a pipe.

References
----------
OpenUSD 26.11: SdfLayer (composition asset dependencies), Ar (asset resolution); AOUSD Core: layers and arcs.
"""

import os
from pathlib import Path

from nocturne.io.models.border import Border, OutsideFolder

_MOST_LAYERS = 20_000


def check(path: Path, border: Border) -> None:
    """Go through all layers that a stage draws in.

    Raises
    ------
    OutsideFolder
        If one lies outside the model's folder, and that is not allowed.
    ValueError
        If one is no regular file, or there are far too many.
    """
    from pxr import Ar, Sdf

    outside: dict[str, None] = {}
    left, seen = [str(path)], {str(path)}
    while left:
        name = left.pop()
        layer = Sdf.Layer.FindOrOpen(name)
        if layer is None:
            continue  # composing says so where it matters
        for asset in filter(None, layer.GetCompositionAssetDependencies()):  # within the layer it has no name
            anchored = Sdf.ComputeAssetPathRelativeToLayer(layer, asset)
            found = str(Ar.GetResolver().Resolve(anchored))
            if not found or found in seen:
                continue
            seen.add(found)
            if len(seen) > _MOST_LAYERS:
                raise ValueError(f"it draws in more than {_MOST_LAYERS:,} layers")
            # Of what is inside a package, the package is the file.
            file = Path(Ar.SplitPackageRelativePathOuter(found)[0] if "[" in found else found)
            if not border.lets_in(file):
                outside[asset] = None
                continue
            if not os.path.isfile(file):
                raise ValueError(f"“{asset}”, which it draws in, is no file")
            left.append(found)
    if outside:
        raise OutsideFolder(path, tuple(outside))
