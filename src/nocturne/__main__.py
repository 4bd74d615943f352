"""`python -m nocturne`: no arguments open the window; words go to the command line."""

import os
import sys

# Before anything else is imported: `python -m` looks into the working folder first, and what lies there may have been
# downloaded.
if not sys.flags.safe_path:
    from nocturne.ownprocess import safe

    sys.path[:] = safe(sys.path)

# Before NumPy is loaded: nothing here multiplies large matrices, and threads that wait for the next ones to multiply
# keep a processor busy beside the first picture.
os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")


def main() -> int:
    """Run the command line and return its exit code."""
    try:
        from nocturne.cli import run

        return run(sys.argv[1:])
    except KeyboardInterrupt:
        print("nocturne: stopped.", file=sys.stderr)  # noqa: T201 - there is nothing else to tell it yet
        return 1


if __name__ == "__main__":
    sys.exit(main())
