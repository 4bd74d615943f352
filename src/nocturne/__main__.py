"""`python -m nocturne`: no arguments open the window; words go to the command line."""

import sys


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
