"""From a place to its hazard: ask the file or the service a location names."""

from __future__ import annotations

from pathlib import Path

from undatum.ground.hazard_files import open_provider
from undatum.ground.location import Location, LookedUp, Provider


def look_up(
    location: Location, folder: str | Path | None = None, *, refresh: bool = False
) -> LookedUp:
    r"""Ask the file or the service a location names.

    ``folder`` is where files are looked for; ``refresh`` passes over the cache of a service.
    Raises InputError naming the place, what is known and what to do.

    >>> path = folder / "hazard.csv"
    >>> _ = path.write_text("# source: made up\n# edition: 1\nlatitude,longitude,ss,s1\n"
    ...                     "1,2,0.8,0.3\n1,3,1.0,0.4\n2,2,0.8,0.3\n2,3,1.0,0.4\n")
    >>> found = ud.look_up(ud.Location(latitude=1.5, longitude=2.5, file="hazard.csv"), folder)
    >>> found.values["ss"]
    '0.9'
    """
    if location.service is not None:
        from undatum.ground.hazard_service import HazardService

        provider: Provider = HazardService(location.service, refresh=refresh)
    else:
        provider = open_provider(Path(folder or "") / str(location.file))
    return provider.find(location).kept(location)
