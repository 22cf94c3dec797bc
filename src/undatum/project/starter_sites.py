"""What the starter says of site and system under each standard that ships."""

from __future__ import annotations

from collections.abc import Mapping
from types import MappingProxyType

_REASON = '''
[irregularities]               # what the description cannot show, as you judge it
diaphragm_discontinuity = false
in_plane_offset = false
reason = "frames and braces run from roof to ground in one plane"
'''
_ASCE_SYSTEM = '''
[system.X]                     # rows of Table 12.2-1; 'undatum systems' lists them
row = "C.1"                    # steel special moment frame

[system.Y]
row = "B.2"                    # steel special concentrically braced frame

[drift]
structure = "other"            # row of the drift table
''' + _REASON
_ASCE_SITE = '''[site]
ss = 1.00                      # mapped accelerations in g
s1 = 0.40
long_period = 8                # T_L in s
site_class = "C"               # A to F, or "default" where the soil is not known
risk_category = "II"           # I, II, III, IV
'''
_IS = '''[site]
zone = "IV"                    # II to V
soil = "II"                    # I rock or hard, II medium, III soft
use = "{use}"

[system.X]                     # 'undatum systems {key}' lists them
row = "{row_x}"
regular = true                 # for the choice of procedure

[system.Y]
row = "{row_y}"
regular = true
''' + _REASON

#: From ``[site]`` to ``[irregularities]``, by the key of the standard.
SITES: Mapping[str, str] = MappingProxyType({
    **{f"asce7-{edition}": _ASCE_SITE + _ASCE_SYSTEM for edition in ("05", "10", "16")},
    "asce7-22": '''[site]
sms = 1.20                     # of the mapped data for the site class, in g
sm1 = 0.60
ss = 1.00                      # for class BC
s1 = 0.40
long_period = 8                # T_L in s
site_class = "C"               # A to E, BC, CD, DE
risk_category = "II"           # I, II, III, IV
''' + _ASCE_SYSTEM,
    "en1998": '''[site]
reference_acceleration = 0.16  # a_gR in g
ground_type = "C"              # A to E
importance_class = "II"        # I, II, III, IV
use = "B"                      # category of the live load: B offices

[system.X]                     # 'undatum systems en1998' lists them
row = "steel frame"            # moment frame
regular_in_plan = true         # 4.2.3.2
regular_in_elevation = true    # 4.2.3.3

[system.Y]
row = "steel diagonal bracing"
regular_in_plan = true
regular_in_elevation = true
''' + _REASON,
    "is1893-2002": _IS.format(
        use="other", key="is1893-2002", row_x="steel moment frame to SP 6(6)",
        row_y="steel concentric braces"),
    "is1893-2016": _IS.format(
        use="other", key="is1893-2016", row_x="steel SMRF",
        row_y="steel special concentric braces"),
    "nzs1170": '''[site]
hazard_factor = 0.20           # Z of Table 3.3
subsoil = "C"                  # A to E
importance_level = "2"         # 1 to 4

[system.X]
ductility = 3.0                # mu, by the material standard: steel moment frame

[system.Y]
ductility = 3.0                # steel braces
''' + _REASON,
    "tbdy2018": '''[site]
ss = 0.55                      # map, DD-2, in g
s1 = 0.13
ss_dd3 = 0.21                  # map, DD-3, for the drift limit
s1_dd3 = 0.05
site_class = "ZC"              # ZA to ZE
use_class = "3"                # BKS 1, 2, 3

[system.X]                     # rows of Table 4.1; 'undatum systems tbdy2018' lists them
row = "C11"                    # steel moment frames, high ductility

[system.Y]
row = "C12"                    # eccentric braces, high ductility
''' + _REASON,
    "ubc97": '''[site]
zone = "4"                     # 1, 2A, 2B, 3, 4
soil = "SC"                    # SA to SF
occupancy_category = "standard"
source_type = "B"              # in zone 4
source_distance = "12 km"

[system.X]                     # rows of Table 16-N; 'undatum systems ubc97' lists them
row = "3.1a"                   # steel special moment frame
regular = true                 # 1629.5

[system.Y]
row = "2.4a"                   # steel ordinary braced frame
regular = true
''' + _REASON,
})
