"""System and spectrum in, response out. Immutable results."""
