"""Pages of Templates: one address has a cut or a change of it.

The answer is a page, its changed parts, or a file.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from urllib.parse import parse_qsl, urlencode

from flask import Blueprint, Response, jsonify, make_response, render_template, request, url_for
from flask.typing import ResponseReturnValue

from ...core.errors import InputError
from ...core.templates.cut import KINDS
from ...forms.cut import KEYS, START, read_cut
from ...presenters import cut as cut_page
from ...presenters.cut import Eye, build_eye, format_level
from ...services.errors import Missing
from ...services.templates import templates
from ..context import get_request_context
from ..parts import find_changed_parts, hash_parts
from ..preferences import YEAR_S, get_units

blueprint = Blueprint(
    "tube_templates", __name__, url_prefix="/templates", template_folder="templates"
)
MAX_LIST_BYTES = 256 * 1024
MAX_TEXT_LENGTH = 80
PARTS = ("form", "fields", "facts", "sheet", "space", "told")
STEP_DEG = 15
# Sheet offcuts and packing of a shop: common practice. A cookie has the typed ones.
USUAL_SHIMS = {
    "mm": "0.5, 0.8, 1, 1.2, 1.5, 2, 3, 5, 10",
    "in": "0.020, 1/32, 0.048, 1/16, 1/8, 3/16, 1/4, 1/2",
}
SHIM_COOKIE, MAX_SIZES_LENGTH = "shim_stock", 400


@blueprint.get("/")
def page() -> ResponseReturnValue:
    """Show the page of the cut in the address, complete or in changed parts."""
    templates.load_libraries(get_request_context().background)
    args = request.args
    # A change follows its target.
    before = {key: args.getlist(key)[0][:MAX_TEXT_LENGTH] for key in args}
    values = {key: args.getlist(key)[-1][:MAX_TEXT_LENGTH] for key in args}
    if not any(key in values for key in KEYS.values()):
        before, values = {**START, **before}, {**START, **values}
    eye, apart = (
        build_eye(values.get("turn", ""), values.get("tilt", "")),
        values.get("apart") == "1",
    )
    view = cut_page.cut_view(before, values, get_units(), eye, apart)
    paper = values.get("paper_size", "")
    displayed = _PageState(
        view, eye, apart, paper if paper in templates.list_papers() else choose_paper()
    )
    parts = {
        name: render_template(
            f"tube_templates/_{name}.html",
            view=view,
            shown=displayed,
            papers=templates.list_papers(),
        )
        for name in PARTS
    }
    code = 422 if view.wrong else 200
    if request.accept_mimetypes.best == "application/json":
        changed, marks = find_changed_parts(parts, request.headers.get("X-Have", ""))
        body = {
            "address": displayed.address,
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
            shown=displayed,
            parts=parts,
            have=hash_parts(parts),
            kinds=KINDS,
            at=view.cut.kind,
        ),
        code,
    )


def choose_paper() -> str:
    """Return the paper in the printer, by the unit system."""
    return "letter" if get_units() == "in" else "a4"


class _PageState:
    """The state of the page: cut, view, lifted or not, paper; and the addresses of changes."""

    def __init__(self, view: cut_page.CutView, eye: Eye, apart: bool, paper: str) -> None:
        self.view, self.eye, self.apart, self.paper = view, eye, apart, paper

    @property
    def hidden(self) -> list[tuple[str, str]]:
        """Return the hidden fields of a form."""
        return [*parse_qsl(self.view.link), *self._page()]

    def _page(self, **other: str) -> list[tuple[str, str]]:
        values = {
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
            "paper_size": choose_paper(),
        }
        return [(key, value) for key, value in values.items() if value != usual[key]]

    @property
    def address(self) -> str:
        """Return the present address of the page."""
        return self.at()

    def at(self, **other: str) -> str:
        """Return the address of this cut with another view."""
        more = urlencode(self._page(**other))
        return url_for("tube_templates.page") + "?" + self.view.link + (f"&{more}" if more else "")

    def turned(self, turn: int, tilt: int) -> str:
        """Return the address with a rotated view.

        Args:
            turn: Steps about the vertical.
            tilt: Steps of the tilt.
        """
        eye = build_eye(
            f"{self.eye.turn_deg + turn * STEP_DEG}", f"{self.eye.tilt_deg + tilt * STEP_DEG}"
        )
        return self.at(turn=f"{eye.turn_deg:g}", tilt=f"{eye.tilt_deg:g}")

    def file(self, kind: str, paper: str = "") -> str:
        """Return the address of the template as a file.

        Args:
            kind: The format.
            paper: The paper, or "" for the one in the printer.
        """
        return (
            url_for("tube_templates.template", kind=kind)
            + f"?{self.view.link}&part={self.view.part}&paper_size={paper or self.paper}"
        )

    @property
    def picture(self) -> str:
        """Return the address of the drawing in space, without its view."""
        return (
            url_for("tube_templates.picture")
            + f"?{self.view.link}"
            + ("&apart=1" if self.apart else "")
        )


@blueprint.get("/space.svg")
def picture() -> ResponseReturnValue:
    """Send the cut in space, for a drag."""
    values = {key: text[:MAX_TEXT_LENGTH] for key, text in request.args.items()}
    eye, apart = (
        build_eye(values.get("turn", ""), values.get("tilt", "")),
        values.get("apart") == "1",
    )
    try:
        drawn = cut_page.draw_space_view(values, get_units(), eye, apart)
    except InputError as error:
        return Response(error.sentence + "\n", 422, mimetype="text/plain")
    return Response(drawn.svg, mimetype="image/svg+xml")


@blueprint.get("/template.<kind>")
def template(kind: str) -> ResponseReturnValue:
    """Send the template in a format.

    An impossible cut gives 422.
    """
    if kind not in templates.FORMATS:
        raise Missing("There is no template in that format. Choose SVG, DXF, PDF or CSV.")
    values = {key: text[:MAX_TEXT_LENGTH] for key, text in request.args.items()}
    try:
        cut = read_cut(values, get_units())
        data = templates.write_template(
            cut,
            kind,
            values.get("part", "branch"),
            get_units(),
            values.get("paper_size", choose_paper()),
        )
    except InputError as error:
        return Response(error.sentence + "\n", 422, mimetype="text/plain")
    name = (
        f"{cut.of.label.replace(' ', '-')}{'-hole' if values.get('part') == 'hole' else ''}.{kind}"
    )
    how = "inline" if kind in ("svg", "pdf") else "attachment"
    return Response(
        data,
        content_type=templates.FORMATS[kind],
        headers={"Content-Disposition": f'{how}; filename="{name}"'},
    )


@blueprint.get("/shims")
def shims() -> ResponseReturnValue:
    """Show the shims under different tubes on a flat table."""
    units = get_units()
    text = request.args.get("diameters", "51 mm, 25 mm")[:MAX_SIZES_LENGTH]
    usual = request.cookies.get(SHIM_COOKIE, "") or USUAL_SHIMS[units]
    stock = request.args.get("stock", usual)[:MAX_SIZES_LENGTH]
    rows, errors = [], dict[str, str]()
    try:
        rows = cut_page.calculate_shims(text, stock, units)
    except InputError as wrong:
        errors = {"stock" if wrong.field == "stock" else "diameters": wrong.sentence}
    page = make_response(
        render_template(
            "tube_templates/shims.html",
            text=text,
            stock=stock,
            rows=rows,
            errors=errors,
            level=format_level(units),
            kinds=KINDS,
            at="shims",
        ),
        422 if errors else 200,
    )
    if "stock" in request.args and not errors:
        page.set_cookie(SHIM_COOKIE, stock, max_age=YEAR_S, samesite="Lax", httponly=True)
    return page


def _read_rows() -> list[dict[str, str]]:
    """Return the rows of the frame form."""
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
    """Show the cut list of a simple frame."""
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
        diameters=", ".join(dict.fromkeys(row["diameter"] for row in view.rows if row["diameter"])),
    ), (422 if wrong else 200)


@blueprint.get("/frame.csv")
def frame_file() -> ResponseReturnValue:
    """Send the cut list as CSV."""
    view = cut_page.build_frame_view(_read_rows(), get_units())
    return Response(
        view.csv,
        content_type=templates.FORMATS["csv"],
        headers={"Content-Disposition": 'attachment; filename="cut-list.csv"'},
    )


@blueprint.post("/frame")
def take_frame() -> ResponseReturnValue:
    """Show a cut list imported from CSV."""
    sent = request.files.get("file")
    if sent is None or not sent.filename:
        return _render_frame(list(cut_page.FRAME_START), "No file chosen. Choose a file.")
    try:
        return _render_frame(cut_page.read_frame_file(sent.read(MAX_LIST_BYTES)))
    except InputError as error:
        return _render_frame(list(cut_page.FRAME_START), error.sentence)
