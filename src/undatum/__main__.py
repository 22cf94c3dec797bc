"""``python -m undatum`` is the command line."""

from undatum.cli import main

if __name__ == "__main__":
    main()
