"""A library with every kind of record, for maintenance."""

from pathlib import Path

from tests.folders import fill
from tests.samples import COPE, CORNER, TEE, run, typed
from tests.store_case import StoreCase
from wisearc.core.joint.data import make_joint
from wisearc.core.shop.shop import ASSUMED
from wisearc.services.planning import approaches
from wisearc.services.procedures import procedures
from wisearc.services.runs import runs as running
from wisearc.store import queries
from wisearc.store.database import db
from wisearc.store.opening import Store

LONGER = {**CORNER, "length": "400 mm"}


def build_library(folder: Path) -> None:
    """Create a library with three procedures, two runs and an approach of the shop."""
    store = Store(folder)
    procedures.keep_draft(make_joint(CORNER), ASSUMED)
    made, _ = running.record_run("P-0001", "A", typed(run(notes="Ä\n<b>")))
    corrected = typed({**made.record, "notes": "Ä\n<b>, put right"})
    running.correct("P-0001", "A", made.id, corrected, "R.T.")
    procedures.revise("P-0001", make_joint(LONGER), ASSUMED)
    procedures.keep_draft(make_joint(TEE), ASSUMED)
    bad, _ = running.record_run("P-0002", "A", typed(run(good=False)))
    running.void_run("P-0002", "A", bad.id, "K.S.")
    procedures.keep_draft(make_joint(COPE), ASSUMED)
    procedures.archive_draft("P-0003", "A")
    approaches.choose_approach("tip_school", "needle")
    store.close()


class CareCase(StoreCase):
    # Creates the library of a test, once in a process.
    build = staticmethod(build_library)

    def setUp(self) -> None:
        super().setUp()
        self.at = Path(self._folder.name)
        self.folder = self.at / "book"
        fill(self.folder, self.build)
        self.store.close()
        self.store = Store(self.folder)
        db.close()

    def open(self, folder: Path) -> None:
        self.store.close()
        self.store = Store(folder)

    def rows(self) -> list[tuple[object, ...]]:
        """Return all rows of the library, without row ids and tokens."""
        self.store.close()
        kept = (
            "created_at",
            "letter",
            "status",
            "title",
            "joint",
            "plan",
            "bands",
            "changed_at",
            "proved_at",
            "removed_at",
        )
        run_columns = (
            "made_on",
            "record",
            "good",
            "kept_at",
            "voided_at",
            "voided_by",
            "corrections",
        )
        found = []
        for r in queries.list_revisions_by_id(queries.list_ids_in_order()):
            runs = [[getattr(x, key) for key in run_columns] for x in queries.list_runs(r)]
            found.append(
                (
                    r.procedure.label,
                    [getattr(r if hasattr(r, key) else r.procedure, key) for key in kept],
                    runs,
                )
            )
        return [*sorted(found, key=str), tuple(approaches.load_preferences().items())]
