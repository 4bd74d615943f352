"""The binding to Qt, which is to read no sources.

It reads the source of each module that is imported after it, to know whether that may ask for other spellings of Qt's
names; none of ours does. Of a second and a half that the interface took to load, a fifth went there.
"""

from shibokensupport import feature


def _may_use_qt(module: object) -> bool:
    return True  # which it need not be told of each by its text


if hasattr(feature, "_mod_uses_pyside"):
    feature._mod_uses_pyside = _may_use_qt
