"""The order of the heat tints against the colours of oxide films by Fresnel's equations.

One film on steel, normal incidence (Fresnel; Airy's sum), seen by the CIE 1931 observer (fit of
Wyman, Sloan and Shirley 2013) in the light of a black body of 6500 K. The indices of film and metal
are estimates between published values of chromium and iron oxides, from memory.
"""

import itertools
import unittest

from tests import oxide_film
from tests.photo_scenes import BY_THICKNESS, INDICES, label_films
from wisearc.core import catalogue


class Order(unittest.TestCase):
    def test_tints_follow_the_thickness_of_the_film(self) -> None:
        for index in INDICES:
            with self.subTest(index=index):
                # Beyond 66 nm the colours of the second order start. No table of tints has them.
                films = label_films(index)[: int(66 / oxide_film.STEP_NM)]
                order = [key for key, _ in itertools.groupby(films)]
                self.assertEqual(order, list(BY_THICKNESS[: len(order)]))
                self.assertEqual(order[-1], "blue")

    def test_table_has_that_order_but_for_the_two_blues(self) -> None:
        """By theory a dark blue film is thinner than a blue one. The table has it hotter."""
        table = [t.key for t in catalogue.load_tints().values()]
        self.assertEqual(table[:7], list(BY_THICKNESS[:7]))
        self.assertEqual({*table[7:9]}, {*BY_THICKNESS[7:9]})
        colours = {t.key: t.colour for t in catalogue.load_tints().values()}
        self.assertEqual(colours["dark-blue"], colours["blue"])

    def test_bare_steel_reflects_as_published(self) -> None:
        """Iron reflects 0.5 to 0.6 of visible light at normal incidence: published, from memory."""
        bare = oxide_film.reflectance(oxide_film.np.zeros(1))[0]
        self.assertTrue(bare.min() > 0.45 and bare.max() < 0.68)

    def test_a_film_of_a_quarter_wave_is_darkest(self) -> None:
        """A film of refractive index n is darkest near a quarter of the wavelength divided by n."""
        at_nm = 550.0
        column = int((at_nm - 380) / 5)
        films = oxide_film.np.arange(0.0, 100.0, 0.5)
        darkest = films[oxide_film.reflectance(films, 2.3 + 0.0j)[:, column].argmin()]
        # The metal shifts the phase, so the film is thinner than in glass.
        self.assertTrue(0.5 < darkest / (at_nm / 4 / 2.3) < 1.0)


if __name__ == "__main__":
    unittest.main()
