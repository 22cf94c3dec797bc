"""The version of the package, in the one place where it stands."""

VERSION = "0.1.0"
