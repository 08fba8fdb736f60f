"""Pages of Cut: one address holds a cut, or a change of one, and answers as a page, as the parts of
one that differ, or as a file.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from urllib.parse import parse_qsl, urlencode

from flask import Blueprint, Response, jsonify, render_template, request, url_for
from flask.typing import ResponseReturnValue

from ...core.errors import InputError
from ...core.templates.cut import KINDS
from ...forms.cut import KEYS, START, read_cut
from ...presenters import cut as cut_page
from ...presenters.cut import Eye, build_eye
from ...services.errors import Missing
from ...services.templates import templates
from ..context import get_request_context
from ..parts import find_changed_parts, hash_parts
from ..preferences import get_units

blueprint = Blueprint(
    "tube_templates", __name__, url_prefix="/templates", template_folder="templates"
)
MAX_LIST_BYTES = 256 * 1024
MAX_TEXT_LENGTH = 80
PARTS = ("form", "fields", "facts", "sheet", "space", "told")
STEP_DEG = 15


@blueprint.get("/")
def page() -> ResponseReturnValue:
    """The page of the cut in the address: whole, or where parts are asked for, those that the asker
    lacks.
    """
    templates.load_libraries(get_request_context().background)
    args = request.args
    # a change stands after what it changes
    before = {key: args.getlist(key)[0][:MAX_TEXT_LENGTH] for key in args}
    given = {key: args.getlist(key)[-1][:MAX_TEXT_LENGTH] for key in args}
    if not any(key in given for key in KEYS.values()):
        before, given = {**START, **before}, {**START, **given}
    eye, apart = build_eye(given.get("turn", ""), given.get("tilt", "")), given.get("apart") == "1"
    view = cut_page.cut_view(before, given, get_units(), eye, apart)
    paper = given.get("paper_size", "")
    shown = _Shown(view, eye, apart, paper if paper in templates.list_papers() else _choose_paper())
    parts = {
        name: render_template(
            f"tube_templates/_{name}.html", view=view, shown=shown, papers=templates.list_papers()
        )
        for name in PARTS
    }
    code = 422 if view.wrong else 200
    if request.accept_mimetypes.best == "application/json":
        changed, marks = find_changed_parts(parts, request.headers.get("X-Have", ""))
        body = {
            "address": shown.address,
            "title": "Templates",
            "parts": changed,
            "have": marks,
            "told": "",
        }
        return jsonify(body), code
    return (
        render_template(
            "tube_templates/page.html",
            view=view,
            shown=shown,
            parts=parts,
            have=hash_parts(parts),
            kinds=KINDS,
            at=view.cut.kind,
        ),
        code,
    )


def _choose_paper() -> str:
    """The paper that lies in the printer, as far as the habit tells."""
    return "letter" if get_units() == "in" else "a4"


class _Shown:
    """Where the page stands: the cut, the eye, apart or not, the paper; and the addresses of what
    is offered.
    """

    def __init__(self, view: cut_page.CutView, eye: Eye, apart: bool, paper: str) -> None:
        self.view, self.eye, self.apart, self.paper = view, eye, apart, paper

    @property
    def hidden(self) -> list[tuple[str, str]]:
        """What a form gives along with its fields."""
        return [*parse_qsl(self.view.link), *self._page()]

    def _page(self, **other: str) -> list[tuple[str, str]]:
        own = {
            "part": self.view.part,
            "turn": f"{self.eye.turn_deg:g}",
            "tilt": f"{self.eye.tilt_deg:g}",
            "apart": "1" if self.apart else "",
            "paper_size": self.paper,
        } | other
        usual = {
            "part": "branch",
            "turn": f"{Eye().turn_deg:g}",
            "tilt": f"{Eye().tilt_deg:g}",
            "apart": "",
            "paper_size": _choose_paper(),
        }
        return [(key, value) for key, value in own.items() if value != usual[key]]

    @property
    def address(self) -> str:
        """The address of the page as it stands."""
        return self.at()

    def at(self, **other: str) -> str:
        """The address of this cut, otherwise seen."""
        more = urlencode(self._page(**other))
        return url_for("tube_templates.page") + "?" + self.view.link + (f"&{more}" if more else "")

    def turned(self, turn: int, tilt: int) -> str:
        """The address with the eye turned by so many steps."""
        eye = build_eye(
            f"{self.eye.turn_deg + turn * STEP_DEG}", f"{self.eye.tilt_deg + tilt * STEP_DEG}"
        )
        return self.at(turn=f"{eye.turn_deg:g}", tilt=f"{eye.tilt_deg:g}")

    def file(self, kind: str) -> str:
        """The address of the template as a file."""
        return (
            url_for("tube_templates.template", kind=kind)
            + f"?{self.view.link}&part={self.view.part}&paper_size={self.paper}"
        )

    @property
    def picture(self) -> str:
        """The address of the picture in space, without its eye."""
        return (
            url_for("tube_templates.picture")
            + f"?{self.view.link}"
            + ("&apart=1" if self.apart else "")
        )


@blueprint.get("/space.svg")
def picture() -> ResponseReturnValue:
    """The cut in space, from the eye in the address: what a drag shows."""
    given = {key: text[:MAX_TEXT_LENGTH] for key, text in request.args.items()}
    eye, apart = build_eye(given.get("turn", ""), given.get("tilt", "")), given.get("apart") == "1"
    try:
        drawn = cut_page.draw_space_view(given, get_units(), eye, apart)
    except InputError as error:
        return Response(error.sentence + "\n", 422, mimetype="text/plain")
    return Response(drawn.svg, mimetype="image/svg+xml")


@blueprint.get("/template.<kind>")
def template(kind: str) -> ResponseReturnValue:
    """The template in a format. A cut that cannot be is told with 422."""
    if kind not in templates.FORMATS:
        raise Missing("There is no template in that format. Choose SVG, DXF, PDF or CSV.")
    given = {key: text[:MAX_TEXT_LENGTH] for key, text in request.args.items()}
    try:
        cut = read_cut(given, get_units())
        data = templates.write_template(
            cut,
            kind,
            given.get("part", "branch"),
            get_units(),
            given.get("paper_size", _choose_paper()),
        )
    except InputError as error:
        return Response(error.sentence + "\n", 422, mimetype="text/plain")
    name = (
        f"{cut.of.label.replace(' ', '-')}{'-hole' if given.get('part') == 'hole' else ''}.{kind}"
    )
    how = "inline" if kind in ("svg", "pdf") else "attachment"
    return Response(
        data,
        content_type=templates.FORMATS[kind],
        headers={"Content-Disposition": f'{how}; filename="{name}"'},
    )


@blueprint.get("/shims")
def shims() -> ResponseReturnValue:
    """Shims under unlike tubes on a flat table."""
    text, rows, error = request.args.get("diameters", "51 mm, 25 mm")[:400], [], ""
    try:
        rows = cut_page.calculate_shims(text, get_units())
    except InputError as wrong:
        error = wrong.sentence
    return render_template(
        "tube_templates/shims.html", text=text, rows=rows, error=error, kinds=KINDS, at="shims"
    ), (422 if error else 200)


def _read_rows() -> list[dict[str, str]]:
    """The rows of a frame's form."""
    columns = [request.values.getlist(key) for key in cut_page.MEMBER_KEYS]
    many = max((len(column) for column in columns), default=0)
    return [
        {
            key: column[i] if i < len(column) else ""
            for key, column in zip(cut_page.MEMBER_KEYS, columns, strict=True)
        }
        for i in range(many)
    ]


@blueprint.get("/frame")
def frame() -> ResponseReturnValue:
    """The cut list of a simple frame."""
    rows = (
        _read_rows()
        if any(key in request.args for key in cut_page.MEMBER_KEYS)
        else list(cut_page.FRAME_START)
    )
    return _render_frame(rows)


def _render_frame(rows: Sequence[Mapping[str, str]], error: str = "") -> ResponseReturnValue:
    view = cut_page.build_frame_view(rows, get_units())
    error = error or view.left_out
    wrong = bool(view.faults or error)
    return render_template(
        "tube_templates/frame.html",
        view=view,
        error=error,
        kinds=KINDS,
        at="frame",
        query=urlencode([(k, v) for row in view.rows for k, v in row.items()]),
    ), (422 if wrong else 200)


@blueprint.get("/frame.csv")
def frame_file() -> ResponseReturnValue:
    """The cut list as CSV."""
    view = cut_page.build_frame_view(_read_rows(), get_units())
    return Response(
        view.csv,
        content_type=templates.FORMATS["csv"],
        headers={"Content-Disposition": 'attachment; filename="cut-list.csv"'},
    )


@blueprint.post("/frame")
def take_frame() -> ResponseReturnValue:
    """A cut list taken in from CSV, shown."""
    sent = request.files.get("file")
    if sent is None or not sent.filename:
        return _render_frame(list(cut_page.FRAME_START), "No file chosen. Choose a file.")
    try:
        return _render_frame(cut_page.read_frame_file(sent.read(MAX_LIST_BYTES)))
    except InputError as error:
        return _render_frame(list(cut_page.FRAME_START), error.sentence)
