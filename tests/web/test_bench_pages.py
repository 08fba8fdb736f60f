"""Pages of templates, fit-up, tacks and purge.

Every joint, both unit systems, wrong input, files, and preserved entries.
"""

from __future__ import annotations

import io
import json
import re
import sys
import threading
from unittest import mock
from urllib.parse import quote, urlencode

from tests.samples import EVERY, run
from tests.web.case import WebCase
from wisearc.core.joint.data import make_joint
from wisearc.services.planning.planner import query_text
from wisearc.services.purge import purge_run
from wisearc.services.templates import templates
from wisearc.simulators.oxygen_meter import Behind, Meter, simulate_readings

STAY = {"kind": "cope", "branch": "25 mm", "wall": "1.2 mm", "run": "51 mm", "angle": "45"}
LINK = (
    "joint=tube-cope&a.form=tube&a.metal=316L&a.thickness=1.2+mm&a.diameter=25+mm&"
    "b.thickness=1.5+mm&b.diameter=51+mm&length=all-round&angle_deg=45"
)


def at(path: str, **query: str) -> str:
    return f"{path}?{urlencode(query)}"


class Cuts(WebCase):
    def get(self, path: str, code: int = 200, **query: str) -> str:
        answer = self.client.get(at(path, **query) if query else path)
        self.assertEqual(answer.status_code, code, path)
        return answer.get_data(as_text=True)

    def test_page_loads_the_dxf_library(self) -> None:
        is_loaded = threading.Event()
        with (
            mock.patch.dict(sys.modules),
            mock.patch.object(templates, "load_library", is_loaded.set),
        ):
            sys.modules.pop("ezdxf", None)
            self.client.get("/templates/")
            self.assertTrue(is_loaded.wait(10))

    def test_each_kind_in_both_unit_systems(self) -> None:
        for kind in ("cope", "mitre", "plate"):
            for habit in ("mm", "in"):
                self.client.set_cookie("habit", habit)
                text = self.get(
                    "/templates/", kind=kind, branch="1 in", wall=".065", run="2 in", angle="60"
                )
                self.assertIn("KEEP", text)
                self.assertIn("In space", text)
        self.assertIn("4 in exactly", text)
        self.assertIn("PDF on Letter", text)

    def test_length_is_shown_in_the_unit_system(self) -> None:
        self.client.set_cookie("habit", "in")
        text = self.get("/templates/", **STAY, offset="0.1 in")
        for key, shown in (
            ("branch", "0.9843 in"),
            ("run", "2.008 in"),
            ("offset", "0.1 in"),
            ("paper", "0.003937 in"),
        ):
            self.assertIn(f'name="{key}" value="{shown}"', text)
        # And the address keeps the entry.
        self.assertIn('name="branch" value="25 mm"', text)

    def test_begins_with_a_stay(self) -> None:
        self.assertIn("24.8 mm", self.get("/templates/"))

    def test_wrong_input_is_reported_at_its_field_and_kept(self) -> None:
        for key, typed, words in (
            ("offset", "14 mm", "at most 13 mm"),
            ("angle", "15", "below 20°"),
            ("angle", "135", "acute angle, 45°"),
            ("wall", "13 mm", "exceeds the radius"),
            ("branch", "60 mm", "larger than the header"),
            ("run", "wide", "must be a length"),
            ("wall", "", "This value is missing"),
            ("offset", "−14 mm", "at most 13 mm"),
            ("paper", "3 mm", "Enter 0 mm to 2 mm"),
            ("name", "<b>" * 30, "60 characters"),
        ):
            with self.subTest(key=key, typed=typed):
                answer = self.client.get(at("/templates/", **{**STAY, key: typed}))
                self.assertEqual(answer.status_code, 422)
                field = re.search(rf'id="f-{key}".*?</div>', answer.get_data(as_text=True), re.S)[0]
                self.assertIn(words, field.replace("&#39;", "'"))
                self.assertNotIn("<b>", field)

    def test_change_is_listed_after_its_target(self) -> None:
        text = self.get("/templates/?" + urlencode([*STAY.items(), ("angle", "90")]))
        self.assertIn("at 90°", text)
        # An impossible one: the earlier drawing stays.
        answer = self.client.get("/templates/?" + urlencode([*STAY.items(), ("angle", "9")]))
        self.assertEqual(answer.status_code, 422)
        self.assertIn("at 45°", answer.get_data(as_text=True))

    def test_parts_as_json(self) -> None:
        answer = self.client.get(at("/templates/", **STAY), headers={"Accept": "application/json"})
        self.assertEqual(
            set(answer.json["parts"]), {"form", "fields", "facts", "sheet", "space", "told"}
        )
        have = ",".join(f"{name}:{mark}" for name, mark in answer.json["have"].items())
        again = self.client.get(
            at("/templates/", **STAY, turn="60"),
            headers={"Accept": "application/json", "X-Have": have},
        )
        self.assertEqual(
            set(again.json["parts"]), {"form", "sheet", "space"} & set(again.json["parts"])
        )
        self.assertIn("space", again.json["parts"])
        self.assertNotIn("facts", again.json["parts"])

    def test_files(self) -> None:
        for kind, begins in (
            ("svg", b"<svg"),
            ("dxf", b"  0\nSECTION"),
            ("pdf", b"%PDF"),
            ("csv", b"phi_deg,x_mm,z_mm,z_outside_mm,z_inside_mm"),
        ):
            for part in ("branch", "hole"):
                answer = self.client.get(
                    at(
                        f"/templates/template.{kind}",
                        **STAY,
                        part=part,
                        name="Stay <1>",
                        paper_size="letter",
                    )
                )
                self.assertEqual(answer.status_code, 200)
                if part == "branch":
                    self.assertTrue(answer.data.startswith(begins), answer.data[:20])
        self.assertEqual(self.client.get(at("/templates/template.doc", **STAY)).status_code, 404)
        answer = self.client.get(at("/templates/template.pdf", **{**STAY, "angle": "10"}))
        self.assertEqual((answer.status_code, answer.mimetype), (422, "text/plain"))
        self.assertEqual(
            self.client.get(at("/templates/template.pdf", **STAY, paper_size="a9")).status_code, 422
        )

    def test_picture_turns_and_keeps_within_its_ends(self) -> None:
        pictures = {
            self.get("/templates/space.svg", **STAY, turn=str(turn)) for turn in (0, 90, 200)
        }
        self.assertEqual(len(pictures), 3)
        self.assertEqual(
            self.get("/templates/space.svg", **STAY, tilt="500"),
            self.get("/templates/space.svg", **STAY, tilt="85"),
        )
        self.assertEqual(
            self.get("/templates/space.svg", **STAY, tilt="nan"),
            self.get("/templates/space.svg", **STAY),
        )

    def test_shims(self) -> None:
        self.assertIn("13 mm", self.get("/templates/shims", diameters="51 mm, 25 mm"))
        self.assertIn("must be a length", self.get("/templates/shims", 422, diameters="51, wide"))

    def test_frame(self) -> None:
        row = {
            "name": "stay",
            "count": "2",
            "diameter": "25",
            "wall": "1.2",
            "centre": "600",
            "start": "cope 51 at 45",
            "end": "plate 60",
        }
        text = self.get("/templates/frame", **row)
        self.assertIn("581.8 mm", text)
        self.assertIn('value="25 mm"', text)
        for key, typed, words in (
            ("end", "bent", "square, cope 51 at 45"),
            ("centre", "50", "would meet"),
            ("wall", "", "missing"),
            ("count", "1.5", "whole number"),
        ):
            wrong = self.get("/templates/frame", 422, **{**row, key: typed})
            self.assertIn(words, wrong)
            self.assertIn(f'value="{typed}', wrong)

    def test_too_many_tubes_are_reported(self) -> None:
        one = [("diameter", "25"), ("wall", "1.2"), ("centre", "600")]
        self.assertEqual(
            self.client.get("/templates/frame?" + urlencode(one * 60)).status_code, 200
        )
        answer = self.client.get("/templates/frame?" + urlencode(one * 61))
        self.assertEqual(answer.status_code, 422)
        self.assertIn("at most 60 tubes", answer.get_data(as_text=True))

    def test_frame_as_csv_and_back(self) -> None:
        row = {
            "name": "stay",
            "count": "2",
            "diameter": "25 mm",
            "wall": "1.2 mm",
            "centre": "600 mm",
            "start": "cope 51 mm at 45",
            "end": "plate at 60",
        }
        text = self.get("/templates/frame.csv", **row)
        self.assertTrue(
            text.startswith("name,count,diameter_mm,wall_mm,centre_mm,start,end,blank_mm,short_mm")
        )
        sent = {**self.token("/templates/frame"), "file": (io.BytesIO(text.encode()), "list.csv")}
        answer = self.client.post("/templates/frame", data=sent, content_type="multipart/form-data")
        self.assertEqual(answer.status_code, 200)
        self.assertIn("581.8 mm", answer.get_data(as_text=True))
        for raw, words in (
            (b"a,b\n1,2\n", "is missing"),
            (b"\xff\xfe\x00", "UTF-8"),
            (text.replace("600", "x").encode(), "Line 2"),
            (b"", "is empty. The first line must contain the headings"),
            (b'"a', "is not CSV"),
        ):
            answer = self.client.post(
                "/templates/frame",
                data={**self.token("/templates/frame"), "file": (io.BytesIO(raw), "list.csv")},
                content_type="multipart/form-data",
            )
            self.assertEqual(answer.status_code, 422)
            self.assertIn(words, answer.get_data(as_text=True))


class Before(WebCase):
    def test_every_joint_has_all_three(self) -> None:
        for data in EVERY.values():
            what = query_text(make_joint(data))
            for habit in ("mm", "in"):
                self.client.set_cookie("habit", habit)
                for page in ("fit-up", "tacks", "purge"):
                    answer = self.client.get(at(f"/set-up/{page}", what=what))
                    self.assertEqual(answer.status_code, 200, (page, what))
                    self.assertNotIn("None", re.sub(r"<[^>]*>", "", answer.get_data(as_text=True)))

    def test_of_nothing(self) -> None:
        for page in ("fit-up", "tacks", "purge"):
            self.assertEqual(self.client.get(f"/set-up/{page}").status_code, 404)
            self.assertEqual(
                self.client.get(at(f"/set-up/{page}", what="kept:P-0009/A")).status_code, 404
            )
        for number in ("7", "x", "99999999999"):
            self.assertEqual(self.client.get(f"/set-up/purge/{number}").status_code, 404)

    def test_the_template_is_a_tap_away(self) -> None:
        text = self.client.get(f"/set-up/plan?{LINK}").get_data(as_text=True)
        self.assertIn(
            "/templates/?kind=cope&amp;branch=25+mm&amp;wall=1.2+mm&amp;angle=45&amp;run=51+mm",
            text,
        )
        self.assertIn(
            "/templates/?kind=cope", self.client.get(f"/?{LINK}&open=fit-up").get_data(as_text=True)
        )

    def test_gap(self) -> None:
        text = self.client.get(
            at("/set-up/fit-up", what="joint=butt&length=300+mm", gap="0.1, 0.3")
        ).get_data(as_text=True)
        self.assertIn("measured 0.3 mm", text)
        self.assertIn("Plan with this gap", text)
        answer = self.client.get(
            at("/set-up/fit-up", what="joint=butt&length=300+mm", gap="wide <b>")
        )
        self.assertEqual(answer.status_code, 422)
        self.assertIn("wide &lt;b&gt;", answer.get_data(as_text=True))

    def test_tacks_are_ticked_and_restarted(self) -> None:
        what = "joint=butt&length=300+mm"
        page = at("/set-up/tacks", what=what)
        asked = {"Accept": "application/json"}
        answer = self.client.post(
            "/set-up/tacks/tick",
            data={**self.token(page), "what": what, "key": "tack-1", "on": "yes"},
            headers=asked,
        )
        self.assertEqual((answer.json["ticked"], answer.json["done"]), (["tack-1"], 1))
        self.post("/set-up/tacks/tick", {"what": what, "key": "tack-2", "on": "yes"}, page)
        self.assertIn("2 of", self.client.get(page).get_data(as_text=True))
        # another joint's list is its own
        self.assertIn(
            "0 of",
            self.client.get(at("/set-up/tacks", what="joint=butt&length=301+mm")).get_data(
                as_text=True
            ),
        )
        wrong = self.client.post(
            "/set-up/tacks/tick",
            data={**self.token(page), "what": what, "key": "tack-99"},
            headers=asked,
        )
        self.assertEqual(wrong.status_code, 422)
        self.post("/set-up/tacks/again", {"what": what}, page)
        self.assertIn("0 of", self.client.get(page).get_data(as_text=True))


class Purges(WebCase):
    def open_gas(self, **more: str):
        return self.post("/set-up/purge", {"what": LINK, **more}, "/templates/frame")

    def test_wrong_input(self) -> None:
        for key, typed, words in (
            ("vent_mm", "0", "sealed tube with gas flowing in"),
            ("gap_mm", "-1", "below 0"),
            ("target_ppm", "5", "the argon leaves"),
            ("flow_l_min", "lots", "must be a flow"),
            ("bore_mm", "", ""),
        ):
            answer = self.client.get(at("/set-up/purge", what=LINK, **{key: typed}))
            self.assertEqual(answer.status_code, 422 if words else 200)
            self.assertIn(words, answer.get_data(as_text=True))
            if words:
                self.assertEqual(self.open_gas(**{key: typed}).status_code, 422)
        answer = self.open_gas(port="80", flow_l_min="7")
        self.assertEqual(answer.status_code, 422)
        self.assertIn("port-fault", answer.get_data(as_text=True))
        self.assertIn('value="7 L/min"', answer.get_data(as_text=True))
        self.assertIsNone(purge_run.find_active(query_text(make_joint(EVERY["tube-cope"]))))

    def test_complete_purge_by_the_clock(self) -> None:
        where = self.open_gas(shape="told", volume_l="0.02").headers["Location"]
        page = self.client.get(where).get_data(as_text=True)
        self.assertIn("gas on for", page)
        # In progress: the page of the joint links to it, and opening it again continues it.
        self.assertEqual(self.client.get(at("/set-up/purge", what=LINK)).headers["Location"], where)
        self.assertEqual(self.open_gas().headers["Location"], where)
        held = self.post(f"{where}/arc", {}, where)
        self.assertEqual(held.status_code, 409)
        self.assertIn("Not ready.", held.get_data(as_text=True))
        self.assertIn("Strike anyway", held.get_data(as_text=True))
        self.assertEqual(self.post(f"{where}/arc", {"anyway": "yes"}, where).status_code, 303)
        self.assertEqual(self.client.get(f"{where}/live").json["phase"], "welding")
        self.post(f"{where}/arc-off", {}, where)
        self.assertEqual(self.post(f"{where}/shut", {}, where).status_code, 409)
        self.assertEqual(self.post(f"{where}/shut", {"anyway": "yes"}, where).status_code, 303)
        self.assertIn(
            "The next run of this procedure today", self.client.get(where).get_data(as_text=True)
        )
        self.assertEqual(self.post(f"{where}/fly", {}, "/templates/frame").status_code, 404)

    def test_with_the_simulated_meter(self) -> None:
        meter = Meter(
            lambda: simulate_readings(Behind(volume_l=0.02, flow_l_min=6, lag_s=0.2), 20), speed=5
        )
        threading.Thread(target=meter.serve, daemon=True).start()
        self.addCleanup(meter.close)
        where = self.open_gas(shape="told", volume_l="0.02", port=str(meter.port)).headers[
            "Location"
        ]
        for _ in range(100):
            live = self.client.get(f"{where}/live").json
            if live["ready"]:
                break
            threading.Event().wait(0.05)
        self.assertTrue(live["ready"])
        self.assertIn("at the vent", live["words"])
        self.assertTrue(live["svg"].startswith("<svg"))
        text = self.client.get(f"{where}/readings.csv").get_data(as_text=True)
        self.assertTrue(text.startswith("time_s,ppm\r\n"))
        self.assertGreater(len(text.splitlines()), 5)

    def test_goes_with_the_run(self) -> None:
        self.keep(LINK)
        what = "kept:P-0001/A"
        where = self.post("/set-up/purge", {"what": what}, at("/set-up/purge", what=what)).headers[
            "Location"
        ]
        for act in ("arc", "arc-off", "shut"):
            self.post(f"{where}/{act}", {"anyway": "yes"}, where)
        page = self.client.get("/procedures/P-0001/A/runs").get_data(as_text=True)
        self.assertIn("with its purge", page)
        number = re.search(r'name="purge" value="(\d+)"', page)[1]
        made = run(dict(EVERY["tube-cope"]))
        told = {
            f"{part}.{key}": str(value)
            for part in ("set", "used", "measured")
            for key, value in made[part].items()
        }
        form = {
            "when": "2026-03-04",
            "who": "R.T.",
            "front": "straw",
            "back": "silver",
            "outcome": "not-good",
            **told,
            "purge": number,
            "with_purge": "yes",
        }
        self.assertEqual(
            self.post("/procedures/P-0001/A/runs", form, "/procedures/P-0001/A/runs").status_code,
            303,
        )
        page = self.client.get("/procedures/P-0001/A/runs").get_data(as_text=True)
        self.assertIn("started early", page)
        self.assertNotIn("with its purge", page)
        kept = (
            json.loads(
                self.client.get("/procedures/P-0001/A/procedure.json").get_data(as_text=True)
            )
            if self.client.get("/procedures/P-0001/A/procedure.json").status_code == 200
            else None
        )
        if kept:
            self.assertFalse(kept["runs"][0]["purge"]["held"])


class HolesAndShims(WebCase):
    def test_marking_page_and_files(self) -> None:
        page = self.client.get("/templates/marking").get_data(as_text=True)
        for words in ("Distances to check", "94.3 mm", "PDF on A4", "PDF on Letter"):
            self.assertIn(words, page)
        wrong = self.client.get("/templates/marking?width=40+mm")
        self.assertEqual(wrong.status_code, 422)
        self.assertIn("crosses the edge of the plate", wrong.get_data(as_text=True))
        for kind in ("svg", "dxf", "pdf", "csv"):
            self.assertEqual(self.client.get(f"/templates/marking.{kind}").status_code, 200)
        self.assertEqual(self.client.get("/templates/marking.csv?width=4").status_code, 422)
        self.assertEqual(self.client.get("/templates/marking.step").status_code, 404)

    def test_shims_of_the_frame_from_stock(self) -> None:
        row = {"name": "leg", "count": "1", "diameter": "2 in", "wall": "1.5 mm", "centre": "400"}
        ends = {"start": "square", "end": "square"}
        frame = self.client.get("/templates/frame", query_string={**row, **ends})
        self.assertIn("/templates/shims?diameters=2+in", frame.get_data(as_text=True))
        page = self.client.get("/templates/shims?diameters=2+in,+1+in&stock=1/4,+1/8+x+2")
        text = page.get_data(as_text=True)
        self.assertIn("<b>0.5 in</b>", text)
        self.assertIn("2 × 0.25 in", text)
        again = self.client.get("/templates/shims?diameters=2+in").get_data(as_text=True)
        self.assertIn('value="1/4, 1/8 x 2"', again)
        wrong = self.client.get("/templates/shims?stock=thick")
        self.assertEqual(wrong.status_code, 422)
        self.assertIn("stock-fault", wrong.get_data(as_text=True))


class LongSeam(WebCase):
    def test_one_tick_for_a_round_of_tacks(self) -> None:
        what = "joint=outside-corner&a.thickness=1+mm&b.thickness=1+mm&length=700+mm"
        page = f"/set-up/tacks?what={quote(what)}"
        text = self.client.get(page).get_data(as_text=True)
        self.assertIn("Tacks 5 to 8", text)
        self.assertLess(text.count('data-line="tack-'), 12)
        answer = self.client.post(
            "/set-up/tacks/tick",
            data={**self.token(page), "what": what, "key": "tack-5", "on": "yes"},
            headers={"Accept": "application/json"},
        )
        self.assertEqual((answer.json["ticked"], answer.json["done"]), (["tack-5"], 1))
