"""A run at the arc, sent by a device."""

from typing import Any

from tests.store_case import StoreCase
from wisearc.core.joint.data import make_joint
from wisearc.core.plan.plan import make_plan
from wisearc.core.shop.shop import ASSUMED
from wisearc.services.weld_session import session_messages, session_view, weld_session

SHEET = {"metal": "304L", "form": "sheet", "thickness_mm": 1.59}
LINK = "joint=outside-corner"
WHOLE = (
    ("bars-on", "skip"),
    ("ready-1", "main"),
    ("pool-1", "main"),
    ("seam-1", "main"),
    ("taper-1", "main"),
    ("hold-1", "main"),
)


class Case(StoreCase):
    def setUp(self) -> None:
        super().setUp()
        self.joint = make_joint(
            {"joint": "outside-corner", "length_mm": 90, "members": [SHEET, SHEET]}
        )
        self.plan = make_plan(self.joint, ASSUMED)
        self.now = 201_000_000.0

    def sent(
        self,
        acts: Any = (),
        now: float = 1000.0,
        device: str = "device-one",
        once: str = "run-number-1",
        **more: Any,
    ) -> session_messages.Sent:
        keys = [
            {"id": f"{device}-{i:04}", "at": at, "step": step, "key": key}
            for i, (at, step, key) in enumerate(acts)
        ]
        return session_messages.read_sent(
            {
                "what": LINK,
                "job": "",
                "once": once,
                "who": "K.M.",
                "device": device,
                "began": 900.0,
                "now": now,
                "acts": keys,
                **more,
            }
        )

    def take(self, sent: session_messages.Sent) -> Any:
        return weld_session.receive_entries(sent, self.plan, "A corner", ASSUMED, lambda: self.now)

    def steps(self, row: Any) -> list[str]:
        view = session_view.view(row, LINK, "", self.plan, ASSUMED, "mm", None, lambda: self.now)
        return [v.step for v in view.course.visits]

    def whole(self) -> list[tuple[float, str, str]]:
        return [(910.0 + 10 * i, step, key) for i, (step, key) in enumerate(WHOLE)]
