"""One reading: anything there is to read (:mod:`.things`) under anything that acts
(:mod:`.sources`), with one engine for combinations (:mod:`.combinations`) and one for tables
(:mod:`.layouts`)."""
