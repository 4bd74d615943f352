"""Jobs report, stop and clean up."""

import pytest

from nocturne.errors import Cancelled
from nocturne.jobs import Update, run


def test_run_returns_the_last_result_and_passes_updates_on():
    def work():
        yield Update(0, 2, "a")
        yield Update(2, 2, "b", result=42)

    seen = []
    assert run(work(), seen.append) == 42
    assert [u.note for u in seen] == ["a", "b"]


def test_a_stopped_job_is_closed():
    closed = []

    def work():
        try:
            while True:
                yield Update(0, 1)
        finally:
            closed.append(True)

    with pytest.raises(Cancelled):
        run(work(), should_stop=lambda: True)
    assert closed == [True]
