"""Canonical JSON and signatures against published work.

RFC 8785, "JSON Canonicalization Scheme": the example of section 3.2.2, the sorted keys of section
3.2.3 and the numbers of appendix B (published; from memory). RFC 8032, section 7.1, test 1: an
Ed25519 signature (published; from memory).
"""

import base64
import struct
import unittest

from cryptography.hazmat.primitives.asymmetric.ed25519 import Ed25519PrivateKey

from wisearc.formats.signing import build_key_id, write_canonical

# IEEE 754 number, as hexadecimal digits, and its canonical form.
NUMBERS = {
    "0000000000000000": "0",
    "8000000000000000": "0",
    "0000000000000001": "5e-324",
    "7fefffffffffffff": "1.7976931348623157e+308",
    "4340000000000000": "9007199254740992",
    "4430000000000000": "295147905179352830000",
    "44b52d02c7e14af5": "9.999999999999997e+22",
    "44b52d02c7e14af6": "1e+23",
    "444b1ae4d6e2ef4e": "999999999999999700000",
    "444b1ae4d6e2ef50": "1e+21",
    "3eb0c6f7a0b5ed8c": "9.999999999999997e-7",
    "3eb0c6f7a0b5ed8d": "0.000001",
    "41b3de4355555553": "333333333.3333332",
    "41b3de4355555555": "333333333.3333333",
}


class CanonicalJson(unittest.TestCase):
    def test_numbers(self) -> None:
        for digits, text in NUMBERS.items():
            (number,) = struct.unpack(">d", bytes.fromhex(digits))
            with self.subTest(digits):
                self.assertEqual(write_canonical({"n": number}), f'{{"n":{text}}}'.encode())

    def test_the_example_of_the_standard(self) -> None:
        data = {
            "numbers": [333333333.33333329, 1e30, 4.50, 2e-3, 0.000000000000000000000000001],
            "string": "\u20ac$\u000f\u000aA'\u0042\u0022\u005c\\\"/",
            "literals": [None, True, False],
        }
        expected = (
            '{"literals":[null,true,false],"numbers":[333333333.3333333,1e+30,4.5,0.002,1e-27],'
            '"string":"\u20ac$\\u000f\\nA\'B\\"\\\\\\\\\\"/"}'
        )
        self.assertEqual(write_canonical(data), expected.encode())

    def test_keys_are_sorted_by_their_code_units(self) -> None:
        keys = ["\u20ac", "\r", "\ufb33", "1", "\U0001f600", "\u0080", "\u00f6"]
        text = write_canonical(dict.fromkeys(keys, 0)).decode()
        order = ["\r", "1", "\u0080", "\u00f6", "\u20ac", "\U0001f600", "\ufb33"]
        places = [text.index("\\r" if key == "\r" else key) for key in order]
        self.assertEqual(places, sorted(places))


class Ed25519(unittest.TestCase):
    def test_the_first_test_of_the_standard(self) -> None:
        private = Ed25519PrivateKey.from_private_bytes(
            bytes.fromhex("9d61b19deffd5a60ba844af492ec2cc44449c5697b326919703bac031cae7f60")
        )
        public = private.public_key().public_bytes_raw()
        self.assertEqual(
            public.hex(), "d75a980182b10ab7d54bfed3c964073a0ee172f3daa62325af021a68f707511a"
        )
        self.assertEqual(
            private.sign(b"").hex(),
            "e5564300c360ac729086e2cc806e828a84877f1eb8e5d974d873e065224901555fb8821590a33bacc61e39701c"
            "f9b46bd25bf5f0595bbe24655141438e7a100b",
        )
        self.assertEqual(len(build_key_id(public)), 32)
        self.assertEqual(len(base64.b64encode(public)), 44)


if __name__ == "__main__":
    unittest.main()
