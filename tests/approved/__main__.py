"""Approves the current results and prints the changes."""

from __future__ import annotations

import sys

from .approval import ApprovedCase
from .test_arc_logs import ArcLogs
from .test_declarations import Declarations
from .test_diagnoses import Diagnoses
from .test_jobs import Jobs
from .test_physics import Physics
from .test_plans import Plans
from .test_purges import Purges
from .test_quantities import Quantities
from .test_templates import Templates
from .test_weld_sessions import WeldSessions

CASES: tuple[type[ApprovedCase], ...] = (
    ArcLogs,
    Declarations,
    Diagnoses,
    Jobs,
    Physics,
    Plans,
    Purges,
    Quantities,
    Templates,
    WeldSessions,
)

for approved in CASES:
    sys.stdout.writelines(f"{line}\n" for line in approved.approve())
