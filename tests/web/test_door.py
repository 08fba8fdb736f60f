"""Device access: pages for unpaired devices, lead actions, and viewers."""

import re
import threading

from tests.web.case import WebCase, build_client
from wisearc.services.devices.devices import Devices
from wisearc.services.inventory import shop
from wisearc.web.context import get_context
from wisearc.web.gate import ADDRESSES, OPEN_TO_ALL
from wisearc.web.network import FROM_NETWORK, Network, is_beyond, mark_network

HOST = "192.168.7.5:8765"
FROM = {"HTTP_HOST": HOST, FROM_NETWORK: "yes"}


class NetworkAccess(WebCase):
    def setUp(self) -> None:
        super().setUp()
        get_context(self.app).network.addresses = (f"http://{HOST}",)
        self.devices: Devices = get_context(self.app).devices
        self.other = build_client(self.app)

    def get(self, path: str, **more: str) -> object:
        return self.other.get(path, environ_overrides={**FROM, **more})

    def pair(self, digits: str, name: str = "tablet") -> object:
        page = self.get("/let-in").get_data(as_text=True)
        token = re.search(r'name="csrf_token" value="([^"]+)"', page)[1]
        return self.other.post(
            "/let-in",
            data={"csrf_token": token, "digits": digits, "name": name},
            environ_overrides=FROM,
        )

    def test_unpaired_device_sees_one_page(self) -> None:
        self.keep()
        rules = [r for r in self.app.url_map.iter_rules() if r.endpoint not in OPEN_TO_ALL]
        self.assertGreater(len(rules), 50)
        for rule in rules:
            path = re.sub(r"<[^>]+>", "1", rule.rule)
            for method in rule.methods - {"OPTIONS", "HEAD"}:
                with self.subTest(path=path, method=method):
                    done = self.other.open(path, method=method, environ_overrides=FROM)
                    self.assertIn(done.status_code, (303,) if method == "GET" else (403,))
                    self.assertNotIn("P-0001", done.get_data(as_text=True))
        json_asked = self.other.get(
            "/", headers={"Accept": "application/json"}, environ_overrides=FROM
        )
        self.assertEqual(json_asked.status_code, 403)
        page = self.get("/let-in").get_data(as_text=True)
        self.assertNotIn("/procedures", page)

    def test_device_is_paired_named_and_removed(self) -> None:
        digits = self.devices.code().digits
        self.assertEqual(self.pair("000000" if digits != "000000" else "000001").status_code, 422)
        done = self.pair(digits)
        self.assertEqual(done.status_code, 303)
        self.assertIn("HttpOnly", done.headers["Set-Cookie"])
        self.assertEqual(self.get("/").status_code, 200)
        self.assertIn("Paired as <b>tablet</b>", self.get("/shop/devices").get_data(as_text=True))
        for act in ("code", "switch", "out"):
            self.assertIn(
                self.other.post(f"/shop/devices/{act}", environ_overrides=FROM).status_code,
                (400, 403),
            )
        self.assertEqual(
            self.post("/shop/devices/out", {"device": "1"}, page="/shop/devices").status_code, 303
        )
        self.assertEqual(self.get("/").status_code, 303)

    def test_behind_a_proxy_with_tls_the_secret_goes_by_tls_alone(self) -> None:
        self.app.config[ADDRESSES] = ("https://shop.example", "http://localhost")
        self.assertNotIn("Secure", self.pair(self.devices.code().digits).headers["Set-Cookie"])
        proxied = {"HTTP_HOST": "shop.example", "HTTP_X_FORWARDED_FOR": "10.0.0.9"}
        page = build_client(self.app)
        token = re.search(
            r'name="csrf_token" value="([^"]+)"',
            page.get("/let-in", environ_overrides=proxied).get_data(as_text=True),
        )[1]
        sent = {"csrf_token": token, "digits": self.devices.code().digits, "name": "phone"}
        done = page.post("/let-in", data=sent, environ_overrides=proxied)
        self.assertIn("Secure", done.headers["Set-Cookie"])
        # every cookie is sent back by TLS alone: the session's, who works here, the theme
        for asked in (
            page.get("/let-in", environ_overrides=proxied),
            page.get("/preferences?theme=dark&units=in", environ_overrides=proxied),
            page.get("/procedures/begin", environ_overrides=proxied),
            page.post(
                "/shop/people/me",
                data={"csrf_token": token, "initials": ""},
                environ_overrides=proxied,
            ),
            done,
        ):
            for cookie in asked.headers.getlist("Set-Cookie"):
                self.assertIn("; Secure", cookie)
        plain = build_client(self.app).get("/preferences?theme=dark")
        self.assertNotIn("Secure", plain.headers["Set-Cookie"])

    def test_forwarding_headers(self) -> None:
        names = (
            "FORWARDED",
            "FORWARDED_FOR",
            "X_FORWARDED_FOR",
            "X_FORWARDED_SERVER",
            "X_FORWARDED",
            "X_REAL_IP",
            "X_CLIENT_IP",
            "X_CLUSTER_CLIENT_IP",
            "TRUE_CLIENT_IP",
            "X_ANYBODY_CONNECTING_IP",
            "CLIENT_IP",
            "X_REMOTE_ADDR",
            "X_REMOTE_IP",
            "X_ORIGINAL_HOST",
            "X_ORIGINAL_FORWARDED_FOR",
            "X_PROXYUSER_IP",
            "VIA",
        )
        local = {"HTTP_HOST": "127.0.0.1:8765"}
        self.assertFalse(is_beyond(local))
        for name in names:
            self.assertTrue(is_beyond({**local, f"HTTP_{name}": "10.0.0.9"}), name)
        for name in (
            "ACCEPT",
            "USER_AGENT",
            "REFERER",
            "SEC_FETCH_SITE",
            "COOKIE",
            "IF_NONE_MATCH",
        ):
            self.assertFalse(is_beyond({**local, f"HTTP_{name}": "x"}), name)

    def test_removed_device_gets_a_message(self) -> None:
        done = self.other.post(
            "/weld/acts", environ_overrides=FROM, headers={"Accept": "application/json"}
        )
        self.assertEqual(done.status_code, 403)
        self.assertIn("this device is not paired", done.get_json()["error"])

    def test_host_origin_and_a_stranger_s_cookie(self) -> None:
        self.pair(self.devices.code().digits)
        for host in ("127.0.0.1", "localhost", "evil.example", "192.168.7.5:80", ""):
            with self.subTest(host):
                self.assertEqual(self.get("/", HTTP_HOST=host).status_code, 421)
        for origin, code in ((f"http://{HOST}", 400), ("http://localhost", 403), ("null", 403)):
            self.assertEqual(
                self.other.post(
                    "/procedures/draft", environ_overrides={**FROM, "HTTP_ORIGIN": origin}
                ).status_code,
                code,
            )
        self.other.set_cookie("wisearc-device", "x", domain=HOST.partition(":")[0])
        self.assertEqual(
            build_client(self.app)
            .get("/", environ_overrides={**FROM, "HTTP_COOKIE": "wisearc-device-x=1"})
            .status_code,
            303,
        )

    def test_too_many_wrong_ones(self) -> None:
        for _ in range(5):
            wrong = f"{(int(self.devices.code().digits) + 1) % 10**6:06d}"
            self.assertEqual(self.pair(wrong).status_code, 422)
        done = self.pair("123456")
        self.assertEqual(done.status_code, 429)
        self.assertIn("Wait 1 minute, then", done.get_data(as_text=True))
        # The machine still gives codes.
        self.assertEqual(len(self.devices.code().digits), 6)

    def test_sheets_lead_to_the_network_while_it_is_on(self) -> None:
        here = self.keep()
        self.assertIn(
            f"http://{HOST}/procedures/P-0001/A",
            self.client.get(here + "/print").get_data(as_text=True),
        )
        get_context(self.app).network.addresses = ()
        self.assertIn(
            "http://localhost/procedures/P-0001/A",
            self.client.get(here + "/print").get_data(as_text=True),
        )


class Listening(WebCase):
    def test_switch_on_and_off(self) -> None:
        made, asked = [], threading.Event()

        class Server:
            active_channels: dict = {}  # noqa: RUF012
            _map: dict = {}  # noqa: RUF012
            closed = False

            class asyncore:  # noqa: N801
                @staticmethod
                def loop(**_more: object) -> None:
                    asked.set()

            class task_dispatcher:  # noqa: N801
                @staticmethod
                def shutdown(timeout: float) -> None:
                    pass

            def close(self) -> None:
                self.closed = True

        def listen(host: str, port: int) -> Server:
            if host == "10.9.9.9":
                raise OSError("no such address")
            made.append((host, port))
            self.server = Server()
            return self.server

        network = Network()
        network.on()
        self.assertFalse(network.is_on)
        network.ready(listen, 8765, "10.0.0.3")
        network.on()
        network.on()
        self.assertTrue(asked.wait(5))
        self.assertEqual(
            (made, network.addresses[0]), ([("10.0.0.3", 8765)], "http://10.0.0.3:8765")
        )
        network.off()
        self.assertEqual((network.is_on, network.addresses, self.server.closed), (False, (), True))
        network.ready(listen, 8765, "10.9.9.9")
        with self.assertRaisesRegex(Exception, "cannot be used"):
            network.on()

    def test_network_requests_are_marked(self) -> None:
        seen = {}
        mark_network(lambda environ, start: seen.update(environ))({"A": "b"}, None)
        self.assertEqual(seen, {"A": "b", FROM_NETWORK: "plain"})


class Hands(WebCase):
    def setUp(self) -> None:
        super().setUp()

    def test_the_lead_s_acts_ask_for_the_pin_and_lose_nothing(self) -> None:
        self.post("/shop/name", {"name": "Ours"}, page="/shop/")
        self.post(
            "/shop/people/enter",
            {"initials": "K.S.", "role": "lead", "pin": "246824"},
            page="/shop/people/",
        )
        asked = self.post("/shop/name", {"name": "Theirs"}, page="/shop/")
        self.assertEqual((asked.status_code, shop.load_shop().name), (403, "Ours"))
        self.assertIn('name="name" value="Theirs"', asked.get_data(as_text=True))
        self.assertEqual(
            self.post(
                "/shop/name", {"name": "Theirs", "lead-pin": "111111"}, page="/shop/"
            ).status_code,
            403,
        )
        self.assertEqual(
            self.post(
                "/shop/name", {"name": "Theirs", "lead-pin": "246824"}, page="/shop/"
            ).status_code,
            303,
        )
        self.assertEqual(self.post("/shop/name", {"name": "Mine"}, page="/shop/").status_code, 303)
        self.assertEqual(shop.load_shop().name, "Mine")
        self.post("/shop/people/lock", {}, page="/shop/people/")
        self.assertEqual(
            self.post(
                "/shop/people/enter", {"initials": "X", "role": "welder"}, page="/shop/people/"
            ).status_code,
            403,
        )
        # a count and a draft are everyone's
        self.assertEqual(self.post("/procedures/draft", {"link": "joint=tee"}).status_code, 303)

    def test_a_viewer_changes_nothing(self) -> None:
        self.post("/shop/people/enter", {"initials": "V", "role": "viewer"}, page="/shop/people/")
        self.assertEqual(
            self.post("/shop/people/me", {"initials": "V"}, page="/shop/people/").status_code, 303
        )
        refused = self.post("/procedures/draft", {"link": "joint=tee"})
        self.assertEqual(refused.status_code, 403)
        self.assertIn("has view-only access", refused.get_data(as_text=True))
        self.post("/shop/people/me", {"initials": ""}, page="/shop/people/")
        self.assertEqual(self.post("/procedures/draft", {"link": "joint=tee"}).status_code, 303)

    def test_records_name_the_person_of_the_device(self) -> None:
        self.post(
            "/shop/people/enter", {"initials": "R.T.", "role": "welder"}, page="/shop/people/"
        )
        self.post("/shop/people/me", {"initials": "R.T."}, page="/shop/people/")
        page = self.client.get(self.keep() + "/runs").get_data(as_text=True)
        self.assertIn('name="who" maxlength="60" autocomplete="off" value="R.T."', page)
        self.assertIn("This device: R.T.", page)
        wrong = self.post(
            "/shop/people/enter", {"initials": "R.T.", "role": "welder"}, page="/shop/people/"
        )
        self.assertEqual(wrong.status_code, 422)
        self.assertEqual(
            self.post("/shop/people/away", {"person": "1"}, page="/shop/people/").status_code, 303
        )
        self.assertEqual(
            self.post("/shop/people/away", {"person": "9"}, page="/shop/people/").status_code, 404
        )
