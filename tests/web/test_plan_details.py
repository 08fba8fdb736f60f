"""Details of Plan: gauge beside inches, codes of positions, the back of a tube, dial and arc."""

import html
import re

from tests.web.case import WebCase
from wisearc.core.joint.data import make_joint
from wisearc.core.joint.phrase import parse_phrase
from wisearc.core.joint.words import convert_title
from wisearc.core.plan.plan import make_plan
from wisearc.core.shop.shop import ASSUMED
from wisearc.forms.fields import Field
from wisearc.forms.joint_fields import build_editors
from wisearc.forms.pins import pin_fields


def find_field(key: str, units: str, kind: str, **sheet: str) -> Field:
    side = {"metal": "304L", "form": "sheet", "thickness": "1.5 mm", **sheet}
    joint = make_joint({"joint": kind, "members": [side, side], "length": "300 mm"})
    return next(f for e in build_editors(joint, units) for f in e.fields if f.key == key)


class Details(WebCase):
    def plan(self, query: str) -> str:
        return html.unescape(self.client.get(f"/plan?{query}").get_data(as_text=True))

    def test_nearest_gauge_of_the_metal_and_form(self) -> None:
        """0.059 in: 16 ga is 0.0625 in stainless and 0.0598 in carbon; 0.065 in tube (BWG)."""
        for sheet, words in (
            ({"thickness": "0.059 in"}, "0.004 in thinner than 16 ga by the stainless sheet gauge"),
            (
                {"thickness": "0.061 in", "metal": "mild-steel"},
                "0.001 in thicker than 16 ga by the carbon sheet gauge",
            ),
            ({"thickness": "1/16 in"}, "= 16 ga by the stainless sheet gauge"),
        ):
            note = find_field("a.thickness", "in", "butt", **sheet).note
            self.assertIn(words, note)
        tube = {"metal": "304L", "form": "tube", "diameter": "2 in", "thickness": "0.064 in"}
        joint = make_joint({"joint": "tube-butt", "members": [tube, tube], "length": "all-round"})
        wall = next(
            f for e in build_editors(joint, "in") for f in e.fields if f.key == "a.thickness"
        )
        self.assertIn("0.001 in thinner than 16 ga by the tube wall gauge", wall.note)
        self.assertNotIn("ga", find_field("a.thickness", "mm", "butt").note)
        self.assertNotIn("ga", find_field("a.thickness", "in", "butt", thickness="0.22 in").note)

    def test_codes_of_positions(self) -> None:
        """G for grooves and F for fillets, with the numbers of AWS A3.0."""
        for kind, codes in (
            ("butt", ["1G", "2G", "3G", "3G", "4G"]),
            ("tee", ["1F", "2F", "3F", "3F", "4F"]),
        ):
            labels = [option.label for option in find_field("position", "mm", kind).options]
            self.assertEqual([label[-3:-1] for label in labels], codes)
        for text, position in (("2f", "horizontal"), ("3G", "vertical-up"), ("4F", "overhead")):
            data = parse_phrase(f"1.5 304 sheet tee {text}", "mm")
            self.assertEqual(data["position"], position)

    def test_back_of_a_tube_is_closed(self) -> None:
        tube = "joint=tube-butt&a.form=tube&a.diameter=42+mm&a.thickness=1.5+mm&length=all-round"
        for query, words in ((tube, "closed"), ("joint=butt", "accessible")):
            word = re.search(r'id="word-access"[^>]*>([^<]+)<', self.plan(query))
            assert word is not None
            self.assertEqual(word[1], words)

    def test_card_names_dial_and_arc(self) -> None:
        page = self.plan("joint=butt&a.thickness=1.5+mm&pins.current_a=36")
        dial = re.search(
            r'class="dial-set[^"]*"><dt>(\w+)</dt>.*?class="beside">([^<]+)', page, re.S
        )
        assert dial is not None
        self.assertEqual((dial[1], dial[2]), ("Dial", "arc 36 A"))

    def test_lists_have_names_and_no_keys(self) -> None:
        sheet = {"metal": "304L", "form": "sheet", "thickness": "1.5 mm"}
        joint = make_joint({"joint": "butt", "members": [sheet, sheet], "length": "300 mm"})
        fields = pin_fields(joint, make_plan(joint, ASSUMED), "mm")
        labels = {o.label for answer in fields.values() for field in answer for o in field.options}
        self.assertIn("copper bars", labels)
        self.assertIn("slow and cold", labels)
        self.assertFalse({"copper-bar", "slow-cold"} & labels)
        self.assertIn(
            "310S to mild steel or", self.client.get("/reference/").get_data(as_text=True)
        )

    def test_titles_of_records_in_the_unit_of_the_reader(self) -> None:
        self.keep("joint=outside-corner&a.thickness=1.59+mm&b.thickness=1.59+mm&length=380+mm")
        self.client.set_cookie("habit", "in")
        page = self.client.get("/procedures/").get_data(as_text=True)
        self.assertIn("0.063 in 304L, outside corner", page)
        self.assertNotIn("1.59 mm", page)
        self.assertEqual(convert_title("1.59 mm 304L, mast", "in"), "1.59 mm 304L, mast")

    def test_a_plan_without_the_shop_keeps_its_actions(self) -> None:
        page = self.plan("joint=butt&bare=1")
        for words in ("Set up", "Weld", "Add to a job", "Save draft"):
            self.assertIn(f">{words}</", page)
