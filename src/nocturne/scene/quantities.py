"""Typed values: numbers with any unit of their kind, arithmetic, and values relative to the present one."""

import ast
import math
import operator
import re
from collections.abc import Callable

# Factor to the first unit of each kind.
LENGTHS = {
    "m": 1.0,
    "km": 1e3,
    "cm": 1e-2,
    "mm": 1e-3,
    "um": 1e-6,
    "µm": 1e-6,
    "nm": 1e-9,
    "in": 0.0254,
    '"': 0.0254,
    "ft": 0.3048,
    "'": 0.3048,
    "yd": 0.9144,
}
ANGLES = {"°": 1.0, "deg": 1.0, "rad": 180 / math.pi, "turn": 360.0}
TIMES = {"s": 1.0, "ms": 1e-3, "us": 1e-6, "min": 60.0, "h": 3600.0}
UNITS: dict[str, dict[str, float]] = {
    "m": LENGTHS,
    "mm": {name: f * 1e3 for name, f in LENGTHS.items()},
    "nm": {name: f * 1e9 for name, f in LENGTHS.items()},
    "°": ANGLES,
    "s": TIMES,
    "min": {name: f / 60 for name, f in TIMES.items()},
    "K": {"K": 1.0, "k": 1.0},
    "lm": {"lm": 1.0, "klm": 1e3},
    "W": {"W": 1.0, "w": 1.0, "kW": 1e3, "mW": 1e-3},
    "cd": {"cd": 1.0, "kcd": 1e3},
    "lx": {"lx": 1.0, "klx": 1e3},
    "nit": {"nit": 1.0, "nits": 1.0, "cd/m2": 1.0, "cd/m²": 1.0, "knit": 1e3},
    "lm/W": {"lm/W": 1.0, "lm/w": 1.0},
    "stop": {"stop": 1.0, "stops": 1.0, "EV": 1.0, "ev": 1.0},
    "px": {"px": 1.0},
    "%": {"%": 0.01},
    "f/": {"f/": 1.0},
    "×": {"×": 1.0, "x": 1.0},
    "x": {"×": 1.0, "x": 1.0},
}
_OPERATORS = {
    ast.Add: operator.add,
    ast.Sub: operator.sub,
    ast.Mult: operator.mul,
    ast.Div: operator.truediv,
    ast.Pow: operator.pow,
}
_THOUSANDS = re.compile(r"(?<![\d.,])[1-9]\d{0,2}(?:,\d{3})+(?![\d,])")
_TOKEN = re.compile(
    r"(?P<number>(?:\d+\.?\d*|\.\d+)(?:[eE][+-]?\d+)?)\s*(?P<unit>[a-zA-Zµ°%×'\"]+(?:/[a-zA-Z]+[2²]?)?)?"
)


def change_of(text: str, *, unit: str = "", multiplies: bool = False) -> Callable[[float], float] | None:
    """Return what a relative text does to a value, None if the text is a value: "+0.1", "+-0.1", "x2", "/3", "+10 %".

    Raises
    ------
    ValueError
        If it is meant to be one and makes no sense; with a sentence that says what is wrong.
    """
    typed = text.strip().replace("−", "-")
    if re.fullmatch(r"[+-]\s*(\d+\.?\d*|\.\d+)\s*(stops?|ev|%)", typed, re.IGNORECASE):
        return lambda value: parse(typed, unit=unit, current=value, multiplies=multiplies)
    if typed[:1] == "+":
        by = parse(typed[1:], unit=unit)
        return lambda value: value + by
    if typed[:1] in ("x", "X", "×", "*"):
        factor = parse(typed[1:])
        return lambda value: value * factor
    if typed[:1] == "/":
        divisor = parse(typed[1:])
        if divisor == 0:
            raise ValueError("Nothing can be divided by 0.")
        return lambda value: value / divisor
    return None


def parse(text: str, *, unit: str = "", current: float = 0.0, multiplies: bool = False) -> float:
    """Return the value that a text means.

    Parameters
    ----------
    text : str
        "3 ft", "1/60", "2700K", "2*0.35", "+1 stop" or "-10 %" (relative to `current`), "f/2.8". Commas stand before
        thousands, as in "43,091", as the window writes them; any other comma is a decimal one.
    unit : str
        The field's own unit; a number without one is in it.
    current : float
        The present value, for relative ones.
    multiplies : bool
        A stop doubles the value, as for powers and times; otherwise it adds one.

    Raises
    ------
    ValueError
        With a sentence that says what is wrong.
    """
    typed = text.strip()
    text = _THOUSANDS.sub(lambda match: match[0].replace(",", ""), typed.replace("−", "-")).replace(",", ".")
    if text.lower().startswith("f/"):
        text = text[2:]
    if not text:
        raise ValueError("Type a number.")
    relative = re.fullmatch(r"([+-])\s*(\d+\.?\d*|\.\d+)\s*(stops?|ev|%)", text, re.IGNORECASE)
    if relative:
        amount = float(relative[2]) * (1 if relative[1] == "+" else -1)
        if relative[3] == "%":
            if unit != "%":
                return current * (1 + amount / 100)
        elif multiplies:
            return current * 2.0**amount
        elif unit == "stop":
            return current + amount
        else:
            raise ValueError("Stops do not fit here.")
    known = UNITS.get(unit, {})

    def to_own(match: re.Match) -> str:
        name = match["unit"]
        if not name:
            return match["number"]
        factor = known.get(name, known.get(name.lower()))
        if factor is None:
            fits = ", ".join(known) or "a plain number"
            raise ValueError(f"“{name}” does not fit here; use {fits}.")
        return f"({match['number']}*{factor!r})"

    plain = _TOKEN.sub(to_own, text).replace("^", "**")
    value = _calculated(plain, typed)
    if not math.isfinite(value):
        raise ValueError("That is not a finite number.")
    if unit == "%" and "%" not in text:
        value /= 100
    return value


def _calculated(text: str, typed: str) -> float:
    try:
        tree = ast.parse(text, mode="eval").body
    except (SyntaxError, ValueError, MemoryError, RecursionError):
        raise ValueError(f"“{typed}” is not a number.") from None

    def value(node: ast.expr, depth: int = 0) -> float:
        if depth > 40:
            raise ValueError("That is too long.")
        if isinstance(node, ast.Constant) and isinstance(node.value, (int, float)) and not isinstance(node.value, bool):
            return float(node.value)
        if isinstance(node, ast.UnaryOp) and isinstance(node.op, (ast.UAdd, ast.USub)):
            inner = value(node.operand, depth + 1)
            return -inner if isinstance(node.op, ast.USub) else inner
        if isinstance(node, ast.BinOp) and type(node.op) in _OPERATORS:
            return _OPERATORS[type(node.op)](value(node.left, depth + 1), value(node.right, depth + 1))
        raise ValueError(f"“{typed}” is not a number.")

    try:
        result = value(tree)
    except (ZeroDivisionError, OverflowError):
        raise ValueError("That cannot be calculated.") from None
    if isinstance(result, complex):
        raise ValueError("That is not a real number.")
    return float(result)


def shown(value: float, *, unit: str = "", kind: str = "number") -> str:
    """Return a value as a field shows it, without its unit."""
    if kind == "whole":
        return str(round(value))
    if kind == "percent":
        return f"{value * 100:.4g}"
    if kind == "shutter" and 0 < value < 0.3:
        return f"1/{1 / value:.4g}"
    if unit == "m":
        return f"{value:.4f}".rstrip("0").rstrip(".") if abs(value) < 100 else f"{value:.5g}"
    if unit in ("°", "stop"):
        return f"{value:.2f}".rstrip("0").rstrip(".") or "0"
    if abs(value) >= 1e5 or (0 < abs(value) < 1e-3):
        return f"{value:.4g}"
    text = f"{value:.4g}" if abs(value) < 1000 else f"{value:.6g}"
    return "0" if text == "-0" else text
