"""Reading a project file, with every fault at once and the line where it stands."""

from __future__ import annotations

import re
import tomllib
from collections.abc import Callable
from dataclasses import replace
from importlib.resources import files
from pathlib import Path
from typing import Any, TypeVar

from pydantic import BaseModel, ValidationError

from undatum import standards
from undatum.described import control_faults, faults_from
from undatum.errors import Fault, InputError, once, one_of
from undatum.memory import without_collecting
from undatum.places import Places
from undatum.project.directions import system_faults
from undatum.project.located import fill_in
from undatum.project.partial import beside_faults, building_faults, units_in
from undatum.project.schema import (
    DEFAULT_STANDARD,
    Project,
    SignedProject,
    SiteProject,
    project_model,
    site_project_model,
)
from undatum.project.spreadsheets import with_sheets
from undatum.project.starter_sites import SITES
from undatum.project.tables_in import with_tables
from undatum.textfile import read_text
from undatum.units import SYSTEMS, UnitSystem, speaking


def read(path: str | Path) -> Project:
    """Read and validate a project file. Raises InputError that lists everything to mend.

    The project remembers its folder: files it names are looked for there, wherever it is run.

    >>> path = folder / "mine.toml"
    >>> _ = path.write_text('''
    ... title = "Shed"
    ... units = "kN and m"
    ... [site]
    ... ss = 1.0
    ... s1 = 0.4
    ... long_period = 8
    ... site_class = "C"
    ... risk_category = "II"
    ... [system.X]
    ... row = "C.1"
    ... [system.Y]
    ... row = "C.1"
    ... [building.outlines]
    ... plan = [[0, 0], [12, 0], [12, 9], [0, 9]]
    ... [[building.levels]]
    ... name = "Roof"
    ... height = 3
    ... outline = "plan"
    ... loads = [{ name = "slab", kind = "dead", per_area = 6 }]
    ... [[building.levels]]
    ... name = "Ground"
    ... outline = "plan"
    ... ''' + "".join(f'''
    ... [[building.lines]]
    ... name = "{d}{k}"
    ... at = {at}
    ... direction = "{d}"
    ... bottom = "Ground"
    ... top = "Roof"
    ... stiffness = 4e4
    ... ''' for d, places in (("X", [[6, 0], [6, 9]]), ("Y", [[0, 4], [12, 4]]))
    ...     for k, at in enumerate(places)))
    >>> ud.read(path)
    <Project 'Shed', asce7-16: 2 levels, 4 lines>
    """
    return _read(Path(path), validate)


def shipped_project(name: str) -> Project:
    """A project that ships with the package, by name. Raises InputError with the names there are.

    ``starter`` is where one's own begins, ``archive`` (kip, ft) and ``clinic`` (kN, m) are made-up
    buildings that show what there is, ``terrace`` and ``tower`` have members made by rules,
    ``archive_frames`` is the archive with its members.

    >>> ud.shipped_project("archive").standard
    'asce7-16'
    """
    if name not in SHIPPED:
        raise InputError([Fault("name", f"{name!r} is not a project that is shipped",
                                one_of(str(name), SHIPPED, "choose from"))])
    project, faults = validate(tomllib.loads(shipped_text(name, f"{name}.toml")))
    assert project is not None, faults
    return project


SHIPPED = ("starter", "archive", "clinic", "terrace", "hostel", "tower", "archive_frames", "arcade",
           "clinic_frames")
SHORT = ("loft",)  # heights and weights, no structure


def shipped_text(name: str, file: str) -> str:
    """The text of a shipped project, as it is written to ``file``."""
    place = files("undatum.project") / "starters" / f"{name}.toml"
    return place.read_text(encoding="utf-8").replace("{name}", file)


def starter_by(standard: str, file: str) -> str:
    """The starter under another standard, as it is written to ``file``. Raises InputError."""
    if standard not in SITES:
        raise InputError([Fault("--standard", f"there is no starter by {standard!r}",
                                one_of(standard, SITES, "choose from"))])
    text = shipped_text("starter", file)
    first, last = text.index("[site]\n"), text.index("[building.outlines]")
    return text[:first].replace('standard = "asce7-16"', f'standard = "{standard}"') \
        + SITES[standard] + "\n" + text[last:]


def read_site(path: str | Path) -> SiteProject:
    """Read the site of a project file that has no building yet. Raises InputError."""
    return _read(Path(path), validate_site)


def read_as(path: str | Path, model_of: Callable[[str, Path | None], type[Kind]]) -> Kind:
    """Read a project file of another kind. Raises InputError."""
    return _read(Path(path), lambda data, folder: validated(data, folder, model_of))


def has_stack(path: str | Path) -> bool:
    """Whether a project file gives heights and weights in place of a building."""
    return "stack" in data_of(Path(path))


def has_building(path: str | Path) -> bool:
    """Whether a project file describes a building or a lateral system."""
    return bool({"building", "system"} & set(data_of(Path(path))))


def data_of(path: str | Path) -> dict[str, Any]:
    """The tables of a project file as they stand. Raises InputError when it is no valid TOML."""
    path = Path(path)
    return _parsed(path, text_of(path))


Read = TypeVar("Read")


def _read(
    path: Path,
    check: Callable[[dict[str, Any], Path | None], tuple[Read | None, list[Fault]]],
) -> Read:
    text = text_of(path)
    data = _parsed(path, text)
    places = Places(text)
    with speaking(units_in(data)):
        project, faults = check(data, path.parent)
    if faults or project is None:
        raise InputError(once(places.located(faults)), source=path.name)
    if isinstance(project, SiteProject):
        project._places = places
    return project


MOST_DEEP = 10_000  #: dots in a key


def _parsed(path: Path, text: str) -> dict[str, Any]:
    for number, line in enumerate(text.splitlines(), 1):  # parsing takes the square of the depth
        if line.partition("=")[0].count(".") > MOST_DEEP and "=" in line \
                and not line.lstrip().startswith(("#", '"', "'")):
            raise InputError([Fault("", "a key is nested too deeply to be that of a project",
                                    "take it out", number)], source=path.name)
    try:
        return tomllib.loads(text)
    except tomllib.TOMLDecodeError as error:
        raise InputError([_syntax(str(error), text)], source=path.name) from None
    except ValueError as error:  # such as a number of thousands of digits
        said = "a whole number of thousands of digits" if "digits" in str(error) else \
            "a value that can't be read"
        raise InputError([Fault("", f"holds {said}", "take it out")],
                         source=path.name) from None
    except RecursionError:
        raise InputError([Fault("", "is nested too deeply to be a project",
                                "look for brackets that open and do not close")],
                         source=path.name) from None


def validate(
    data: dict[str, Any], folder: Path | None = None
) -> tuple[Project | None, list[Fault]]:
    """The project in ``data`` (plain numbers in its unit system), or all of its faults."""
    data, origins, amiss = with_sheets(data, folder)
    data, more = with_tables(data, folder)
    amiss += more
    if "stack" in data:
        amiss.append(Fault("stack", "gives heights and weights alone; this asks for a building",
                           "'undatum run' and 'check' take it as it is, in Python ud.read_stack"))
    if "systems" in data and not {"site", "system", "building"} & set(data):
        amiss = [Fault("systems", "these are criteria, not a project",
                       'name this file in a project, as in standard = "criteria.toml"')]
    if amiss:
        return None, [origins.told(f) for f in amiss]
    project, data, faults = _validate(data, folder, project_model)
    if project is None:
        known = {f.place for f in faults}
        faults += [f for f in (*building_faults(data), *beside_faults(data, folder))
                   if f.place not in known]
        return None, [origins.told(f) for f in faults]
    project._folder = None if folder is None else folder.absolute()
    faults += project.faults()
    for key in project.alternatives:
        faults += alternative_project(project, key)[1]
    return (None if faults else project), [origins.told(f) for f in faults]


def validate_site(
    data: dict[str, Any], folder: Path | None = None
) -> tuple[SiteProject | None, list[Fault]]:
    """As :func:`validate` for a site without a building."""
    return validated(data, folder, site_project_model)


Kind = TypeVar("Kind", bound=SiteProject)


def validated(
    data: dict[str, Any], folder: Path | None, model_of: Callable[[str, Path | None], type[Kind]],
) -> tuple[Kind | None, list[Fault]]:
    """As :func:`validate` for another kind of project."""
    project, _, faults = _validate(data, folder, model_of)
    if project is not None:
        project._folder = None if folder is None else folder.absolute()
        faults += project.faults()
    return (None if faults else project), faults


Model = TypeVar("Model", bound=BaseModel)


def _system_faults(data: dict[str, Any]) -> list[Fault]:
    """Directions without a lateral system, where other values are not valid yet."""
    system, building = data.get("system"), data.get("building")
    if not isinstance(system, dict):
        return []
    return system_faults(system, building.get("plane") if isinstance(building, dict) else None)


@without_collecting()
def _validate(
    data: dict[str, Any], folder: Path | None,
    model_of: Callable[[str, Path | None], type[Model]],
) -> tuple[Model | None, dict[str, Any], list[Fault]]:
    """The model with the standard's own tables, hazard filled in, or what is wrong."""
    faults: list[Fault] = []
    try:
        units = UnitSystem(data.get("units", "kN and m"))
    except (InputError, TypeError):
        return None, data, [Fault(
            "units", f"{data['units']!r} is no system of units, without which no number can be "
            "read", one_of(str(data["units"]), SYSTEMS, "choose from"))]
    key, silent = data.get("standard", DEFAULT_STANDARD), False
    faults += control_faults(data)
    if faults:
        return None, data, faults
    try:
        standards.get(key, folder)
    except (InputError, TypeError) as error:
        found = error.faults if isinstance(error, InputError) else [
            Fault("standard", f"{key!r} is not the name of a standard",
                  "choose from: " + ", ".join(standards.shipped()))]
        faults += found
        key, silent = DEFAULT_STANDARD, True
        data = {**data, "standard": key}
    if isinstance(data.get("site"), dict) and {"location", "looked_up"} & set(data["site"]):
        fields = standards.get(key, folder).site_input.model_fields
        site, found = fill_in(data["site"], tuple(fields), folder)
        data, faults, silent = {**data, "site": site}, [*faults, *found], silent or bool(found)
    model = model_of(key, folder)
    try:
        return model.model_validate(data, context={"units": units}), data, faults
    except ValidationError as error:
        more = [*faults_from(error, model), *_system_faults(data)]
    if silent:  # without the standard, or the hazard, the site cannot be judged
        more = [f for f in more if not re.match(r"(site|system)\b", f.place)]
    return None, data, [*faults, *more]


def alternative_project(project: Project, key: str) -> tuple[Project | None, list[Fault]]:
    """The project by another of its standards, or what is wrong with that alternative."""
    alternative = project.alternatives[key]
    other, faults = validate({
        **by_other(project, key), "occupancy": project.occupancy, "building": project.building,
        "irregularities": project.irregularities, "gaps": project.gaps,
        "drift": project.drift.model_copy(update={"structure": alternative.structure}),
    }, project.folder)
    return other, alternative_faults(
        key, faults, ("building", "gaps", "irregularities", "analysis", "drift.points"))


def by_other(project: SignedProject, key: str) -> dict[str, Any]:
    """The keys that an alternative gives, and those it shares with the project."""
    alternative = project.alternatives[key]
    return {"title": project.title, "units": project.units, "standard": key,
            "site": alternative.site, "system": alternative.system, "analysis": project.analysis}


def alternative_faults(
    key: str, faults: list[Fault], shared: tuple[str, ...]
) -> list[Fault]:
    """Those of an alternative at its place; what is shared stands in the project itself."""
    return [replace(f, place=f"alternatives.{key}.{f.place}") for f in faults
            if not f.place.startswith(shared)]


def found_or_raise(asked: tuple[Kind | None, list[Fault]]) -> Kind:
    """What was validated. Raises InputError with its faults where it can't be used."""
    project, faults = asked
    if project is None:
        raise InputError(faults)
    return project


def text_of(path: Path) -> str:
    """The text of a project file. Raises InputError when it cannot be one."""
    def wrong(message: str, cure: str = "") -> InputError:
        return InputError([Fault("", message, cure)], source=str(path))

    try:
        if path.is_dir():
            raise wrong("is a folder, not a project file", "name the .toml file in it")
        path.stat()
    except FileNotFoundError:
        near = sorted(p.name for p in path.parent.glob("*.toml")) if path.parent.is_dir() else []
        raise wrong("there is no such file",
                    f"in this folder: {', '.join(near)}" if near else
                    "'undatum new' writes a project to start from") from None
    except (OSError, ValueError):
        pass  # reading it says why
    text = read_text(path, wrong)
    if not text.strip():
        raise wrong("is empty", "'undatum new' writes a project to start from")
    return text


def _syntax(message: str, text: str) -> Fault:
    match = re.search(r" \(at (?:line (\d+), column \d+|end of document)\)", message)
    lines = text.splitlines()
    line = int(match[1]) if match and match[1] else len(lines)
    said = message[: match.start()] if match else message
    shown = lines[line - 1].strip() if 0 < line <= len(lines) else ""
    cure = f"the line reads: {shown[:80]}" if match and match[1] else \
        "the file ends too early; is it whole?"
    return Fault("not valid TOML", said[:1].lower() + said[1:], cure, line)
