"""Pages of Weld without script: forms, records, logs imported and drawn; errors at their fields."""

import gzip
import io
import itertools
import re
import time
import types
from pathlib import Path
from unittest import mock

from PIL import Image

from tests.waves import Wave, format_csv
from tests.web.case import WebCase
from wisearc.web.weld import views

LINK = "joint=outside-corner&a.thickness=16+ga&length=90+mm"


def picture() -> io.BytesIO:
    out = io.BytesIO()
    Image.new("RGB", (60, 40), "white").save(out, "JPEG")
    out.seek(0)
    return out


class Run(WebCase):
    def setUp(self) -> None:
        super().setUp()
        self.kept = self.keep(LINK)
        number, letter = self.kept.rstrip("/").split("/")[-2:]
        self.what = f"kept:{number}/{letter.partition('?')[0]}"
        self.page = f"/weld/at?what={self.what}"

    def text(self, address: str = "") -> str:
        return self.client.get(address or self.page).get_data(as_text=True)

    def press(self, *keys: str) -> None:
        for key in keys:
            page = self.text()
            form = {
                name: re.search(rf'name="{name}" value="([^"]*)"', page)[1]
                for name in ("csrf_token", "what", "job", "once", "began", "step")
            }
            done = self.client.post("/weld/act", data={**form, "key": key})
            self.assertEqual(done.status_code, 303, done.get_data(as_text=True)[:300])
            time.sleep(0.01)

    def to_the_end(self) -> str:
        self.press("skip", "main", "main", "main", "main", "main")
        page = self.text()
        if 'aria-current="step">Wait' in page:
            self.press("main")
        return re.search(r'href="(/weld/\d+/write)"', self.text())[1]

    def test_led_by_forms_to_the_end(self) -> None:
        self.assertIn('aria-current="step">Tacks', self.text())
        self.press("skip")
        self.assertIn('aria-current="step">Pool', self.text())
        self.press("main", "main")
        self.assertIn("Taper", self.text())
        self.press("restart")
        self.assertIn("Restart.", self.text())
        self.press("main", "main", "main", "main", "main")
        self.assertIn("</b> in progress</a>", self.text("/weld/"))

    def test_session_left_resumed_and_recorded_later(self) -> None:
        self.press("skip", "main")
        number = re.search(r"/weld/(\d+)/leave", self.text())[1]
        token = {"csrf_token": re.search(r'name="csrf_token" value="([^"]*)"', self.text())[1]}
        left = self.client.post(f"/weld/{number}/leave", data=token)
        here = left.headers["Location"]
        self.assertIn("run stopped. <button", self.text(here))
        self.assertNotIn("in progress", self.text(here))
        # The page starts again, and continues after the session is resumed.
        self.assertIn('aria-current="step">Tacks', self.text())
        back = self.client.post(f"/weld/{number}/take-up", data=token)
        self.assertIn('aria-current="step">Pool', self.text(back.headers["Location"]))
        self.assertNotIn("run stopped. <button", self.text(here))
        for left_out in ("x", "", "99", "9" * 12):
            self.assertEqual(self.client.get(f"/weld/?left={left_out}").status_code, 200)
        # A finished session is recorded from the list.
        self.press("main", "main", "main", "main")
        if 'aria-current="step">Wait' in self.text():
            self.press("main")
        self.assertIn(f'<a href="/weld/{number}/write">', self.text("/weld/"))

    def test_run_recorded_with_known_values(self) -> None:
        address = self.to_the_end()
        page = self.text(address)
        self.assertIn("All known values, from the taps", page)
        number = re.search(r'name="number" value="(\d+)"', page)[1]
        form = {**self.token(address), "number": number}
        wrong = self.client.post(
            "/weld/write", data={**form, "outcome": "good", "notes": "half way"}
        )
        self.assertEqual(wrong.status_code, 422)
        body = wrong.get_data(as_text=True)
        for words in ("Select the tint of the face", "Enter your initials", "half way"):
            self.assertIn(words, body)
        told = {
            **form,
            "who": "K.M.",
            "front": "straw",
            "back": "silver",
            "faults": ["bowed", "uneven"],
            "look": "even",
            "measured.bow_mm": "2,5",
            "measured.read_off_a": "47",
            "outcome": "not-good",
            "is_coupon": "yes",
            "coupon_label": "with bar",
            "coupon_bend": "sheet",
            "rust_test": "kitchen",
            "rust_minutes": "4",
        }
        done = self.client.post(
            "/weld/write",
            data={**told, "photographs": [(picture(), "weld.jpg")]},
            content_type="multipart/form-data",
        )
        self.assertEqual(done.status_code, 303)
        record = self.text(self.kept + "/runs")
        for words in (
            "with bar",
            "broke in the sheet",
            "proves little",
            "2.5 mm",
            "Current read off while welding",
            "47 A",
            "tails, uneven ripple",
            "No settings out of range",
        ):
            self.assertIn(words, record)
        image = re.search(r'src="(/weld/photograph/[0-9a-f]{64}\.jpg)"', record)[1]
        with self.client.get(image) as answer:
            self.assertEqual(answer.mimetype, "image/jpeg")
        # A recorded session is no longer open.
        self.assertNotIn("Unrecorded runs", self.text("/weld/"))
        self.assertEqual(self.client.get(address).status_code, 303)

    def test_a_photograph_that_is_none(self) -> None:
        address = self.to_the_end()
        number = re.search(r'name="number" value="(\d+)"', self.text(address))[1]
        form = {
            **self.token(address),
            "number": number,
            "who": "K.M.",
            "front": "straw",
            "back": "silver",
            "outcome": "not-good",
        }
        bad = self.client.post(
            "/weld/write",
            data={**form, "photographs": [(io.BytesIO(b"<script>"), "x.jpg")]},
            content_type="multipart/form-data",
        )
        self.assertEqual(bad.status_code, 422)
        self.assertIn("is not a readable photo", bad.get_data(as_text=True))
        many = [(picture(), f"{i}.jpg") for i in range(7)]
        bad = self.client.post(
            "/weld/write", data={**form, "photographs": many}, content_type="multipart/form-data"
        )
        self.assertIn("exceed the maximum of 6 at once", bad.get_data(as_text=True))

    def test_good_that_does_not_show_enough_is_refused(self) -> None:
        # The time between two taps must not depend on the speed of this machine.
        taps_s = itertools.count(time.time(), 0.01)
        clock = types.SimpleNamespace(time=lambda: next(taps_s))
        with mock.patch.object(views, "time", clock):
            address = self.to_the_end()
        number = re.search(r'name="number" value="(\d+)"', self.text(address))[1]
        # Taps a hundredth of a second apart give no arc time.
        form = {
            **self.token(address),
            "number": number,
            "who": "K.M.",
            "front": "straw",
            "back": "silver",
            "outcome": "good",
        }
        page = self.client.post("/weld/write", data=form)
        self.assertEqual(page.status_code, 422)
        self.assertIn(
            "Missing: arc time", page.get_data(as_text=True).replace("welded length, ", "")
        )

    def test_good_whose_log_was_not_the_run_planned_is_offered_as_done(self) -> None:
        kept = self.keep("joint=outside-corner&pulse=slow-cold&a.thickness=16+ga&length=90+mm")
        number, letter = kept.rstrip("/").split("/")[-2:]
        self.page = f"/weld/at?what=kept:{number}/{letter}"
        address = self.to_the_end()
        wave = Wave(rate=2.0, on=0.3, peak=80, background=8, hz=100, arc=26.5, down=1.0, noise=0.3)
        time_s, current, gas = wave.rows()
        self.assertIn("measured.read_off_a", self.text(address))
        self.client.get(self.log(format_csv(time_s, current, gas=gas), address))
        # A log measures the current, so the form does not ask for it.
        self.assertNotIn("measured.read_off_a", self.text(address))
        log = re.search(r'href="(/weld/logs/[0-9a-f]{64}[^"]*)"', self.text(address))[1]
        left = re.search(r"Out of range</h2>.*?</ul>", self.text(log.replace("&amp;", "&")), re.S)
        self.assertRegex(left[0], r">Peak 80 A, allowed \d+ A to \d+ A, from [\d.]+ s to [\d.]+ s<")
        form = {
            **self.token(address),
            "number": re.search(r'name="number" value="(\d+)"', self.text(address))[1],
            "who": "K.M.",
            "front": "straw",
            "back": "silver",
        }
        page = self.client.post("/weld/write", data={**form, "outcome": "good"})
        self.assertEqual(page.status_code, 422)
        self.assertIn("Save as a new draft", page.get_data(as_text=True))
        done = self.client.post("/weld/write", data={**form, "outcome": "as-done"})
        self.assertEqual(done.status_code, 303)
        self.assertIn("80 A", self.text(done.headers["Location"].partition("?")[0]))

    def log(self, text: str, address: str) -> str:
        number = re.search(r'name="number" value="(\d+)"', self.text(address))[1]
        sent = self.client.post(
            "/weld/log",
            data={
                **self.token(address),
                "number": number,
                "log": (io.BytesIO(text.encode()), "log.csv"),
            },
            content_type="multipart/form-data",
        )
        self.assertEqual(sent.status_code, 303)
        for _ in range(200):
            state = self.client.get(
                sent.headers["Location"], headers={"Accept": "application/json"}
            ).get_json()
            if state["state"] not in ("waits", "reads"):
                return sent.headers["Location"]
            time.sleep(0.02)
        raise AssertionError("not read")

    def test_log_is_uploaded_drawn_and_downloaded(self) -> None:
        address = self.to_the_end()
        time_s, current, gas = Wave(
            rate=2.0, on=0.3, peak=150, background=8, hz=100, arc=20, noise=0.5
        ).rows()
        text = format_csv(time_s, current, gas=gas)
        reading = self.log(text, address)
        self.assertEqual(self.client.get(reading).status_code, 303)
        page = self.text(address)
        self.assertIn("from the log", page)
        log = re.search(r'href="(/weld/logs/[0-9a-f]{64}[^"]*)"', page)[1].replace("&amp;", "&")
        plot = self.text(log)
        self.assertIn("<svg", plot)
        self.assertIn("2.00 /s", plot)
        nearer = re.search(r'href="([^"]+)" aria-keyshortcuts="\+"', plot)[1].replace("&amp;", "&")
        again = self.text(nearer)
        self.assertNotEqual(
            *(re.search(r'class="drawing"><svg.*?</svg>', one, re.S)[0] for one in (plot, again))
        )
        came = self.client.get(log.partition("?")[0] + ".csv")
        self.assertEqual(came.get_data(as_text=True), text)
        self.assertEqual(came.headers["Cache-Control"], "private, no-cache")
        packed = self.client.get(came.request.path, headers={"Accept-Encoding": "gzip"})
        self.assertEqual(gzip.decompress(packed.data).decode(), text)
        self.assertEqual(packed.headers["Content-Encoding"], "gzip")
        for answer in (came, packed):
            given = {"If-None-Match": answer.headers["ETag"]}
            if answer is packed:
                given["Accept-Encoding"] = "gzip"
            self.assertEqual(self.client.get(came.request.path, headers=given).status_code, 304)
            ranged = self.client.get(came.request.path, headers={"Range": "bytes=0-9"})
            self.assertEqual(ranged.status_code, 200)
        for odd in ("?from=x&to=nan", "?from=9e99&to=-9e99", "?from=5&to=5"):
            self.assertEqual(self.client.get(log.partition("?")[0] + odd).status_code, 200)

    def test_a_log_that_is_none(self) -> None:
        address = self.to_the_end()
        failed = self.client.get(self.log("hello\n", address))
        self.assertEqual(failed.status_code, 422)
        self.assertIn("column names", failed.get_data(as_text=True))
        self.assertEqual(list(Path(self.folder).glob("*.part")), [])
        number = re.search(r'name="number" value="(\d+)"', self.text(address))[1]
        none = self.client.post("/weld/log", data={**self.token(address), "number": number})
        self.assertIn("Choose a log", none.get_data(as_text=True))

    def test_missing_pages(self) -> None:
        for address in (
            "/weld/99/write",
            "/weld/x/live",
            "/weld/99999999999/live",
            "/weld/logs/" + "0" * 64,
            "/weld/logs/..%2Fsecret",
            "/weld/photograph/" + "0" * 64 + ".jpg",
            "/weld/1/trace.csv",
            "/weld/1/reading/none",
            "/weld/at",
            "/weld/at?what=kept:P-0001/Q",
        ):
            with self.subTest(address):
                self.assertEqual(self.client.get(address).status_code, 404)

    def test_acts_as_json_twice_and_nonsense(self) -> None:
        token = self.token(self.page)["csrf_token"]
        for bad in ("", "[]", "{", '{"what": 1}', '{"acts": [1]}', "[" * 5000):
            self.assertEqual(
                self.client.post("/weld/acts", data={"csrf_token": token, "run": bad}).status_code,
                422,
            )
        now = time.time()
        body = (
            f'{{"what": "{self.what}", "job": "", "once": "once-number-1", "device": "device-one",'
            f' "began": {now - 9}, "now": {now}, "acts": [{{"id": "act-number-1", "at": {now - 5},'
            ' "step": "bars-on", "key": "skip"}]}'
        )
        for _ in range(2):
            answer = self.client.post(
                "/weld/acts", data={"csrf_token": token, "run": body}
            ).get_json()
        self.assertEqual(len(answer["acts"]), 1)

    def test_a_port_that_is_none(self) -> None:
        page = self.text()
        form = {
            name: re.search(rf'name="{name}" value="([^"]*)"', page)[1]
            for name in ("csrf_token", "what", "job", "once")
        }
        bad = self.client.post("/weld/source", data={**form, "port": "80"})
        self.assertEqual(bad.status_code, 422)
        self.assertIn("power source on this machine", bad.get_data(as_text=True))

    def test_superseded_leads_to_the_newest(self) -> None:
        whole = "joint=outside-corner&a.thickness=16+ga&length=380+mm"
        kept = self.keep(whole)
        number = kept.split("/")[2]
        self.assertEqual(
            self.post(f"{kept}/runs", self.run_form(), kept + "/runs").status_code, 303
        )
        change = self.post("/procedures/draft", {"link": whole + "&title=Anew", "from": number})
        newest = change.headers["Location"]
        self.assertEqual(
            self.post(newest + "/runs", self.run_form(), newest + "/runs").status_code, 303
        )
        page = self.text(f"/weld/at?what=kept:{number}/A")
        self.assertIn(f"Weld {number} B", page)
        self.assertNotIn("at-key", page)

    def test_two_runs_compared(self) -> None:
        for colour in ("straw", "blue"):
            form = {
                **self.run_form(outcome="not-good"),
                "front": colour,
                **self.token(self.kept + "/runs"),
            }
            self.assertEqual(self.client.post(self.kept + "/runs", data=form).status_code, 303)
        number, letter = self.what.removeprefix("kept:").split("/")
        page = self.text(f"/weld/compare/{number}/{letter}")
        self.assertEqual(page.count('class="differs"'), 2)
        self.assertIn(">blue<", page)
        self.assertEqual(
            self.client.get(f"/weld/compare/{number}/{letter}?left=999").status_code, 404
        )
