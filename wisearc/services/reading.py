"""Reading: what a run says, of a file or of the book."""

from __future__ import annotations

from pathlib import Path
from typing import Any

from ..core.errors import BadInput
from ..core.joint_data import make_joint
from ..core.plan import make_plan
from ..core.reading.reading import read
from ..core.shop import Shop
from ..formats.arc_csv import read_arc_csv
from ..formats.arc_json import arc_log_data
from ..formats.joint_json import loads, read_joint
from ..formats.procedure_json import read_run_text
from ..formats.reading_json import reading_data
from .arc_logs import analysed, arc_of


def reading_of_text(text: str, joint: str | None, shop: Shop, log: Path | None = None) -> dict[str, Any]:
    """What the text of a run file says, as data of the reading format.

    Parameters: joint, the text of a joint file, else the joint that the run carries; log, the arc log that goes with it, else what the run tells of its arc. Raises
    BadInput.
    """
    run = read_run_text(text)
    if joint is None and run.get("joint") is None:
        raise BadInput(
            "joint",
            None,
            "is missing: a run is read against its plan; give --joint FILE, or a run that carries its joint",
        )
    plan = make_plan(read_joint(loads(joint)) if joint is not None else make_joint(run["joint"]), shop)
    if log is not None:
        try:
            told = arc_of(arc_log_data(analysed(read_arc_csv(log), plan, None)))
        except OSError as error:
            raise BadInput("log", log.name, f"cannot be read ({error.strerror}); give the path of a log") from error
        run["arc"] = {**(run.get("arc") or {}), **told}
    return reading_data(read(run, plan, shop))
