"""wisearc/arc-log: a CSV of time_s, current_a, and optionally voltage_v and gas.

It is parsed in blocks, with progress and cancellation. Columns are separated by comma, semicolon
(with a decimal comma) or tab. UTF-8, UTF-16 with its mark, and all line endings are allowed.
Invalid rows are skipped and counted.
"""

from __future__ import annotations

import codecs
import csv
import mmap
import os
import tempfile
from collections import deque
from collections.abc import Callable, Iterator
from concurrent.futures import Future, ThreadPoolExecutor
from pathlib import Path
from typing import IO, TYPE_CHECKING, Any

from msgspec import Struct

from ...core.arc_log.readings import Block as ValidRows
from ...core.arc_log.readings import Readings, RowFilter, Rows
from ...core.errors import InputError, shorten

if TYPE_CHECKING:
    import numpy as np

COLUMNS = ("time_s", "current_a", "voltage_v", "gas")
NEEDED = COLUMNS[:2]
MAX_BYTES, MAX_ROWS = 1_000_000_000, 10_000_000
# UTF-16 is converted completely.
MAX_UTF16_BYTES = 200_000_000
BLOCK, MAX_HEADER_BYTES = 2 * 1024 * 1024, 4096
# The size of a block, and the number of prepared blocks.
AT_ONCE, AHEAD = 2, 4
# Receives the progress, 0 to 1, and raises an error to cancel.
Watch = Callable[[float], None]
_NUMBER = r"^\s*[-+]?(\d+\.?\d*|\.\d+)([eE][-+]?\d+)?\s*$"


class Head(Struct, frozen=True):
    """Format of a log: columns, separator, decimal mark, offset of the first row, line ending."""

    names: tuple[str, ...]
    separator: str
    decimal: str
    begins: int
    line_end: bytes


def read_arc_csv(path: Path, watch: Watch | None = None, folder: Path | None = None) -> Readings:
    """Read an arc log.

    Args:
        path: The log.
        watch: Called with the progress. It can raise an error to cancel.
        folder: Folder for the columns, or None to use memory.

    Raises:
        InputError: The log is not valid.
        OSError: The folder cannot be written.
    """
    if folder is None:
        return _read_file(path, watch, _MemoryColumns())
    with _FileColumns(folder) as target:
        return _read_file(path, watch, target)


def _read_file(path: Path, watch: Watch | None, target: Target) -> Readings:
    size = path.stat().st_size
    check_size(path.name, size)
    with path.open("rb") as file:
        start = file.read(MAX_HEADER_BYTES)
        if not start.strip():
            raise InputError("log", path.name, "is empty. Give the log as the machine wrote it")
        if start.startswith((codecs.BOM_UTF16_LE, codecs.BOM_UTF16_BE)):
            if size > MAX_UTF16_BYTES:
                raise InputError(
                    "log",
                    path.name,
                    (
                        f"is UTF-16 of more than {MAX_UTF16_BYTES / 1000000.0:g} MB. Save the log "
                        "as UTF-8, which is half as large"
                    ),
                )
            with tempfile.TemporaryFile(dir=path.parent) as utf8:
                _convert_utf16(file, utf8)
                return _read(path.name, utf8, watch, target)
        if b"\0" in start:
            raise InputError("log", path.name, "is not text. Give the log as CSV, in UTF-8")
        return _read(path.name, file, watch, target)


def check_size(name: str, size: int) -> None:
    """Check the size of a log before it is parsed.

    Args:
        name: Name of the file for the error.
        size: Size, bytes.

    Raises:
        InputError: The log is too large.
    """
    if size > MAX_BYTES:
        raise InputError(
            "log",
            f"{shorten(name)} ({size / 1e9:.1f} GB)",
            (
                f"exceeds {MAX_BYTES / 1000000000.0:g} GB. Log at longer intervals, or split "
                "the file"
            ),
        )


def _convert_utf16(file: IO[bytes], out: IO[bytes]) -> None:
    """Convert a UTF-16 file to UTF-8."""
    file.seek(0)
    decoder = codecs.getincrementaldecoder("utf-16")()
    try:
        while piece := file.read(BLOCK):
            out.write(decoder.decode(piece).encode())
        out.write(decoder.decode(b"", final=True).encode())
    except UnicodeError as error:
        raise InputError(
            "log", "", "is incomplete UTF-16 text or has mixed encodings. Save the log as UTF-8"
        ) from error


def read_head(name: str, start: bytes) -> Head:
    """Return the format of a log from its first line.

    Args:
        name: Name of the file for the error.
        start: Its first bytes.

    Raises:
        InputError: The line is not a valid head.
    """
    mark = len(codecs.BOM_UTF8) if start.startswith(codecs.BOM_UTF8) else 0
    line_end = b"\n" if b"\n" in start or b"\r" not in start else b"\r"
    end = start.find(line_end, mark)
    line = start[mark : end if end >= 0 else len(start)]
    try:
        text = line.decode("utf-8").strip()
    except UnicodeDecodeError as error:
        raise InputError("log", name, "is not UTF-8 text. Save the log as UTF-8 CSV") from error
    separator = next((s for s in (",", ";", "\t") if s in text), ",")
    try:
        cells = next(csv.reader([text], delimiter=separator), [])
    except csv.Error as error:
        raise InputError(
            "log", shorten(text), f"is not a CSV heading ({error}). Save the log as CSV"
        ) from error
    names = tuple(cell.strip().casefold() for cell in cells)
    lacks = [key for key in NEEDED if names.count(key) != 1]
    if lacks:
        rule = (
            "must start with a line of column names separated by commas: time_s and "
            f"current_a once each, optionally voltage_v and gas. Missing: {' and '.join(lacks)}"
        )
        raise InputError("log", text[:60] or name, rule)
    return Head(
        names,
        separator,
        ","
        if separator == ";" and _has_decimal_comma(start[end + 1 :], separator, line_end)
        else ".",
        end + 1 if end >= 0 else len(start),
        line_end,
    )


def _has_decimal_comma(rows: bytes, separator: str, line_end: bytes) -> bool:
    first = rows.split(line_end, 1)[0]
    return b"," in first and separator.encode() in first


class _MemoryColumns:
    """Keeps the columns of a log in memory."""

    def __init__(self) -> None:
        """Create empty columns."""
        self._blocks: list[ValidRows] = []

    def add(self, block: ValidRows) -> None:
        """Add a block.

        Args:
            block: Valid rows.
        """
        self._blocks.append(block)

    def columns(self) -> ValidRows:
        """Return all rows."""
        import numpy as np

        columns: list[Rows | None] = []
        for i in range(len(COLUMNS)):
            parts = [block[i] for block in self._blocks]
            columns.append(
                None if parts[0] is None else np.concatenate([p for p in parts if p is not None])
            )
        self._blocks = []
        return columns[0], columns[1], columns[2], columns[3]  # type: ignore[return-value]


def list_dtypes() -> tuple[np.dtype[Any], ...]:
    """Return the data type of each column in its file."""
    import numpy as np

    return np.dtype("<f8"), np.dtype("<f4"), np.dtype("<f4"), np.dtype("u1")


class _FileColumns:
    """Writes the columns of a log to files."""

    def __init__(self, folder: Path) -> None:
        """Use a folder.

        Args:
            folder: Folder of the files.
        """
        self._paths = [folder / name for name in COLUMNS]
        self._files: list[IO[bytes]] = []
        self._has = [True] * len(COLUMNS)

    def __enter__(self) -> _FileColumns:
        self._files = [path.open("wb") for path in self._paths]
        return self

    def __exit__(self, *_: object) -> None:
        for file in self._files:
            file.close()

    def add(self, block: ValidRows) -> None:
        """Write a block.

        Args:
            block: Valid rows.

        Raises:
            OSError: The disk is full or fails.
        """
        import numpy as np

        self._has = [column is not None for column in block]
        for file, column, dtype in zip(self._files, block, list_dtypes(), strict=True):
            if column is not None:
                values = column > 0 if dtype == np.uint8 else column
                file.write(np.asarray(values, dtype=dtype).tobytes())

    def columns(self) -> ValidRows:
        """Return all rows, mapped from the files."""
        import numpy as np

        for file in self._files:
            file.flush()
        columns = [
            np.memmap(path, dtype, "r") if has and path.stat().st_size else None
            for path, dtype, has in zip(self._paths, list_dtypes(), self._has, strict=True)
        ]
        return columns[0], columns[1], columns[2], columns[3]  # type: ignore[return-value]


Target = _MemoryColumns | _FileColumns


def release_pages(readings: Readings) -> None:
    """Release the memory of mapped columns. The system reads them again if necessary.

    Args:
        readings: Readings with mapped or other columns.
    """
    import numpy as np

    for column in (readings.time_s, readings.current_a, readings.voltage_v, readings.gas):
        if isinstance(column, np.memmap):
            mapped: mmap.mmap = column._mmap  # type: ignore[attr-defined]
            mapped.madvise(mmap.MADV_DONTNEED)


def _read(name: str, file: IO[bytes], watch: Watch | None, target: Target) -> Readings:
    size = file.seek(0, os.SEEK_END)
    file.seek(0)
    head = read_head(name, file.read(MAX_HEADER_BYTES))
    file.seek(head.begins)
    row_filter = RowFilter()
    for end, (block, bad_rows, (row, text)) in _iterate_blocks(file, size, head):
        if bad_rows:
            number = row_filter.total_rows + 1 + row
            row_filter.add_bad_rows(bad_rows, f"row {number}: “{shorten(text)}”")
        if len(block["time_s"]):
            rows = block["time_s"], block["current_a"], block.get("voltage_v"), block.get("gas")
            target.add(row_filter.select_valid(rows))
        if row_filter.total_rows > MAX_ROWS:
            raise InputError(
                "log",
                f"more than {MAX_ROWS:,} rows",
                "exceeds the maximum. Log at longer intervals, or split the file",
            )
        if watch:
            watch(min(1.0, end / size))
    if not row_filter.valid_rows:
        bad_text = f" ({row_filter.first_bad})" if row_filter.first_bad else ""
        raise InputError(
            "log", name, f"contains no readings{bad_text}. Give the log as the machine wrote it"
        )
    return row_filter.build_readings(target.columns())


Block = tuple[dict[str, Rows], int, tuple[int, str]]


def _iterate_blocks(file: IO[bytes], size: int, head: Head) -> Iterator[tuple[int, Block]]:
    """Yield the blocks of a log in order, some prepared in advance, with the end of each."""
    with ThreadPoolExecutor(AT_ONCE) as executor:
        waiting: deque[tuple[int, Future[Block]]] = deque()
        try:
            for end, lines in _read_blocks(file, size, head.line_end):
                waiting.append((end, executor.submit(_parse_block, lines, head)))
                if len(waiting) >= AHEAD:
                    at, first = waiting.popleft()
                    yield at, first.result()
            while waiting:
                at, first = waiting.popleft()
                yield at, first.result()
        finally:
            for _, left in waiting:
                left.cancel()


def _read_blocks(file: IO[bytes], size: int, line_end: bytes) -> Iterator[tuple[int, bytes]]:
    """Read blocks of complete lines. Yield the end of each block, bytes, and its content."""
    rest = b""
    while piece := file.read(BLOCK):
        at = file.tell()
        block = rest + piece
        cut = block.rfind(line_end, max(0, len(block) - MAX_HEADER_BYTES)) + 1
        if not cut and at < size:
            raise InputError(
                "log",
                f"a line of more than {MAX_HEADER_BYTES} characters",
                "is not a reading. Give a log with one line per reading",
            )
        rest = block[cut:]
        if cut:
            yield at - len(rest), block[:cut]
    if rest:
        yield size, rest


def _parse_block(lines: bytes, head: Head) -> Block:
    """Return the columns of a block, the number of its invalid rows, and the first of them.

    The first is given by its number in the block and its text.
    """
    import pyarrow as pa
    from pyarrow import csv as arrow

    numbers = {
        key: pa.float64() if key == "time_s" else pa.float32()
        for key in COLUMNS
        if head.names.count(key) == 1
    }
    read = arrow.ReadOptions(
        column_names=list(head.names), block_size=len(lines) + 1, use_threads=False
    )
    parse = arrow.ParseOptions(delimiter=head.separator)
    convert = arrow.ConvertOptions(
        column_types=numbers,
        include_columns=list(numbers),
        decimal_point=head.decimal,
        null_values=["", "nan", "NaN"],
        strings_can_be_null=True,
    )
    try:
        table = arrow.read_csv(
            pa.BufferReader(pa.py_buffer(lines)),
            read_options=read,
            parse_options=parse,
            convert_options=convert,
        )
    except pa.ArrowInvalid:
        return _parse_tolerant(lines, head, list(numbers))
    columns = {key: table.column(key).to_numpy() for key in numbers}
    return _drop_incomplete(columns)


def _drop_incomplete(columns: dict[str, Rows]) -> Block:
    """Return a block without rows that lack time or current."""
    import numpy as np

    none = np.isnan(columns["time_s"]) | np.isnan(columns["current_a"])
    lost = int(np.count_nonzero(none))
    if not lost:
        return columns, 0, (0, "")
    return (
        {key: values[~none] for key, values in columns.items()},
        lost,
        (int(np.argmax(none)), "an empty line instead of a reading"),
    )


def _parse_tolerant(lines: bytes, head: Head, keys: list[str]) -> Block:
    """Parse a block with invalid values line by line, and return its valid rows."""
    import numpy as np

    at = {key: head.names.index(key) for key in keys}
    rows: list[list[float]] = []
    lost, first = 0, (0, "")
    for i, line in enumerate(lines.decode("utf-8", "replace").splitlines()):
        if not line.strip():
            continue
        cells = line.replace('"', "").split(head.separator)
        try:
            row = [
                (
                    _parse_number(cells[at[key]], head.decimal)
                    if key in NEEDED or cells[at[key]].strip()
                    else float("nan")
                )
                for key in keys
            ]
        except (ValueError, IndexError):
            first = first if lost else (i, line)
            lost += 1
            continue
        rows.append(row)
    table = np.array(rows, dtype=np.float64).reshape(len(rows), len(keys))
    columns = {
        key: table[:, i].astype(np.float64 if key == "time_s" else np.float32)
        for i, key in enumerate(keys)
    }
    return columns, lost, first


def _parse_number(text: str, decimal: str) -> float:
    return float(text.replace(decimal, ".") if decimal != "." else text)
