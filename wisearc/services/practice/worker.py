"""The process of the virtual seams: one request a line in, one answer a line out.

A request is `messages.SeamRequest`. Its answer is `{"id", "body"}` or `{"id", "error"}`. Steps are
short, so that several learners share the process.
"""

from __future__ import annotations

import json
import sys
import time
from collections import OrderedDict
from typing import TextIO

import msgspec
from msgspec import Struct

from ...core.errors import WiseArcError
from ...core.plan.plan import Plan
from ...core.practice.judge import Judged, judge_track
from ...core.practice.piece import Piece, build_piece
from ...core.practice.simulated_welder import simulate_weld
from ...core.practice.track import MAX_S, Track, build_track, read_samples
from ...core.practice.virtual_seam import VirtualSeam
from ...core.schema.json_types import Json
from ...core.shop.shop import Shop
from ...formats.plan_json import read_plan
from ...formats.practice_json import write_practice
from ...formats.shop_json import read_shop
from .messages import JUDGE, OPEN, SHOW, SeamFrame, SeamRequest
from .seam_frames import FrameMaker, describe_piece

# Seams in memory, and how long one waits for its torch, s. If there are too many, one without a
# step for a shorter time makes room: its page opens it again with all earlier samples.
MAX_SEAMS, IDLE_S, MAKES_ROOM_S = 12, 900.0, 15.0
# Pieces whose target is known.
_MAX_PIECES = 24
NO_SEAM = "no-seam"
TOO_MANY = "Too many seams are being welded now. Wait until another learner is done."


class _Open(Struct):
    """A seam that is being welded."""

    seam: VirtualSeam
    frames: FrameMaker
    used_s: float
    last_s: float = -1.0


class SeamWorker:
    """The virtual seams of one process."""

    def __init__(self, source: TextIO, target: TextIO) -> None:
        """Create a worker.

        Args:
            source: The requests.
            target: The answers.
        """
        self.source, self.target = source, target
        self.seams: OrderedDict[str, _Open] = OrderedDict()
        self.pieces: OrderedDict[bytes, tuple[Piece, Track]] = OrderedDict()

    def run(self) -> None:
        """Answer requests until the input ends."""
        for line in self.source:
            request = msgspec.json.decode(line, type=SeamRequest)
            try:
                body = self.answer(request)
                text = msgspec.json.encode({"id": request.id, "body": body}).decode()
            except WiseArcError as error:
                text = json.dumps({"id": request.id, "error": str(error)})
            self.target.write(text + "\n")
            self.target.flush()

    def answer(self, request: SeamRequest) -> Json | Struct:
        """Return the answer to a request.

        Args:
            request: The request.

        Raises:
            WiseArcError: The request is wrong.
        """
        if request.ask == OPEN:
            return self._open(request)
        if request.ask == SHOW:
            return self._show(request)
        if request.ask == JUDGE:
            return self._judge_track(request)
        opened = self.seams.get(request.seam)
        if opened is None:
            return {NO_SEAM: True}
        opened.used_s = time.monotonic()
        self.seams.move_to_end(request.seam)
        return self._step(opened, request)

    def _find_piece(self, request: SeamRequest) -> tuple[Piece, Track]:
        """Return a piece and the track of a weld without a slip on it."""
        key = msgspec.json.encode(
            (request.plan, request.length_mm, request.has_stop, request.has_tacks)
        )
        known = self.pieces.get(key)
        if known is None:
            plan: Plan = read_plan(json.loads(bytes(request.plan)))
            piece = build_piece(plan, request.length_mm, request.has_stop, request.has_tacks)
            known = piece, simulate_weld(piece).track
            self.pieces[key] = known
            while len(self.pieces) > _MAX_PIECES:
                self.pieces.popitem(last=False)
        return known

    def _open(self, request: SeamRequest) -> Json | Struct:
        now = time.monotonic()
        limit_s = IDLE_S if len(self.seams) < MAX_SEAMS else MAKES_ROOM_S
        for key in [k for k, o in self.seams.items() if now - o.used_s > limit_s]:
            del self.seams[key]
        if len(self.seams) >= MAX_SEAMS:
            raise WiseArcError(TOO_MANY)
        piece, ideal = self._find_piece(request)
        seam = VirtualSeam(piece)
        opened = _Open(seam, FrameMaker(seam), now)
        self.seams[request.seam] = opened
        body: dict[str, Json] = {
            "piece": msgspec.to_builtins(describe_piece(piece, seam, ideal.end_s)),
        }
        if request.samples:
            body["frame"] = msgspec.to_builtins(self._step(opened, request))
        return body

    def _step(self, opened: _Open, request: SeamRequest) -> SeamFrame:
        rows = read_samples(request.samples, opened.last_s)
        dabs = sorted(t for t in request.dabs if 0 <= t <= MAX_S)
        if len(rows):
            opened.last_s = float(rows[-1, 0])
            opened.seam.advance(rows, dabs)
        return opened.frames.make()

    def _show(self, request: SeamRequest) -> Json | Struct:
        """Return the track of a weld without a slip, and its bead."""
        piece, ideal = self._find_piece(request)
        seam = VirtualSeam(piece)
        seam.advance(ideal.samples, ideal.dabs_s)
        frame = FrameMaker(seam).make(complete=True)
        return {
            "samples": [[round(v, 4) for v in row] for row in ideal.samples.tolist()],
            "dabs": [round(t, 4) for t in ideal.dabs_s],
            "frame": msgspec.to_builtins(frame),
        }

    def _judge_track(self, request: SeamRequest) -> Json | Struct:
        piece, _ = self._find_piece(request)
        track = build_track(request.samples, request.dabs, request.gas_off_s)
        return _write(judge_track(track, piece, _read_shop(request), request.when))


def _read_shop(request: SeamRequest) -> Shop:
    return read_shop(json.loads(bytes(request.shop)))


def _write(judged: Judged) -> dict[str, Json]:
    """Return a judged seam with its complete bead."""
    frame = FrameMaker(judged.seam).make(complete=True)
    return {**write_practice(judged), "frame": msgspec.to_builtins(frame)}


def serve_seams() -> None:
    """Answer requests on standard input."""
    SeamWorker(sys.stdin, sys.stdout).run()
