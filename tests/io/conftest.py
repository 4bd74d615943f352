"""Reading stages within the process of the tests: starting one for each takes longer than what they ask."""

import pickle
from typing import Any

import pytest

from nocturne.io.models import usd
from nocturne.io.models.border import Border
from nocturne.jobs import FAULTS


def _read_here(_module: str, border: Border) -> Any:
    try:
        return pickle.loads(pickle.dumps(usd.read_here(border), protocol=5))  # what comes back is a copy there too
    except FAULTS as error:
        raise ValueError(str(error) or type(error).__name__) from error


@pytest.fixture
def usd_here(monkeypatch):
    """Read stages without a process of their own; what that is for is tested with damaged files."""
    monkeypatch.setattr(usd, "read_apart", _read_here)
