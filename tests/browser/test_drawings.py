"""No label of a drawing overlaps another or leaves the drawing.

Every joint, view, unit system and width is tested, as the browser renders them.
"""

import json
import unittest

from tests.browser.case import BrowserCase
from tests.samples import COPE, CORNER, EVERY, TEE, member, tube
from wisearc.core.joint.data import make_joint
from wisearc.core.plan.plan import Plan, make_plan
from wisearc.core.shop.shop import ASSUMED
from wisearc.drawings.plan.views import VIEWS, draw

MORE = {
    "three": {
        "joint": "tee",
        "members": [member(), member(), member("316L", "1 mm")],
        "length": "15 in",
    },
    "inside": {
        "joint": "inside-corner",
        "members": [member("316L", "0.8 mm")] * 2,
        "length": "220 mm",
    },
    "socket": {
        "joint": "tube-socket",
        "members": [tube(), member("316L", "4 mm", form="flange")],
        "length": "all-round",
    },
    "slow": {
        **CORNER,
        "pulse": "slow-cold",
        "control": "none",
        "length": "2000 mm",
        "overlap_pct": 50,
    },
    "fast": {**CORNER, "pulse": "fast", "length": "20 mm"},
    "braze": {**TEE, "filler": "ERCuSi-A"},
    "shallow": {**COPE, "angle_deg": 25},
    "steel": {"joint": "butt", "members": [member("mild-steel", "2 mm")] * 2},
    "duplex": {"joint": "butt", "members": [member("2205"), member("mild-steel")], "back": "purge"},
    "heavy": {
        "joint": "lap",
        "members": [member("304L", "1 mm"), member("304L", "10 mm", form="bar")],
        "length": "40 mm",
    },
}
# Boxes with a smaller overlap only touch, px.
TOUCH = 1.0
MEASURE = """(figures) => {
  const box = document.createElement("div");
  box.className = "part-views";
  document.querySelector("main").replaceChildren(box);
  const told = [];
  figures.forEach(([name, svg]) => {
    box.innerHTML = '<figure class="drawing">' + svg + '</figure>';
    const frame = box.querySelector("svg").getBoundingClientRect();
    const texts = Array.from(box.querySelectorAll("svg text")).
        filter((el) => getComputedStyle(el).display !== "none" && el.textContent.trim());
    const rects = texts.map((el) => el.getBoundingClientRect());
    rects.forEach((a, i) => {
      const out = Math.max(frame.left - a.left, a.right - frame.right, frame.top - a.top,
          a.bottom - frame.bottom);
      if (out > TOUCH) { told.push([name, "out by " + out.toFixed(0), texts[i].textContent]); }
      rects.slice(i + 1).forEach((b, j) => {
        const wide = Math.min(a.right, b.right) - Math.max(a.left, b.left);
        const high = Math.min(a.bottom, b.bottom) - Math.max(a.top, b.top);
        if (wide > TOUCH && high > LINE * Math.min(a.height, b.height)) { told.push([name,
            texts[i].textContent, texts[i + 1 + j].textContent]); }
      });
    });
  });
  return told;
}"""
# A text box has the height of its line. Letters of two boxes touch when a third of the lower one is
# covered.
LINE = 0.3


def all_drawings(plans: dict[str, Plan]) -> list[tuple[str, str]]:
    """Return every drawing of every plan in both unit systems, each with its name."""
    return [
        (f"{name} {view} {habit}", draw(view, plan, habit).svg)
        for name, plan in plans.items()
        for view in VIEWS
        for habit in ("mm", "in")
    ]


class Labels(BrowserCase):
    def test_none_over_another(self) -> None:
        plans = {
            name: make_plan(make_joint(data), ASSUMED) for name, data in {**EVERY, **MORE}.items()
        }
        drawings = all_drawings(plans)
        for width in (1280, 820, 390):
            self.page.set_viewport_size({"width": width, "height": 800})
            self.open("/plan")
            measure = MEASURE.replace("TOUCH", str(TOUCH)).replace("LINE", str(LINE))
            told = self.page.evaluate(f"(figures) => ({measure})(figures)", drawings)
            with self.subTest(width=width):
                self.assertEqual([], told, json.dumps(told[:12], ensure_ascii=False))


if __name__ == "__main__":
    unittest.main()
