"""The starting chart: its cells are plans; its sizes are those of the gauge; page, CSV and PDF."""

import csv
import html
import io
import re
import tempfile
from pathlib import Path

import pypdf

from tests.command import wisearc
from tests.web.case import WebCase
from wisearc.core.errors import UnknownName
from wisearc.core.plan.plan import make_plan
from wisearc.core.shop.data import make_item
from wisearc.core.shop.shop import ASSUMED, Machine, Shop
from wisearc.presenters.starting_chart import describe_chart
from wisearc.services.inventory import shop
from wisearc.services.planning.starting_chart import (
    USUAL,
    StartingChart,
    build_chart,
    list_chart_joints,
)


def build(metal: str = "304L", units: str = "mm", scale: str = "") -> StartingChart:
    return build_chart(metal, units, scale, ASSUMED, USUAL)


class Chart(WebCase):
    def test_each_cell_is_the_plan_of_its_joint(self) -> None:
        chart = build()
        text = describe_chart(chart)
        for row, (_, cells) in zip(chart.rows, text.rows, strict=True):
            for key, cell, words in zip(chart.joints, row.cells, cells, strict=True):
                assert cell.joint is not None and cell.plan is not None
                self.assertEqual(cell.joint.kind.key, key)
                self.assertEqual(cell.joint.members[0].thickness_mm, row.thickness_mm)
                plan = make_plan(cell.joint, ASSUMED)
                self.assertEqual(words.amps.split()[0], f"{plan.slopes.machine_a:.0f}")
                self.assertEqual(words.rod.split()[0], plan.filler.rod or "no")
                self.assertIn(f"no. {plan.torch.cup} ", words.lines[-2])
                self.assertIn(f"post-flow {plan.gas.postflow_s:g} s", words.lines[-1])
                self.assertEqual("peak" in words.amps, plan.pulse.pulsed)
                # A pedal that holds back a part of the setting never hides the current of the arc.
                held = not plan.pulse.pulsed and words.amps != f"{plan.current.steady_a:.0f} A"
                self.assertEqual(words.arc, f"arc {plan.current.steady_a:.0f} A" if held else "")
                for figure in (plan.pulse.on_pct, plan.pulse.background_pct):
                    if plan.pulse.pulsed:
                        self.assertIn(f"{figure or 0:.0f} %", words.pulse)

    def test_every_peak_has_its_pulse(self) -> None:
        """104 A on 1.5 mm sheet without pulse burns through: common practice, no source."""
        cells = [cell for _, row in describe_chart(build()).rows for cell in row]
        self.assertTrue(all(bool(cell.pulse) == ("peak" in cell.amps) for cell in cells))
        (corner,) = [c for c in cells if c.amps == "104 A peak" and c.lines[2] == "no rod"][:1]
        self.assertEqual(corner.lines[1], "1.9 per second, 30 %, 10 %")
        machine = make_item("machines", {"name": "plain", "most_a": 200, "pulse": None})
        assert isinstance(machine, Machine)
        by_foot = describe_chart(build_chart("304L", "mm", "", Shop(machines=(machine,)), USUAL))
        self.assertIn(
            "about one per second, by pedal", {c.pulse for _, row in by_foot.rows for c in row}
        )

    def test_one_ampere_for_each_thousandth_of_an_inch(self) -> None:
        """Common practice, no source: 1 A for 0.001 in of sheet, for a bead without pulse.

        The plans stay within a third of it up to 2 mm. Thicker sheet needs less.
        """
        chart = build()
        butt = chart.joints.index("butt")
        for row in chart.rows:
            plan = row.cells[butt].plan
            assert plan is not None
            rule_a = row.thickness_mm / 25.4 * 1000
            ratio = plan.slopes.machine_a / rule_a
            self.assertLess(abs(ratio - 1), 0.34 if row.thickness_mm <= 2 else 0.45)

    def test_rows_by_gauge(self) -> None:
        """16 gauge: 0.0625 in stainless, 0.0598 in carbon: US standard, manufacturers' gauge."""
        for metal, scale, inches in (
            ("304L", "", 0.0625),
            ("mild-steel", "", 0.0598),
            ("304L", "carbon", 0.0598),
        ):
            rows = build(metal, "in", scale).rows
            (row,) = [row for row in rows if row.gauge == 16]
            self.assertAlmostEqual(row.thickness_mm, inches * 25.4, places=6)
        self.assertTrue(all(row.gauge is None for row in build().rows))
        self.assertEqual(build("304L", "mm", "stainless").rows[0].gauge, 24)
        # Sheet of the trade: common practice, no source.
        self.assertEqual(
            [row.thickness_mm for row in build().rows], [0.8, 1.0, 1.2, 1.5, 2.0, 2.5, 3.0]
        )
        self.assertEqual(
            [row.gauge for row in build("304L", "in").rows], [24, 22, 20, 18, 16, 14, 12]
        )
        self.assertIn("edge", list_chart_joints())
        self.assertNotIn("tube-butt", list_chart_joints())
        for wrong in (("tin", "mm", ""), ("304L", "cubits", ""), ("304L", "in", "tube")):
            with self.assertRaises(UnknownName):
                build(*wrong)

    def test_stop_is_shown_and_no_setting(self) -> None:
        machine = make_item("machines", {"name": "small", "most_a": 60})
        assert isinstance(machine, Machine)
        chart = build_chart("304L", "mm", "", Shop(machines=(machine,)), USUAL)
        cells = [cell for row in describe_chart(chart).rows for cell in row[1]]
        stopped = [
            cell for row in chart.rows for cell in row.cells if cell.plan and cell.plan.stopped
        ]
        self.assertTrue(stopped)
        self.assertEqual(len([cell for cell in cells if cell.stop]), len(stopped))
        self.assertTrue(all(not cell.amps for cell in cells if cell.stop))

    def test_page_leads_to_the_plans(self) -> None:
        page = self.client.get("/reference/chart?metal=316L").get_data(as_text=True)
        links = [html.unescape(found) for found in re.findall(r'href="(/plan\?joint=[^"]+)"', page)]
        self.assertEqual(len(links), 7 * 6)
        plan = self.client.get(links[8]).get_data(as_text=True)
        self.assertIn("316L", plan)
        self.assertIn(
            "carbon sheet gauge",
            self.client.get("/reference/chart?units=in&gauge=carbon").get_data(as_text=True),
        )
        self.assertEqual(self.client.get("/reference/chart?metal=tin").status_code, 422)
        self.assertEqual(self.client.get("/reference/chart.exe").status_code, 422)

    def test_figures_are_those_of_the_shop(self) -> None:
        for fields in (
            {"kind": "cup", "family": "large", "cup": 6, "fits": "gas-lens"},
            {"kind": "gas-lens", "family": "large", "tungsten_mm": 1.6},
        ):
            shop.enter(make_item("parts", fields))
        text = self.client.get("/reference/chart.csv").get_data(as_text=True)
        cups = {row["cup"] for row in csv.DictReader(io.StringIO(text)) if row["setting"]}
        self.assertIn("no. 6 gas lens", cups)
        self.assertNotIn("no. 8 gas lens", cups)

    def test_pdf_is_one_page_on_both_papers(self) -> None:
        for paper, width in (("a4", 297.0), ("letter", 279.4)):
            sent = self.client.get(f"/reference/chart.pdf?units=in&paper={paper}")
            (page,) = pypdf.PdfReader(io.BytesIO(sent.get_data())).pages
            self.assertAlmostEqual(float(page.mediabox.width), width / 25.4 * 72, delta=0.5)
            words = page.extract_text()
            for text in (
                "16 ga",
                "outside corner",
                "post-flow",
                "30 %",
                "arc ",
                "12 in long",
                "Weld a coupon",
            ):
                self.assertIn(text, words)
        self.assertEqual(self.client.get("/reference/chart.pdf?paper=napkin").status_code, 422)


class Command(WebCase):
    def test_chart_of_a_library_or_of_usual_equipment(self) -> None:
        done = wisearc("chart", "--metal", "430", "--units", "in")
        self.assertEqual(done.returncode, 0)
        rows = list(csv.DictReader(io.StringIO(done.stdout.decode())))
        self.assertEqual(len(rows), 7 * 6)
        with tempfile.TemporaryDirectory() as folder:
            out = Path(folder) / "chart.pdf"
            done = wisearc("chart", "--out", str(out))
            self.assertEqual((done.returncode, out.read_bytes()[:5]), (0, b"%PDF-"))
            wrong = wisearc("chart", "--out", str(Path(folder) / "chart.png"))
            self.assertIn("must end in .pdf or .csv", wrong.stderr.decode())
        wrong = wisearc("chart", "--metal", "tin")
        self.assertNotEqual(wrong.returncode, 0)
        self.assertIn("tin", wrong.stderr.decode())
