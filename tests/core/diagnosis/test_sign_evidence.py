"""Evidence of each sign for its causes: common practice, no source."""

import math
import unittest

from wisearc.core import catalogue
from wisearc.core.diagnosis.causes import rank
from wisearc.core.diagnosis.signs import SignStrength

# The signs for a cause, and the signs against it: common practice, no source.
SPEAKS = {
    "heat-low": (
        "cold pool-small amps-under pace-fast front-bright root-unfused reinforcement-high",
        "pool-large too-hot grey hole undercut keyhole",
    ),
    "heat-high": (
        "too-hot pool-large amps-over pace-slow front-tint band-wide hole edge-lost bowed "
        "undercut back-tint root-sagged root-sucked-back",
        "cold pool-small",
    ),
    "left-early": (
        "grey grey-at-end left-early rod-grey tungsten-dark",
        "grey-all band-uncovered jet-torn wobble spot-grey",
    ),
    "cover-small": (
        "grey grey-all front-tint band-uncovered lens-far far-out rod-grey cold cup-smaller",
        "grey-at-end left-early wobble too-hot front-bright spot-grey tungsten-dark",
    ),
    "gas-high": (
        "wobble jet-torn grey pores frosty far-out lens-far",
        "jet-slow cup-smaller",
    ),
    "gas-low": (
        "grey grey-all front-tint jet-slow draught cold pores rod-grey",
        "far-out wobble jet-torn grey-at-end front-bright spot-grey tungsten-dark",
    ),
    "edge-splits": (
        "frosty pores splits-gas grey",
        "jet-torn dirty",
    ),
    "root-cold": (
        "keyhole rod-fed cold pool-small",
        "gap-over hole",
    ),
    "gap": (
        "hole gap-over tacks-cracked keyhole",
        "pool-large edge-lost",
    ),
    "arc-on-thin": (
        "edge-lost arc-on-thin unlike along-edge hole",
        "gap-over pool-large",
    ),
    "tacks-few": (
        "tacks-cracked tacks-fewer crack-tack",
        "",
    ),
    "back-bare": (
        "sugar half-sugar back-open back-tint",
        "purge-high back-bright sugar-at-start sugar-at-end purged sugar-all",
    ),
    "purge-thin": (
        "sugar purge-high purged back-tint sugar-all vent-small purge-rose",
        "half-sugar back-bright sugar-at-start sugar-at-end",
    ),
    "taper-short": (
        "crater taper-short cracks-short",
        "",
    ),
    "restart-late": (
        "restart pool-late restarts",
        "",
    ),
    "hand-uneven": (
        "uneven rod-side wide",
        "touched",
    ),
    "dabs-uneven": (
        "uneven dabs-uneven reinforcement-high rod-fed",
        "rod-side",
    ),
    "off-seam": (
        "cold beside-seam root-unfused edge-lost",
        "pool-small amps-under pace-fast",
    ),
    "warp": (
        "bowed unchilled long-seam pool-large",
        "",
    ),
    "iron": (
        "rusts iron-tool",
        "rod-carbon rusts-wet tint-left front-tint",
    ),
    "rod-wrong": (
        "rusts rod-carbon",
        "iron-tool tint-left",
    ),
    "bead-heavy": (
        "toe-broke bead-wide undercut reinforcement-high crack-toe",
        "cold",
    ),
    "touched": (
        "touched wide uneven arc-wander",
        "",
    ),
    "dirty": (
        "pores dirty rough",
        "frosty splits-gas jet-torn jet-slow wobble spot-grey damp-rod",
    ),
    "arc-long": (
        "arc-long undercut wide wobble grey",
        "amps-over starved",
    ),
    "toe-starved": (
        "undercut starved pace-fast rod-fed",
        "toe-broke reinforcement-high arc-long amps-over wide cold",
    ),
    "gas-path": (
        "grey grey-all pores spot-grey rod-grey tungsten-dark cap-loose",
        "dirty draught grey-at-end band-uncovered lens-far far-out jet-slow jet-torn "
        "wobble damp-rod",
    ),
    "tungsten-in-air": (
        "tungsten-dark left-early cap-loose",
        "grey-all spot-grey",
    ),
    "tungsten-worn": (
        "arc-wander touched",
        "leans magnetic tungsten-thick",
    ),
    "magnetised": (
        "arc-wander leans magnetic",
        "touched",
    ),
    "tungsten-large": (
        "arc-wander tungsten-thick",
        "leans",
    ),
    "fit-poor": (
        "misaligned tacks-fewer",
        "",
    ),
    "hot-short": (
        "crack-centreline rod-other hot-short held-tight crack-toe",
        "",
    ),
    "hard-zone": (
        "crack-toe hardens cold-metal",
        "",
    ),
    "purge-early": (
        "sugar sugar-at-start purge-high purged",
        "sugar-all sugar-at-end half-sugar vent-small",
    ),
    "purge-closed": (
        "sugar sugar-at-end purge-rose purged",
        "sugar-all sugar-at-start purge-high half-sugar",
    ),
    "purge-pressure": (
        "root-sucked-back purged vent-small",
        "pool-large root-sagged",
    ),
    "damp-rod": (
        "pores damp-rod rod-fed rough",
        "dirty spot-grey splits-gas jet-torn jet-slow wobble grey-all frosty",
    ),
    "tint-left": (
        "rusts tint-left front-tint back-tint",
        "iron-tool rod-carbon rusts-wet",
    ),
    "rusts-by-nature": (
        "rusts rusts-wet",
        "iron-tool rod-carbon",
    ),
}

# Signs whose absence is evidence against it.
MISSED = {
    "heat-low": "cold pool-small amps-under pace-fast",
    "heat-high": "too-hot pool-large amps-over pace-slow band-wide",
    "left-early": "grey grey-at-end left-early",
    "cover-small": "grey grey-all front-tint band-uncovered lens-far far-out rod-grey cup-smaller",
    "gas-high": "wobble jet-torn",
    "gas-low": "grey grey-all jet-slow draught",
    "edge-splits": "frosty pores splits-gas",
    "root-cold": "keyhole rod-fed",
    "gap": "hole gap-over",
    "arc-on-thin": "edge-lost arc-on-thin unlike",
    "tacks-few": "tacks-cracked tacks-fewer",
    "back-bare": "sugar half-sugar back-open",
    "purge-thin": "sugar purge-high purged back-tint sugar-all vent-small purge-rose",
    "taper-short": "crater taper-short",
    "restart-late": "restart pool-late restarts",
    "hand-uneven": "uneven rod-side",
    "dabs-uneven": "uneven dabs-uneven rod-fed",
    "off-seam": "cold beside-seam",
    "warp": "bowed unchilled",
    "iron": "rusts iron-tool",
    "rod-wrong": "rusts rod-carbon",
    "bead-heavy": "toe-broke bead-wide undercut reinforcement-high",
    "touched": "touched",
    "dirty": "pores dirty",
    "arc-long": "arc-long undercut wide",
    "toe-starved": "undercut starved pace-fast rod-fed",
    "gas-path": "grey grey-all pores spot-grey tungsten-dark",
    "tungsten-in-air": "tungsten-dark left-early cap-loose",
    "tungsten-worn": "arc-wander",
    "magnetised": "arc-wander leans magnetic",
    "tungsten-large": "arc-wander tungsten-thick",
    "fit-poor": "misaligned",
    "hot-short": "crack-centreline rod-other held-tight",
    "hard-zone": "crack-toe hardens cold-metal",
    "purge-early": "sugar sugar-at-start purge-high purged",
    "purge-closed": "sugar sugar-at-end purged",
    "purge-pressure": "root-sucked-back purged vent-small",
    "damp-rod": "pores damp-rod rod-fed",
    "tint-left": "rusts tint-left front-tint",
    "rusts-by-nature": "rusts rusts-wet",
}

# the sign by which the trade knows it, which alone outweighs half a dozen hints
NAMED_BY = {
    "heat-low": "cold",
    "heat-high": "too-hot",
    "gas-high": "wobble",
    "edge-splits": "frosty",
    "root-cold": "keyhole",
    "arc-on-thin": "edge-lost",
    "tacks-few": "tacks-cracked",
    "back-bare": "sugar",
    "taper-short": "crater",
    "restart-late": "restart",
    "hand-uneven": "uneven",
    "dabs-uneven": "dabs-uneven",
    "off-seam": "beside-seam",
    "warp": "bowed",
    "bead-heavy": "toe-broke",
    "touched": "touched",
    "tungsten-in-air": "tungsten-dark",
    "fit-poor": "misaligned",
    "hot-short": "crack-centreline",
    "hard-zone": "crack-toe",
    "purge-pressure": "root-sucked-back",
}


class Speaks(unittest.TestCase):
    def share(self, cause: str, **strength: float | None) -> float:
        """The share of a cause where all that is known are some signs, by _ for -."""
        given = {key.replace("_", "-"): value for key, value in strength.items()}
        signs = {key: SignStrength(key, given.get(key)) for key in catalogue.load_signs()}
        return next((one.weight for one in rank(signs) if one.cause.key == cause), 0.0)

    def test_direction_of_the_change(self) -> None:
        self.assertEqual(set(SPEAKS), set(catalogue.load_causes()))
        for cause, (supports, against) in SPEAKS.items():
            row = catalogue.load_causes()[cause]
            self.assertEqual(set(row.evidence), {*supports.split(), *against.split()}, cause)
            for sign in supports.split():
                self.assertGreater(row.evidence[sign][0], 0, (cause, sign))
            for sign in against.split():
                self.assertLess(row.evidence[sign][0], 0, (cause, sign))
            missed = {sign for sign, (_, absent) in row.evidence.items() if absent < 0}
            self.assertEqual(missed, set(MISSED[cause].split()), cause)
            # The absence of a sign supports a cause only if its presence does not.
            for sign, (present, absent) in row.evidence.items():
                self.assertFalse(absent > 0 and present >= 0, (cause, sign))

    def test_the_sign_the_trade_knows_it_by_names_it(self) -> None:
        for cause, sign in NAMED_BY.items():
            self.assertGreater(
                self.share(cause, **{sign.replace("-", "_"): 1.0}), 0.6, (cause, sign)
            )
            row = catalogue.load_causes()[cause]
            self.assertGreaterEqual(row.evidence[sign][0], 2.2, (cause, sign))
            self.assertGreaterEqual(max(w for w, _ in row.evidence.values()), 2.2)

    def test_half_there_weighs_half(self) -> None:
        whole, half = (
            self.share("heat-high", hole=1.0, pool_large=1.0),
            self.share("heat-high", hole=1.0, pool_large=0.5),
        )
        gap = (
            self.share("gap", hole=1.0, pool_large=1.0),
            self.share("gap", hole=1.0, pool_large=0.5),
        )
        # 1.8 for, −0.7 where it is not; −0.7 against the gap: half of each is (1.8 + 0.7) / 2 + 0.7
        # / 2 less between the two
        self.assertAlmostEqual(
            math.log(whole / gap[0]) - math.log(half / gap[1]),
            (1.8 + 0.7) / 2 + 0.7 / 2,
            delta=0.004,
        )

    def test_a_hint_lists_nothing(self) -> None:
        def listed(*there: str, by: str = "seen") -> list[str]:
            return [
                r.cause.key
                for r in rank(
                    {
                        k: SignStrength(
                            k, 1.0 if k in there else None, by if k in there else "seen"
                        )
                        for k in catalogue.load_signs()
                    }
                )
            ]

        self.assertEqual(listed("front-bright", "back-bright", "even"), [])
        self.assertEqual(
            listed("unchilled", "long-seam", "splits-gas", "unlike", "back-open", by="plan"), []
        )
        self.assertNotIn("bead-heavy", listed("undercut"))
        self.assertIn("arc-long", listed("undercut"))
        self.assertNotIn("tint-left", listed("front-tint"))
