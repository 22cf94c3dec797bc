"""No choice is passed over in silence: it changes what is told, under every standard."""

from __future__ import annotations

import json

import pytest

import undatum as ud
from undatum.project.project_file import alternative_project
from undatum.report.files import to_json

CLINIC = ud.shipped_project("clinic")
OTHERS = [alternative_project(CLINIC, key)[0] for key in CLINIC.alternatives]
CHOICES = [
    ("analysis.modal_combination", "SRSS"), ("analysis.modal_combination", "absolute sum"),
    ("analysis.directional_combination", "SRSS"), ("analysis.directional_combination", "100/30"),
    ("analysis.damping", 0.03), ("analysis.mass_target", 0.99), ("analysis.modes", 12),
    ("analysis.residual_mass", True), ("analysis.accidental_torsion", "always"),
    ("drift.judged_by", "static"), ("drift.judged_by", "spectrum"), ("drift.corners", False),
    ("spectrum", {"vertical_share": 0.7}),
    *(("irregularities", {kind: True, "reason": "seen on site"})
      for kind in ("in_plane_offset", "out_of_plane_offset", "diaphragm_discontinuity")),
]


def told(project: ud.Project) -> str:
    """Everything a reader is told of a run, without the input."""
    results = ud.run(project)
    summary = {k: v for k, v in to_json(results, {}).items() if k != "project"}
    tables = {t.name: [list(map(str, row)) for row in t.rows(results.units)]
              for t in results.tables()}
    return json.dumps([summary, tables], sort_keys=True)


@pytest.mark.parametrize("project", [CLINIC, *filter(None, OTHERS)], ids=lambda p: p.standard)
def test_a_choice_is_never_passed_over_in_silence(project: ud.Project) -> None:
    before = told(project)
    same = [(path, value) for path, value in CHOICES
            if told(project.varied({path: value})) == before]
    assert len(OTHERS) >= 4
    assert same == []
