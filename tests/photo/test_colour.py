"""Colour difference and light, against published values.

CIEDE2000: the test pairs of Sharma, Wu and Dalal, Color Research and Application 30 (2005) 21–30,
table 1 (from memory).
"""

import unittest

import numpy as np

from wisearc.photo.colour import LINEAR, calculate_ciede2000, convert_to_lab, encode_srgb, read_hex

# L*, a*, b* of both colours, and their difference.
PAIRS = (
    (50.0000, 2.6772, -79.7751, 50.0000, 0.0000, -82.7485, 2.0425),
    (50.0000, 3.1571, -77.2803, 50.0000, 0.0000, -82.7485, 2.8615),
    (50.0000, 2.8361, -74.0200, 50.0000, 0.0000, -82.7485, 3.4412),
    (50.0000, -1.3802, -84.2814, 50.0000, 0.0000, -82.7485, 1.0000),
    (50.0000, -1.1848, -84.8006, 50.0000, 0.0000, -82.7485, 1.0000),
    (50.0000, -0.9009, -85.5211, 50.0000, 0.0000, -82.7485, 1.0000),
    (50.0000, 0.0000, 0.0000, 50.0000, -1.0000, 2.0000, 2.3669),
    (50.0000, -1.0000, 2.0000, 50.0000, 0.0000, 0.0000, 2.3669),
    (50.0000, 2.4900, -0.0010, 50.0000, -2.4900, 0.0009, 7.1792),
    (50.0000, 2.4900, -0.0010, 50.0000, -2.4900, 0.0010, 7.1792),
    (50.0000, 2.4900, -0.0010, 50.0000, -2.4900, 0.0011, 7.2195),
    (50.0000, 2.4900, -0.0010, 50.0000, -2.4900, 0.0012, 7.2195),
    (50.0000, -0.0010, 2.4900, 50.0000, 0.0009, -2.4900, 4.8045),
    (50.0000, -0.0010, 2.4900, 50.0000, 0.0010, -2.4900, 4.8045),
    (50.0000, -0.0010, 2.4900, 50.0000, 0.0011, -2.4900, 4.7461),
    (50.0000, 2.5000, 0.0000, 50.0000, 0.0000, -2.5000, 4.3065),
    (50.0000, 2.5000, 0.0000, 73.0000, 25.0000, -18.0000, 27.1492),
    (50.0000, 2.5000, 0.0000, 61.0000, -5.0000, 29.0000, 22.8977),
    (50.0000, 2.5000, 0.0000, 56.0000, -27.0000, -3.0000, 31.9030),
    (50.0000, 2.5000, 0.0000, 58.0000, 24.0000, 15.0000, 19.4535),
    (50.0000, 2.5000, 0.0000, 50.0000, 3.1736, 0.5854, 1.0000),
    (50.0000, 2.5000, 0.0000, 50.0000, 3.2972, 0.0000, 1.0000),
    (50.0000, 2.5000, 0.0000, 50.0000, 1.8634, 0.5757, 1.0000),
    (50.0000, 2.5000, 0.0000, 50.0000, 3.2592, 0.3350, 1.0000),
    (60.2574, -34.0099, 36.2677, 60.4626, -34.1751, 39.4387, 1.2644),
    (63.0109, -31.0961, -5.8663, 62.8187, -29.7946, -4.0864, 1.2630),
    (61.2901, 3.7196, -5.3901, 61.4292, 2.2480, -4.9620, 1.8731),
    (35.0831, -44.1164, 3.7933, 35.0232, -40.0716, 1.5901, 1.8645),
    (22.7233, 20.0904, -46.6940, 23.0331, 14.9730, -42.5619, 2.0373),
    (36.4612, 47.8580, 18.3852, 36.2715, 50.5065, 21.2231, 1.4146),
    (90.8027, -2.0831, 1.4410, 91.1528, -1.6435, 0.0447, 1.4441),
    (90.9257, -0.5406, -0.9208, 88.6381, -0.8985, -0.7239, 1.5381),
    (6.7747, -0.2908, -2.4247, 5.8714, -0.0985, -2.2286, 0.6377),
    (2.0776, 0.0795, -1.1350, 0.9033, -0.0636, -0.5514, 0.9082),
)


class Ciede2000(unittest.TestCase):
    def test_published_pairs(self) -> None:
        table = np.array(PAIRS)
        differences = calculate_ciede2000(table[:, :3], table[:, 3:6])
        for pair, difference in zip(PAIRS, differences, strict=True):
            with self.subTest(pair[:6]):
                self.assertAlmostEqual(float(difference), pair[6], delta=0.00006)

    def test_is_symmetrical_and_zero_for_equal_colours(self) -> None:
        table = np.array(PAIRS)
        forward = calculate_ciede2000(table[:, :3], table[:, 3:6])
        np.testing.assert_allclose(calculate_ciede2000(table[:, 3:6], table[:, :3]), forward)
        self.assertEqual(float(calculate_ciede2000(table[0, :3], table[0, :3])), 0.0)

    def test_lightness_factor_divides_lightness_alone(self) -> None:
        first, lighter = np.array([50.0, 0, 0]), np.array([60.0, 0, 0])
        normal = float(calculate_ciede2000(first, lighter))
        self.assertAlmostEqual(float(calculate_ciede2000(first, lighter, 2.0)), normal / 2)


class Light(unittest.TestCase):
    def test_lab_of_srgb_primaries(self) -> None:
        """IEC 61966-2-1 and CIE 15, D65: published values of the primaries, from memory."""
        for code, lab in (
            ("#ff0000", (53.24, 80.09, 67.20)),
            ("#00ff00", (87.73, -86.18, 83.18)),
            ("#0000ff", (32.30, 79.19, -107.86)),
            ("#ffffff", (100.0, 0.0, 0.0)),
            ("#808080", (53.59, 0.0, 0.0)),
        ):
            with self.subTest(code):
                np.testing.assert_allclose(convert_to_lab(read_hex(code)), lab, atol=0.03)

    def test_codes_return_from_linear_light(self) -> None:
        np.testing.assert_array_equal(encode_srgb(LINEAR), np.arange(256))


if __name__ == "__main__":
    unittest.main()
