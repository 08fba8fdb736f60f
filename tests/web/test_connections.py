"""A connection is opened and closed with each request: no handle of the database stays behind."""

import threading
import unittest
from pathlib import Path

from tests.web.case import WebCase
from wisearc.store.database import db
from wisearc.store.folder import FILE_NAME


class Connections(WebCase):
    def handles(self) -> int:
        """Return the number of open handles of the library in this process."""
        names = []
        for handle in Path("/proc/self/fd").iterdir():
            try:
                names.append(str(handle.readlink()))
            except OSError:
                continue
        return sum(str(self.folder / FILE_NAME) in name for name in names)

    def test_none_stays_open(self) -> None:
        address = self.keep()
        for path in (
            "/",
            "/plan",
            "/procedures/",
            address,
            "/procedures/P-0009/A",
            "/shop/",
            f"{address}/print",
            "/?link=joint%3Dlap&joint=tee",
        ):
            self.client.get(path)
            with self.subTest(path=path):
                self.assertTrue(db.is_closed())
                self.assertEqual(self.handles(), 0)

    def test_none_of_other_threads(self) -> None:
        """A server's threads come and go."""
        seen = []

        def ask() -> None:
            seen.append(self.app.test_client().get("/procedures/").status_code)

        threads = [threading.Thread(target=ask) for _ in range(9)]
        for thread in threads:
            thread.start()
        for thread in threads:
            thread.join()
        self.assertEqual((seen, self.handles()), ([200] * 9, 0))

    def test_not_even_after_a_fault_within(self) -> None:
        self.app.config["PROPAGATE_EXCEPTIONS"] = False
        self.app.testing = False

        def fault() -> None:
            db.connect(reuse_if_open=True)
            raise RuntimeError("planted")

        self.app.view_functions["plan.page"] = fault
        with self.assertLogs(self.app.logger, "ERROR"):
            self.assertEqual(self.client.get("/plan").status_code, 500)
        self.assertEqual((db.is_closed(), self.handles()), (True, 0))


if __name__ == "__main__":
    unittest.main()
