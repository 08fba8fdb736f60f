"""Shop and Set up as pages.

Entry, counts, import; ticks with and without script; one sentence for wrong input.
"""

import io
import re

from tests.web.case import WebCase
from wisearc.core.shop.data import make_item
from wisearc.services.inventory import shop

LINK = "joint=outside-corner&a.thickness=16+ga&length=380+mm"


def enter(key: str, data: object) -> None:
    shop.enter(make_item(key, data))


class Stock(WebCase):
    def sent(self, act: str, **data: object) -> object:
        return self.post(f"/shop/{act}", data, page="/shop/")

    def test_entered_by_words_counted_and_planned_with(self) -> None:
        self.assertIn("No equipment yet", self.client.get("/shop/").get_data(as_text=True))
        self.assertEqual(self.sent("enter", what="cup 10 large lens", count="2").status_code, 303)
        near = self.sent("enter", what="cup 8", count="1")
        self.assertEqual(near.status_code, 422)
        self.assertIn("Which front end does this cup fit?", near.get_data(as_text=True))
        for what, count, words in (
            ("spoon", "1", "is not in the catalogue"),
            ("cup 10 large lens", "x", "must be a whole number"),
            ("cup 10 large lens", "-1", "must be from 0"),
        ):
            done = self.sent("enter", what=what, count=count)
            self.assertEqual(done.status_code, 422)
            self.assertIn(words, done.get_data(as_text=True))
        self.assertIn("not enough", self.client.get(f"/?{LINK}").get_data(as_text=True))
        kept = self.client.get(self.keep(LINK)).get_data(as_text=True)
        self.assertIn("no. 10 instead of no. 8", kept)
        bare = self.client.get(f"/?{LINK}&bare=1").get_data(as_text=True)
        self.assertIn("This plan ignores the shop", bare)
        self.assertIn('name="bare" value="1"', bare)

    def test_counts_as_json_and_as_a_page(self) -> None:
        self.sent("enter", what="cup 10 large lens", count="1")
        line = str(shop.list_lines("parts")[0].id)
        token = self.token("/shop/")
        more = self.client.post(
            "/shop/count",
            data={**token, "line": line, "more": "1"},
            headers={"Accept": "application/json"},
        )
        self.assertEqual(more.get_json(), {"count": 2})
        less = self.client.post(
            "/shop/count",
            data={**token, "line": line, "more": "-3"},
            headers={"Accept": "application/json"},
        )
        self.assertEqual(less.status_code, 422)
        self.assertIn("below 0: 2 are in stock", less.get_json()["error"])
        self.assertTrue(
            self.sent("count", line=line, more="-1").headers["Location"].endswith(f"#line-{line}")
        )

    def test_a_line_by_its_fields(self) -> None:
        wrong = self.post(
            "/shop/line/machines",
            {
                "name": "m",
                "least_a": "60",
                "most_a": "50",
                "pulse": "yes",
                "pulse?": "1",
                "starts?": "1",
                "controls?": "1",
            },
            page="/shop/line/machines",
        )
        text = wrong.get_data(as_text=True)
        self.assertEqual(wrong.status_code, 422)
        self.assertIn("is above the maximum, 50 A", text)
        self.assertIn('value="60"', text)
        right = {
            "name": "m",
            "least_a": "6,5",
            "most_a": "150",
            "pulse?": "1",
            "starts?": "1",
            "starts": "lift",
            "controls?": "1",
        }
        self.assertEqual(
            self.post("/shop/line/machines", right, page="/shop/line/machines").status_code, 303
        )
        made = shop.load_shop().machines[0]
        self.assertEqual(
            (made.least_a, made.pulse, made.starts, made.controls), (6.5, None, ("lift",), ())
        )
        page = f"/shop/line/machines?number={shop.list_lines('machines')[0].id}"
        self.assertEqual(self.post(page, {**right, "most_a": "180"}, page=page).status_code, 303)
        self.assertEqual(shop.load_shop().machines[0].most_a, 180)
        self.assertEqual(self.client.get("/shop/line/spoons").status_code, 404)
        self.assertEqual(self.client.get("/shop/line/machines?number=99").status_code, 404)

    def test_inches_and_psi_and_unchanged_fields_stay(self) -> None:
        enter("bars", {"metal": "copper", "length_mm": 150, "width_mm": 25, "thickness_mm": 6})
        enter("cylinders", {"water_l": 50, "bar": 140, "name": "c"})
        self.client.set_cookie("habit", "in")
        bar, cylinder = (shop.list_lines(key)[0].id for key in ("bars", "cylinders"))
        page = f"/shop/line/bars?number={bar}"
        text = self.client.get(page).get_data(as_text=True)
        shown = dict(re.findall(r'name="(\w+_mm)" value="([^"]*)"', text))
        self.assertEqual(
            shown, {"length_mm": "5.906 in", "width_mm": "0.9843 in", "thickness_mm": "0.2362 in"}
        )
        form = {**shown, "metal": "copper", "grooved?": "1", "habit": "in"}
        self.assertEqual(self.post(page, form, page=page).status_code, 303)
        self.assertEqual(shop.load_shop().bars[0].length_mm, 150)
        self.post(
            page, {**form, "length_mm": "6", "width_mm": "30 mm", "thickness_mm": "1/4"}, page=page
        )
        made = shop.load_shop().bars[0]
        self.assertEqual((made.length_mm, made.width_mm, made.thickness_mm), (152.4, 30, 6.35))
        self.assertIn("2031 psi", self.client.get("/shop/").get_data(as_text=True))
        for typed, bar in (("2000", 137.895), ("100 bar", 100), ("1450.3774 psi", 100)):
            self.sent("pressure", line=str(cylinder), bar=typed, habit="in")
            self.assertAlmostEqual(shop.load_shop().cylinders[0].bar, bar, places=2)

    def test_error_at_a_nested_field(self) -> None:
        page = "/shop/line/machines"
        form = {"name": "m", "pulse": "yes", "pulse?": "1", "pulse.least_pps": "fast"}
        sent = self.post(page, form, page=page)
        self.assertEqual(sent.status_code, 422)
        text = sent.get_data(as_text=True)
        self.assertRegex(text, r'id="f-pulse-least-pps"[^>]*value="fast"[^>]*aria-invalid="true"')
        beside = re.search(r'id="f-pulse-least-pps-fault">([^<]*)<', text)[1]
        self.assertEqual(beside, "This value must be a number, such as 12 or 0.5.")

    def test_lines_that_there_are_not(self) -> None:
        enter("rods", {"rod": "ER308L", "diameter_mm": 1.0})
        line = shop.list_lines("rods")[0].id
        for number in ("x", "-1", "1.5", "9" * 12, str(line)):
            self.assertEqual(
                self.client.get(f"/shop/line/machines?number={number}").status_code, 404
            )
        self.assertEqual(self.client.get(f"/shop/line/rods?number={line}").status_code, 200)
        for act, more in (
            ("count", {"more": "1"}),
            ("away", {}),
            ("back", {}),
            ("pressure", {"bar": "1"}),
            ("starter", {}),
        ):
            for text in ("", "x", "99", "1e3", "٣"):
                with self.subTest(act=act, text=text):
                    self.assertIn(
                        self.sent(act, line=text, **more).status_code,
                        (404, 303) if act == "starter" else (404,),
                    )
        for more in ("", "x", "1.5", "99999999999"):
            self.assertEqual(self.sent("count", line=str(line), more=more).status_code, 422)

    def test_looked_at_before_it_is_taken_in(self) -> None:
        page, text = "/shop/", "rod,diameter_mm,count\nER308L,1.0,7\nER3,1,1\n"
        file = {"file": (io.BytesIO(text.encode()), "rods.csv")}
        seen = self.client.post("/shop/take", data={**self.token(page), **file}).get_data(
            as_text=True
        )
        self.assertIn("Line 3:", seen)
        self.assertIn("Import valid lines", seen)
        self.assertFalse(shop.load_shop().entered)
        held = re.search(r"<textarea[^>]*>\n(.*?)</textarea>", seen, re.S)[1]
        self.assertEqual(self.sent("taken", name="rods.csv", text=held).status_code, 422)
        self.assertEqual(
            self.sent("taken", name="rods.csv", text=held, good="yes").status_code, 303
        )
        self.assertEqual(shop.load_shop().rods[0].count, 7)
        self.assertIn("ER308L,1,1000,7", self.client.get("/shop/rods.csv").get_data(as_text=True))
        wrong = self.client.post(
            "/shop/take", data={**self.token(page), "file": (io.BytesIO(b"a,b\n1,2\n"), "x.csv")}
        )
        self.assertIn("do not match a list", wrong.get_data(as_text=True))

    def test_the_rest_of_the_page(self) -> None:
        self.assertEqual(
            self.post("/shop/starter", {"line": ["0", "2", "8"]}, page="/shop/starter").status_code,
            303,
        )
        self.assertIn("disabled", self.client.get("/shop/starter").get_data(as_text=True))
        for act, data, code in (
            ("has", {"has": "foil"}, 303),
            ("has", {"has": "spoon"}, 422),
            ("name", {"name": "Ours"}, 303),
            ("name", {"name": "x" * 41}, 422),
            ("none", {"list": "bars", "none": "yes"}, 303),
            ("none", {"list": "spoons"}, 404),
            ("bench", {"machine": "x"}, 422),
            ("bench", {"machine": "machine 200", "torch": ""}, 303),
            ("away", {"line": "1"}, 303),
            ("back", {"line": "1"}, 303),
        ):
            with self.subTest(act=act, data=data):
                self.assertEqual(self.sent(act, **data).status_code, code)
        self.sent("none", list="cylinders", none="yes")
        self.post(
            "/shop/line/cylinders", {"water_l": "50", "bar": "200"}, page="/shop/line/cylinders"
        )
        line = str(shop.list_lines("cylinders")[0].id)
        self.assertEqual(self.sent("pressure", line=line, bar="84,5").status_code, 303)
        self.assertEqual(shop.load_shop().cylinders[0].bar, 84.5)
        for bar in ("-1", "x", "999"):
            self.assertEqual(self.sent("pressure", line=line, bar=bar).status_code, 422)
        self.assertEqual(self.client.get("/shop/shop.json").get_json()["name"], "Ours")


class Set(WebCase):
    def test_plan_and_draft_are_ticked_finished_and_restarted(self) -> None:
        self.keep()
        self.assertIn("P-0001 A", self.client.get("/set-up/").get_data(as_text=True))
        for address, what in (
            (f"/set-up/plan?{LINK}", None),
            ("/set-up/P-0001/A", "kept:P-0001/A"),
        ):
            page = self.client.get(address).get_data(as_text=True)
            what = what or re.search(r'name="what" value="([^"]+)"', page)[1].replace("&amp;", "&")
            form = {"what": what, "key": "gas", "on": "yes"}
            done = self.client.post(
                "/set-up/tick",
                data={**self.token(address), **form},
                headers={"Accept": "application/json"},
            )
            self.assertEqual(done.get_json()["ticked"], ["gas"])
            self.assertTrue(
                self.post("/set-up/tick", {**form, "key": "set"}, page=address)
                .headers["Location"]
                .endswith("#line-set")
            )
            self.assertIn("2 of", self.client.get(address).get_data(as_text=True))
            self.assertEqual(
                self.post("/set-up/tick", {**form, "key": "x"}, page=address).status_code, 422
            )
            unfinished = self.post("/set-up/done", {"what": what}, page=address)
            self.assertEqual(unfinished.status_code, 422)
            self.assertIn("lines are not ticked", unfinished.get_data(as_text=True))
            done = self.post("/set-up/done", {"what": what, "open_too": "yes"}, page=address)
            self.assertEqual(done.status_code, 303)
            self.assertIn("lines open: ", self.client.get(address).get_data(as_text=True))
            self.assertEqual(self.post("/set-up/tick", form, page=address).status_code, 409)
            self.assertIn("Set up again", self.client.get(address).get_data(as_text=True))
            self.post("/set-up/again", {"what": what}, page=address)
            self.assertIn("0 of", self.client.get(address).get_data(as_text=True))

    def test_procedures_that_cannot_be_set_up(self) -> None:
        for address in ("/set-up/plan", "/set-up/plan?joint=spoon", "/set-up/P-0009/A"):
            self.assertEqual(self.client.get(address).status_code, 404)
        self.assertEqual(
            self.post("/set-up/tick", {"what": "kept:P-0009/A", "key": "gas"}).status_code, 404
        )
