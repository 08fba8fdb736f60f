"""The word and name rules that `language.py` checks, with their limits.

A rule has a name, an expression and the wording to use instead. Phrases apply to text on screen,
documents, docstrings and comments. Name rules apply to snake case. `language_exceptions.txt` lists
the matches that are correct, one in each line.
"""

from __future__ import annotations

import re
from dataclasses import dataclass
from pathlib import Path


@dataclass(frozen=True)
class Rule:
    """A rule.

    Attributes:
        name: Its name in messages and exceptions.
        expression: Matches the wrong wording.
        advice: The wording to use.
    """

    name: str
    expression: re.Pattern[str]
    advice: str


def _phrase(name: str, expression: str, advice: str, keep_case: bool = False) -> Rule:
    return Rule(name, re.compile(expression, 0 if keep_case else re.IGNORECASE), advice)


def _name(name: str, expression: str, advice: str) -> Rule:
    return Rule(name, re.compile(expression), advice)


PHRASES = (
    _phrase("reckon", r"\breckon(s|ed|ing)?\b", "calculate, estimate"),
    _phrase("told", r"\b(told|tells?|telling)\b", "given, shown, reported"),
    _phrase("say", r"\b(says?|said|saying|unsaid)\b", "enter, describe, show"),
    _phrase(
        "stands",
        r"\b(stands|stood|standing)\b(?! (out|off|water|upright))"
        r"|\b(can|cannot|may|must|could|does not|all|both|they) stand\b",
        "is, stays, is valid",
    ),
    _phrase(
        "taken",
        r"\b(is|are|was|were|be|been|not|nothing|it|anything|what) (still |then |not )?taken\b"
        r"(?! from\b)",
        "accepted, used, saved",
    ),
    _phrase(
        "take",
        r"(^|[.;:,] |\bor )takes? (it|them|so|a|an|the|no\.|out|away|back|what|this|that|up|\{)"
        r"(?= |$|\})",
        "use, choose, remove",
    ),
    _phrase(
        "take-in",
        r"\b(take|takes|taken|taking) (\w+ )?in\b(?! (the|a|one|two) (hand|middle))",
        "import",
    ),
    _phrase(
        "let-go",
        r"\blet(s|ting)? (\w+ )?go\b|\blet(s|ting)? (\w+ ){0,2}in\b"
        r"|\bput(s|ting)? (it |one |them )?out\b",
        "release, pair, remove access",
    ),
    _phrase(
        "put-away",
        r"\b(put|puts) (\w+ )?(away|back|right)\b|\bbr(ing|ought) (\w+ )?back\b",
        "archive, restore, fix",
    ),
    _phrase("look", r"\blook(s|ed|ing)? (through|after|in|to|again)\b", "check, manage, reload"),
    _phrase("write-down", r"\b(wr(ite|itten|ote|iting)) (\w+ ){0,4}down\b", "record"),
    _phrase("strike-out", r"\b(str(ike|ikes|uck)) (\w+ )?out\b", "void"),
    _phrase(
        "kept",
        r"\b(is|are|was|were|be|been|nothing|not|last) kept\b"
        r"|\bkept (as|last|with|when|before|and|yet)\b"
        r"|\bkeep (as|it as|mine|what|the change|yours|this|them)\b",
        "saved, save",
    ),
    _phrase("came", r"\b(came|comes|come) (to|of|out|back)\b|\b(go|went) on\b", "result, continue"),
    _phrase(
        "archaic",
        r"\b(nought|anew|afresh|lest|thereof|whereupon|hitherto|amongst|whilst|till|besides"
        r"|otherwise than|for want of|all the same|nor|meanwhile)\b",
        "zero, again, until, also",
    ),
    _phrase("to-be", r"\b(is|are|was|were|has|have) to be \w+|\bwhat is to\b", "an imperative"),
    _phrase("wants", r"\bwants?\b|\bwanted\b", "needs, required, target"),
    _phrase("bears", r"\bbears?\b", "carries, withstands, has"),
    _phrase(
        "mind",
        r"(^|> ?|\" ?)Mind\b|\bto mind\b|\b[Aa]lso mind\b|\b[Mm]end(s|ed|ing)?\b",
        "Caution; fix",
        keep_case=True,
    ),
    _phrase("go-by", r"\bgo(es|ing)? by\b|\bwent by\b", "use, follow"),
    _phrase("pace", r"\bpaces?\b", "travel speed"),
    _phrase("habit", r"\b(unit|either|both|in a|the) habits?\b", "units"),
    _phrase(
        "hand",
        r"\b(another|two|each|whose|one|own|no|machine and|this|which) hands?\b(?! (tool|wheel))"
        r"|(?<!in the )\bother hands?\b",
        "welder, person, user",
    ),
    _phrase("school", r"\bschools?\b", "approach, preference"),
    _phrase("book", r"\bbook('s)?\b(?!\.)", "library"),
    _phrase("shelf", r"\b(on|from|of|the) (the )?shelf\b", "in stock"),
    _phrase("own-record", r"\bown records?\b", "shop history"),
    _phrase("bench-rule", r"\bbench('s)? rule\b", "rule of thumb"),
    _phrase("by-hand", r"\b(set|put|order|pinned) by hand\b|^by hand\b", "manual, set manually"),
    _phrase(
        "least-most",
        r"\b(least|most) (of the|there|that|a side|may)\b|\bgreatest\b|\bat the soonest\b"
        r"|^(Least|Most)$",
        "minimum, maximum",
    ),
    _phrase(
        "beside",
        r"\b(lay|laid|put|stands?|kept) (\w+ )?beside\b|\bchange places\b",
        "compare, next to, swap",
    ),
    _phrase(
        "of-its-own",
        r"\bof (its|their|his|one's|your|a) own\b|\bby (itself|themselves)\b",
        "separate, automatically",
    ),
    _phrase(
        "begin",
        r"\bunder way\b|\bgoes on\b(?! (the|a|to|\())|\bhas begun\b|\bhow far it is\b|\bbegun\b"
        r"|\bbegins?\b",
        "start, in progress, continue",
    ),
    _phrase(
        "so",
        r"\bnot so\b|\bit is so\b|\bis so of\b|\bleave it\b(?! out)"
        r"|\bas it (is|was|came|lies|stands)\b|\bit is (done|set)\b",
        "Troubleshooting, Cancel, unchanged",
    ),
    _phrase("speaks", r"\bspeaks? (for|against|as|at)\b|\banswers at\b", "supports, reports"),
    _phrase(
        "holds",
        r"\bholds (it|within|together|\{|what|no|more|as)\b|\bheld (against|within|to|by|in)\b"
        r"|\bdoes not hold\b|\bholding\b",
        "contains, is valid, allowed range",
    ),
    _phrase(
        "metaphor",
        r"\b(drinks?|eats?|believed|believes?|hurried|kind(er)? to|sucks|honest|guards?|repaid"
        r"|leads to)\b",
        "the literal verb",
    ),
    _phrase("zoom", r"\b(nearer|farther)\b", "zoom in, zoom out"),
    _phrase("prove", r"\bproves?\b|\bproved\b|\bproof\b", "verify, verified, test"),
    _phrase("fault", r"\bfaults?\b", "flaw (weld), error (software)"),
    _phrase("bare-fit", r"\bbare-fit\b|\bmelted bare\b", "autogenous, no filler"),
    _phrase("the-lead's", r"\b(the|a) lead's\b|\bput them on the bench\b", "lead PIN, in use"),
    _phrase("qualified", r"\bWPS\b", "verified procedure"),
)

NAMES = (
    _name("reckon", r"reckon", "calculate_, estimate_, nominal_"),
    _name("told", r"(^|_)(told|tells?|heard|say|says|said)(_|$)", "reported, message, format_"),
    _name("stands", r"(^|_)(stands?|stood|standing)(_|$)(?!in)", "current, active, is_valid"),
    _name("came", r"(^|_)(came|comes|come)(_|$)", "result, received, summary"),
    _name("of-suffix", r"[a-z0-9]_of$|^of_[a-z]", "verb first: find_, get_, calculate_"),
    _name(
        "in-short",
        r"in_short|in_few_words|in_words|_words$|^words(_|$)",
        "summary, describe_, label",
    ),
    _name(
        "least-most",
        r"(^|_)(least|most|longest|greatest|smallest|widest|fullest|hottest|lowest)(_|$)",
        "min_, max_",
    ),
    _name(
        "anew",
        r"(^|_)(anew|again|afresh|anyway|beside|besides|aside|meanwhile)(_|$)",
        "restart, retry, compare",
    ),
    _name("hand", r"(^|_)hands?(_|$)", "manual, user, welder"),
    _name("habit", r"(^|_)habits?(_|$)", "units"),
    _name("school", r"(^|_)schools?(_|$)", "approach"),
    _name("book", r"(^|_)book(_|$)", "library"),
    _name("pace", r"(^|_)(pace|paced)(_|$)", "travel_speed"),
    _name("mend", r"(^|_)mend(s|ed)?(_|$)", "fix"),
    _name(
        "let-go",
        r"let_(in|go)|put_(away|back|out|in|right|down)|bring_back|take_(in|up|back|out|so)"
        r"|strike_out|begin_own|look_(through|again)|looked(_at)?$",
        "pair, release, archive, restore, import_, void, check",
    ),
    _name(
        "whole",
        r"(^|_)(whole|sound|unsound|proper|fine|much|far|few|so|harm|warmth)(_|$)",
        "complete, valid, name the quantity",
    ),
    _name(
        "seen",
        r"(^|_)(seen|looks?|shown|found|made|given|gone|lifted|shaken|bettered|mended|unsettled"
        r"|gathered)$",
        "name the thing, or a verb",
    ),
    _name(
        "odd-verb",
        r"^(ends_as_by_hand|no_further|as_good|as_done|back_from|see_it_(shows|stands|is_open)"
        r"|was_sent|to_its_end|told_in_both|the_same|whose_figures|three|both|much|beyond|cling)$",
        "state the action",
    ),
    _name("question", r"(^|_)(why|whether|how|what|which|who)_[a-z]+", "name the result"),
    _name(
        "gerund",
        r"^(adapting|changing|comparing|cutting|finding|fitting_up|holding|judging|keeping"
        r"|learning|listening|log_reading|opening|planning|purging|running|searching|setting_up"
        r"|writing|beside|faces|care|door|hands|work)$",
        "a noun",
    ),
)

# Clauses used as nouns, and loose connectives: allowed in moderation.
LOOSE_CLAUSE = re.compile(
    r"\bwhat (is|was|are|were|a|an|the|each|one|no|came|comes|stands|goes|follows|differs|speaks"
    r"|happens|else|may|would|will|does|did|has|makes|takes|can|could|must|of|this|he|she"
    r"|people)\b"
    r"|\bso (many|much|long|far|few)\b|\bvery many\b"
    r"|\bhow (it|they|far|many|much|long|wide) (it |they )?(is|are|stands?|comes?|lasts?)\b"
    r"|\bwhere (that|this|there|none|nothing|no|needed|known|wished|one)\b"
    r"|[a-z], for (it|they|there|that|this) (is|are|has|cannot|does)\b",
    re.IGNORECASE,
)
CLAUSE_HEADING = re.compile(
    r"\?$|^(What|How(?! to)|Which|Where|It|Not|This is|For want|By what|All that|Let)\b"
)
VAGUE_VARIABLES = frozenset(
    [
        "found",
        "made",
        "given",
        "one",
        "came",
        "told",
        "here",
        "there",
        "own",
        "far",
        "way",
        "gone",
        "whole",
        "both",
        "so",
        "it",
        "what",
        "said",
        "heard",
        "anew",
        "besides",
    ]
)
# The words that a function name may start with.
VERBS = frozenset(Path(__file__).with_name("language_verbs.txt").read_text("utf-8").split())
UNIT_SUFFIX = re.compile(
    r"_(mm|mm2|mm_s|m_s|s|a|v|w|l|c|k|k_mm|kj|kj_mm|pct|ppm|pps|deg|l_min|mpa|kn|pa|px|ms|mb|text"
    r"|data|path|csv|json|svg|pdf|dxf|url|html)$"
)
PRONOUNS = frozenset(
    [
        "it",
        "its",
        "that",
        "what",
        "which",
        "one",
        "such",
        "so",
        "this",
        "they",
        "them",
        "where",
        "whatever",
        "whose",
        "other",
        "others",
    ]
)

# The figures that `language.py` measures must not exceed these; "flesch" must not fall below.
LIMITS: dict[str, float] = {
    "flesch": 70.0,
    "words_per_sentence.ui": 12.0,
    "words_per_sentence.docs": 15.0,
    "long_sentences_pct.ui": 2.0,
    "long_sentences_pct.docs": 6.0,
    "clauses_per_100_words.ui": 7.0,
    "pronouns_per_100_words.ui": 7.0,
    "loose_clauses_per_100_sentences.ui": 1.0,
    "loose_clauses_per_100_sentences.docs": 2.0,
    "loose_clauses_per_100_notes": 1.0,
    "functions_without_verb_pct": 16.0,
}
