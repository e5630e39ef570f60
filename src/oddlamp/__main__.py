"""Where every start begins: ``oddlamp`` and ``python -m oddlamp``."""

import gc


def main() -> None:
    """Load the command line and run it.

    What loading makes stays for good: looking through it again and again for what could go took an eighth of the
    start. So the collector waits; the server, which lasts, wakes it before it listens.
    """
    gc.disable()
    from oddlamp.cli import app

    app()


if __name__ == "__main__":
    main()
