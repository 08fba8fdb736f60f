"""wisearc/arc-log: a CSV of time_s, current_a, and where they are known voltage_v and gas; read in
blocks, so that it can be told how far it is, and stopped.

Commas, semicolons (with a decimal comma) or tabs part its columns; UTF-8, or UTF-16 with its mark.
What is no reading is left out and counted.
"""

from __future__ import annotations

import codecs
import csv
import io
import mmap
from collections import deque
from collections.abc import Callable, Iterator
from concurrent.futures import Future, ThreadPoolExecutor
from dataclasses import dataclass
from pathlib import Path

import numpy as np

from ...core.arc_log.readings import Readings, Rows, make_readings
from ...core.errors import BadInput, in_few_words

COLUMNS = ("time_s", "current_a", "voltage_v", "gas")
NEEDED = COLUMNS[:2]
MOST_BYTES, MOST_ROWS = 1_000_000_000, 10_000_000
# UTF-16 is turned whole
MOST_UTF16 = 200_000_000
BLOCK, LONGEST_HEAD = 8 * 1024 * 1024, 4096
# blocks that are read at once, and lie ready
AT_ONCE, AHEAD = 2, 4
# told how far it is, 0 to 1; raises to stop
Watch = Callable[[float], None]
_NUMBER = r"^\s*[-+]?(\d+\.?\d*|\.\d+)([eE][-+]?\d+)?\s*$"


@dataclass(frozen=True)
class Head:
    """How a log is written: the names of its columns, what parts them, the decimal mark, and where
    the first row begins, bytes.
    """

    names: tuple[str, ...]
    separator: str
    decimal: str
    begins: int


def read_arc_csv(path: Path, watch: Watch | None = None) -> Readings:
    """The readings of a log. Raises BadInput with what is wrong and where; what `watch` raises."""
    check_size(path.name, path.stat().st_size)
    with path.open("rb") as file:
        start = file.read(LONGEST_HEAD)
        if not start.strip():
            raise BadInput("log", path.name, "is empty; give the log as the machine wrote it")
        if start.startswith((codecs.BOM_UTF16_LE, codecs.BOM_UTF16_BE)):
            if path.stat().st_size > MOST_UTF16:
                raise BadInput(
                    "log",
                    path.name,
                    f"is UTF-16 of more than {MOST_UTF16 / 1e6:g} MB; save the log as UTF-8, which"
                    " is half as large",
                )
            return _read(path.name, memoryview(_from_utf16(file)), watch)
        if b"\0" in start:
            raise BadInput("log", path.name, "is no text; give the log as CSV, in UTF-8")
        with (
            mmap.mmap(file.fileno(), 0, access=mmap.ACCESS_READ) as mapped,
            memoryview(mapped) as whole,
        ):
            return _read(path.name, whole, watch)


def check_size(name: str, size: int) -> None:
    """Refuse a log that is larger than is read, before it is read. Raises BadInput."""
    if size > MOST_BYTES:
        raise BadInput(
            "log",
            f"{in_few_words(name)} ({size / 1e9:.1f} GB)",
            f"is larger than the {MOST_BYTES / 1e9:g} GB that is read; log less often, or cut it in"
            " parts",
        )


def _from_utf16(file: io.BufferedReader) -> bytes:
    file.seek(0)
    try:
        return file.read().decode("utf-16").encode()
    except UnicodeDecodeError as error:
        raise BadInput("log", "UTF-16", "is cut short or mixed; save the log as UTF-8") from error


def read_head(name: str, start: bytes) -> Head:
    """How a log is written, by its first line. Raises BadInput."""
    mark = len(codecs.BOM_UTF8) if start.startswith(codecs.BOM_UTF8) else 0
    end = start.find(b"\n", mark)
    line = start[mark : end if end >= 0 else len(start)]
    try:
        text = line.decode("utf-8").strip()
    except UnicodeDecodeError as error:
        raise BadInput("log", name, "is not UTF-8 text; save the log as UTF-8 CSV") from error
    separator = next((s for s in (",", ";", "\t") if s in text), ",")
    names = tuple(
        one.strip().casefold() for one in next(csv.reader([text], delimiter=separator), [])
    )
    lacks = [key for key in NEEDED if names.count(key) != 1]
    if lacks:
        rule = (
            "must begin with a line that names the columns time_s and current_a, once each, parted"
            f" by commas; voltage_v and gas may follow. It lacks {' and '.join(lacks)}"
        )
        raise BadInput("log", text[:60] or name, rule)
    return Head(
        names,
        separator,
        "," if separator == ";" and _decimal_comma(start[end + 1 :], separator) else ".",
        end + 1 if end >= 0 else len(start),
    )


def _decimal_comma(rows: bytes, separator: str) -> bool:
    first = rows.split(b"\n", 1)[0]
    return b"," in first and separator.encode() in first


def _read(name: str, whole: memoryview, watch: Watch | None) -> Readings:
    head = read_head(name, bytes(whole[:LONGEST_HEAD]))
    columns: dict[str, list[Rows]] = {key: [] for key in COLUMNS if head.names.count(key) == 1}
    bad, first_bad, rows = 0, "", 0
    for end, block in _in_turn(whole, head):
        kept, lost, words = block
        if lost and not first_bad:
            first_bad = f"row {rows + bad + 1 + words[0]}: “{in_few_words(words[1])}”"
        bad += lost
        for key, values in columns.items():
            values.append(kept[key])
        rows += len(kept["time_s"])
        if rows + bad > MOST_ROWS:
            raise BadInput(
                "log",
                f"more than {MOST_ROWS:,} rows",
                "is more than is read; log less often, or cut it in parts",
            )
        if watch:
            watch(end / len(whole))
    if not rows:
        words_bad = f" ({first_bad})" if first_bad else ""
        raise BadInput(
            "log", name, f"holds no readings{words_bad}; give the log as the machine wrote it"
        )
    joined: dict[str, Rows] = {}
    for key in list(columns):
        joined[key] = np.concatenate(columns.pop(key))
    return make_readings(
        joined["time_s"],
        joined["current_a"],
        joined.get("voltage_v"),
        joined.get("gas"),
        bad,
        first_bad,
    )


Block = tuple[dict[str, Rows], int, tuple[int, str]]


def _in_turn(whole: memoryview, head: Head) -> Iterator[tuple[int, Block]]:
    """The blocks of a log in order, some read ahead; each with where it ends."""
    with ThreadPoolExecutor(AT_ONCE) as hands:
        waiting: deque[tuple[int, Future[Block]]] = deque()
        try:
            for start, end in _blocks(whole, head.begins):
                waiting.append((end, hands.submit(_block, whole[start:end], head)))
                if len(waiting) >= AHEAD:
                    at, first = waiting.popleft()
                    yield at, first.result()
            while waiting:
                at, first = waiting.popleft()
                yield at, first.result()
        finally:
            for _, left in waiting:
                left.cancel()


def _blocks(whole: memoryview, begins: int) -> Iterator[tuple[int, int]]:
    """Where blocks of whole lines begin and end."""
    start, size = begins, len(whole)
    while start < size:
        end = min(start + BLOCK, size)
        if end < size:
            tail = bytes(whole[max(start, end - LONGEST_HEAD) : end])
            cut = tail.rfind(b"\n")
            if cut < 0:
                raise BadInput(
                    "log",
                    f"a line of more than {LONGEST_HEAD} characters",
                    "is no reading; give a log with a line for each reading",
                )
            end -= len(tail) - cut - 1
        yield start, end
        start = end


def _block(lines: memoryview, head: Head) -> Block:
    """The columns of a block, how many of its rows were none, and which was the first (its number
    in the block, its text).
    """
    import pyarrow as pa
    from pyarrow import csv as arrow

    numbers = {
        key: pa.float64() if key == "time_s" else pa.float32()
        for key in COLUMNS
        if head.names.count(key) == 1
    }
    read = arrow.ReadOptions(column_names=list(head.names), block_size=BLOCK + 1, use_threads=False)
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
        return _tolerant(bytes(lines), head, list(numbers))
    found = {key: table.column(key).to_numpy() for key in numbers}
    return _without_nothing(found)


def _without_nothing(found: dict[str, Rows]) -> Block:
    """Rows without a time or a current left out."""
    none = np.isnan(found["time_s"]) | np.isnan(found["current_a"])
    lost = int(np.count_nonzero(none))
    if not lost:
        return found, 0, (0, "")
    return (
        {key: values[~none] for key, values in found.items()},
        lost,
        (int(np.argmax(none)), "nothing where a reading should be"),
    )


def _tolerant(lines: bytes, head: Head, keys: list[str]) -> Block:
    """A block in which something is no number, line by line: what can be read is."""
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
                    _number(cells[at[key]], head.decimal)
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
    found = {
        key: table[:, i].astype(np.float64 if key == "time_s" else np.float32)
        for i, key in enumerate(keys)
    }
    return found, lost, first


def _number(text: str, decimal: str) -> float:
    return float(text.replace(decimal, ".") if decimal != "." else text)
