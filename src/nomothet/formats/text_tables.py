"""Text files of numbers: their encoding, delimiter, decimal sign and header lines are recognised, not asked for."""

import codecs
import csv
import io
import json
import re
from collections.abc import Iterator
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any, BinaryIO

import numpy as np
import pandas as pd
from charset_normalizer import from_bytes
from numpy.typing import NDArray

from nomothet.core.frames import Floats
from nomothet.formats.errors import BadTable

HEAD_BYTES = 262_144
MOST_BYTES = 1 << 30
MOST_COLUMNS = 400
MOST_VALUES = 60_000_000
_LONGEST_LINE = 1 << 20
_LOOKED_AT_LINES = 400
_MOST_HEADER_LINES = 60
_DELIMITERS = (",", ";", "\t", "|")
_ROWS_A_PIECE = 200_000
_VALUES_A_PIECE = 4_000_000
_BLOCK_BYTES = 4 << 20
_LINE_END = re.compile(rb"\r\n|\n|\r")
_LINE_FEED, _RETURN, _BLANK = b"\n\r "
_FEW_SIGNS = 0.05
_NUMBER = re.compile(r"[+-]?(?:\d+(?:\.\d*)?|\.\d+)(?:[eE][+-]?\d+)?")
# Thousands are set apart by commas where a point or a second comma says so; "16,667" alone may be a decimal comma.
_GROUPED_NUMBER = re.compile(r"[+-]?\d{1,3}(?:(?:,\d{3})+\.\d+|(?:,\d{3}){2,})")
_TIME_OF_DAY = r"\s*\d{1,3}(?::\d{2}){1,2}(?:\.\d+)?\s*"
_COMMA_NUMBER = re.compile(r"[+-]?\d+,\d+(?:[eE][+-]?\d+)?")


@dataclass(frozen=True)
class Layout:
    """How a file is laid out.

    Attributes
    ----------
    delimiter : str
        Between fields; a blank for runs of blanks; empty for JSON Lines.
    header_lines : int
        Lines before the first row of numbers, the names' line among them.
    """

    encoding: str
    delimiter: str
    decimal: str
    header_lines: int
    names: list[str]
    units: list[str] = field(default_factory=list)

    @property
    def is_json(self) -> bool:
        return not self.delimiter


def recognise(head: bytes) -> Layout:
    """The layout of a file from its first bytes.

    Raises
    ------
    BadTable
        When it is empty, no text, or has no rows of numbers.

    Examples
    --------
    >>> recognise(b"t [s];temp [\\xb0C]\\n0,0;41,5\\n0,5;42,0\\n").decimal
    ','
    """
    if not head.strip(b"\0 \r\n\t"):
        raise BadTable("the file is empty", "Choose a file with rows of numbers")
    encoding, text = _decoded(head)
    lines = lines_of(text)
    if len(head) >= HEAD_BYTES and len(lines) > 1:
        lines = lines[:-1]
    if max((len(line) for line in lines), default=0) >= _LONGEST_LINE // 4 and len(lines) < 3:
        raise BadTable("a line is longer than any table's", "Choose a file with one row a line")
    first = next((line for line in lines if line.strip()), "")
    if first.lstrip().startswith("{"):
        return _json_layout(encoding, lines)
    return _table_layout(encoding, lines[:_LOOKED_AT_LINES])


def read_columns(
    path: Path, layout: Layout, wanted: list[int] | None = None, most_rows: int | None = None
) -> dict[int, Floats]:
    """Columns of numbers by their place; what is no number is NaN, and times of day are seconds of the epoch.

    Parameters
    ----------
    most_rows : int, optional
        Read about so many rows only, to look at them.

    Raises
    ------
    BadTable
        When the file has more values than are read at a time.
    """
    places = list(range(len(layout.names))) if wanted is None else wanted
    pieces: dict[int, list[Floats]] = {at: [] for at in places}
    rows = 0
    for piece in _pieces(path, layout, places, most_rows):
        rows += len(piece[places[0]]) if places else 0
        if rows * len(places) > MOST_VALUES:
            raise BadTable(
                f"there are over {MOST_VALUES // 1_000_000} million values", "Choose fewer columns, or cut the file"
            )
        for at in places:
            pieces[at].append(_as_numbers(piece[at], layout.decimal))
        if most_rows is not None and rows >= most_rows:
            break
    return {at: np.concatenate(found) if found else np.array([]) for at, found in pieces.items()}


def lines_of(text: str) -> list[str]:
    """Lines as tables have them: a form feed or another sign that ends lines in prose ends none here.

    Examples
    --------
    >>> lines_of("a\\x0bb\\r\\nc\\n")
    ['a\\x0bb', 'c']
    """
    return [line.removesuffix("\n") for line in io.StringIO(text, newline=None)]


def below_header(file: BinaryIO, layout: Layout) -> int:
    """Move a file that stands at its start to its first row; gives how many lines are left to skip by reading.

    A reader that skips the header itself asks at every row whether to skip it, which takes half as long as the reading.

    Examples
    --------
    >>> file = io.BytesIO(b"frame_ms\\r16.5\\r")
    >>> below_header(file, Layout("utf-8", ",", ".", 1, ["frame_ms"])), file.read()
    (0, b'16.5\\r')
    """
    if not _is_like_ascii(layout.encoding):
        return layout.header_lines
    head = file.read(HEAD_BYTES)
    end = 0
    for _ in range(layout.header_lines):
        found = _LINE_END.search(head, end)
        # Within quotes a line goes on; and what ends with the block may go on too.
        if found is None or found.end() == len(head) or head.count(b'"', end, found.start()) % 2:
            file.seek(0)
            return layout.header_lines
        end = found.end()
    file.seek(end)
    return 0


def rows_below(path: Path, layout: Layout) -> int:
    """How many lines that are not blank stand below the header; a row of numbers each, where all is well."""
    above, rows = layout.header_lines, 0
    for filled in _lines(path, layout.encoding):
        rows += int(np.count_nonzero(filled[above:]))
        above = max(0, above - len(filled))
    return rows


def _lines(path: Path, encoding: str) -> Iterator[NDArray[np.bool_]]:
    """Of the lines of a file, some at a time, whether something stands in them."""
    if not _is_like_ascii(encoding):
        with path.open(encoding=encoding, errors="replace", newline=None) as text:
            yield np.array([bool(line.strip()) for line in text], bool)
        return
    # The ends of lines and blanks are the bytes of ASCII.
    with path.open("rb") as file:
        if encoding == "utf-8-sig":
            file.seek(len(codecs.BOM_UTF8))
        while block := file.read(_BLOCK_BYTES) + file.readline():
            signs = np.frombuffer(block, np.uint8)
            ends = signs == _LINE_FEED
            if b"\r" in block:
                returns = signs == _RETURN
                returns[:-1] &= ~ends[1:]
                ends |= returns
            begins = np.concatenate([[0], np.flatnonzero(ends) + 1])
            yield np.logical_or.reduceat(signs > _BLANK, begins[begins < len(signs)])


def _is_like_ascii(encoding: str) -> bool:
    return "\n\r 0".encode(encoding).endswith(b"\n\r 0")


def _decoded(head: bytes) -> tuple[str, str]:
    for mark, name in (
        (codecs.BOM_UTF8, "utf-8-sig"),
        (codecs.BOM_UTF16_LE, "utf-16"),
        (codecs.BOM_UTF16_BE, "utf-16"),
    ):
        if head.startswith(mark):
            return name, head.decode(name, errors="ignore")
    if b"\0" in head:
        raise BadTable("this is not a text file", "Save it as text, a row a line, and try again")
    try:
        cut = head[: head.rfind(b"\n") + 1] or head
        return "utf-8", cut.decode("utf-8")
    except UnicodeDecodeError:
        encoding = _eight_bit(head)
        return encoding, head.decode(encoding, errors="replace")


def _eight_bit(head: bytes) -> str:
    """The encoding of text that is not UTF-8: a few signs such as a degree say nothing, so the commonest is taken."""
    strange = sum(byte > 127 for byte in head)
    if strange <= _FEW_SIGNS * len(head):
        return "cp1252"
    best = from_bytes(head[:65_536]).best()
    return best.encoding if best else "latin-1"


def _json_layout(encoding: str, lines: list[str]) -> Layout:
    names: dict[str, None] = {}
    for number, line in enumerate(lines[:_LOOKED_AT_LINES], start=1):
        if not line.strip():
            continue
        try:
            record = json.loads(line)
        except ValueError:
            if number > 1:
                break
            raise BadTable("this is no JSON", "Write one JSON object a line", number) from None
        if isinstance(record, dict):
            names |= dict.fromkeys(_flat(record))
    if not names:
        raise BadTable("the objects hold no numbers", "Write one JSON object with numbers a line")
    return Layout(encoding, "", ".", 0, list(names)[:MOST_COLUMNS])


def _table_layout(encoding: str, lines: list[str]) -> Layout:
    delimiter, decimal = _dialect(lines)
    rows = [_fields(line, delimiter) for line in lines]
    counts = [len(row) for row in rows if row]
    width = max(set(counts), key=counts.count) if counts else 0
    first = next((at for at, row in enumerate(rows) if len(row) == width and _mostly_numbers(row, decimal)), None)
    if first is None or width == 0 or width > MOST_COLUMNS:
        raise BadTable("no rows of numbers were found", "Choose a file with a column of times or frame times")
    if first > _MOST_HEADER_LINES:
        raise BadTable(f"there are {first} lines before the first number", "Cut what stands before the table")
    names, units = _names_above(rows[:first], width)
    return Layout(encoding, delimiter, decimal, first, names, units)


def _dialect(lines: list[str]) -> tuple[str, str]:
    """Delimiter and decimal sign under which most fields of most lines are numbers."""
    body = [line for line in lines if any(sign.isdigit() for sign in line)][-200:]
    best: tuple[float, int, str, str] = (0.0, 0, ",", ".")
    for delimiter in (*_DELIMITERS, " "):
        for decimal in (".", ","):
            if delimiter == decimal:
                continue
            rows = [_fields(line, delimiter) for line in body]
            numbers = sum(_is_number(cell, decimal) for row in rows for cell in row)
            fields = sum(len(row) for row in rows)
            if not fields:
                continue
            counts = [len(row) for row in rows]
            steady = counts.count(max(set(counts), key=counts.count)) / len(counts)
            # More of the text in numbers is better; a decimal comma only where a point makes no sense.
            score = numbers / fields * steady - (0.001 if decimal == "," else 0) - (0.01 if delimiter == " " else 0)
            if (score, numbers) > best[:2]:
                best = (score, numbers, delimiter, decimal)
    return best[2], best[3]


def _fields(line: str, delimiter: str) -> list[str]:
    if not line.strip():
        return []
    if delimiter == " ":
        return line.split()
    return [cell.strip() for cell in next(csv.reader([line], delimiter=delimiter), [])]


def _is_number(text: str, decimal: str) -> bool:
    text = text.strip().strip('"')
    if decimal == ",":
        return bool(_COMMA_NUMBER.fullmatch(text)) or text.lstrip("+-").isdigit()
    return bool(_NUMBER.fullmatch(text) or _GROUPED_NUMBER.fullmatch(text))


def _mostly_numbers(row: list[str], decimal: str) -> bool:
    return sum(_is_number(cell, decimal) for cell in row) >= max(1, len(row) // 2)


def _names_above(rows: list[list[str]], width: int) -> tuple[list[str], list[str]]:
    """Names from the line above the numbers, and units where a line of units stands between."""
    full = [row for row in rows if len(row) == width and any(cell for cell in row)]
    plain = [f"column {at + 1}" for at in range(width)]
    if not full:
        return plain, []
    names, units = full[-1], []
    if len(full) > 1 and all(not cell or re.fullmatch(r"[\[(]?[\w°%µ/]{1,8}[\])]?", cell) for cell in full[-1]):
        looks_like_units = sum(cell.strip("[]()").lower() in _UNIT_WORDS for cell in full[-1])
        if looks_like_units >= max(1, width // 2):
            names, units = full[-2], [cell.strip("[]()") for cell in full[-1]]
    return [name.strip().strip('"') or plain[at] for at, name in enumerate(names)], units


_UNIT_WORDS = set("s ms us µs ns min % °c c mhz ghz w v a mb gb mib gib fps 1/s rpm mb/s gb/s j".split())


def _pieces(
    path: Path, layout: Layout, places: list[int], most_rows: int | None
) -> Iterator[dict[int, "pd.Series[Any]"]]:
    if layout.is_json:
        yield from _json_pieces(path, layout, places)
        return
    beyond = len(layout.names)
    try:
        with path.open("rb") as file:
            frames = pd.read_csv(
                file,
                sep=r"\s+" if layout.delimiter == " " else layout.delimiter,
                header=None,
                names=list(range(beyond + 1)),
                skiprows=below_header(file, layout),
                decimal=layout.decimal,
                thousands="." if layout.decimal == "," else None,
                low_memory=False,
                encoding=layout.encoding,
                encoding_errors="replace",
                on_bad_lines="skip",
                skip_blank_lines=True,
                index_col=False,
                chunksize=min(_ROWS_A_PIECE, max(1000, _VALUES_A_PIECE // beyond), most_rows or _ROWS_A_PIECE),
                quoting=csv.QUOTE_MINIMAL,
            )
            for frame in frames:
                # A row with more fields than the table has columns would be read shifted: it is left out, and counted.
                fits = frame[beyond].isna()
                yield {at: frame[at] if fits.all() else frame.loc[fits, at] for at in places}
    except (pd.errors.ParserError, ValueError) as error:
        raise BadTable(f"the file cannot be read as a table: {error}", "Save it as CSV and try again") from None


def _json_pieces(path: Path, layout: Layout, places: list[int]) -> Iterator[dict[int, "pd.Series[Any]"]]:
    names = [layout.names[at] for at in places]
    rows: list[list[Any]] = []
    with path.open("rb") as file:
        for number, line in enumerate(io.TextIOWrapper(file, layout.encoding, errors="replace"), start=1):
            if len(line) > _LONGEST_LINE:
                raise BadTable("the line is longer than a megabyte", "Write one object a line", number)
            try:
                record = json.loads(line) if line.strip() else None
            except ValueError:
                # A last line that was cut short is what a broken-off recording leaves.
                record = None
            if isinstance(record, dict):
                flat = _flat(record)
                rows.append([flat.get(name) for name in names])
            if len(rows) >= _ROWS_A_PIECE:
                yield _columns(rows, places)
                rows = []
    if rows:
        yield _columns(rows, places)


def _columns(rows: list[list[Any]], places: list[int]) -> dict[int, "pd.Series[Any]"]:
    return {at: pd.Series([row[index] for row in rows], dtype=object) for index, at in enumerate(places)}


def _flat(record: dict[str, Any], before: str = "", depth: int = 0) -> dict[str, Any]:
    """Numbers and texts of an object by their path: {"cpu": {"temp": 4}} is "cpu.temp"."""
    found: dict[str, Any] = {}
    for key, value in record.items():
        name = f"{before}{key}"
        if isinstance(value, dict) and depth < 4:
            found |= _flat(value, f"{name}.", depth + 1)
        elif isinstance(value, int | float | str) and not isinstance(value, bool):
            found[name[:200]] = value
    return found


def _as_numbers(column: "pd.Series[Any]", decimal: str) -> Floats:
    if pd.api.types.is_numeric_dtype(column):
        plain: Floats = column.to_numpy(dtype=np.float64)
        return plain
    if decimal == ",":
        column = column.astype(str).str.replace(".", "", regex=False).str.replace(",", ".", regex=False)
    else:
        # "1,000.0" in a quoted or otherwise delimited field is a thousand.
        text = column.astype(str)
        grouped = text.str.strip().str.fullmatch(_GROUPED_NUMBER.pattern)
        column = column.where(~grouped, text.str.replace(",", "", regex=False))
    numbers = pd.to_numeric(column, errors="coerce")
    values: Floats = np.array(numbers, dtype=np.float64)
    missing = np.isnan(values)
    if len(values) and missing.mean() > 0.5:
        moments = _moments(column)
        if moments is not None:
            return moments
    return values


def _moments(column: "pd.Series[Any]") -> Floats | None:
    """Times of day as seconds of the epoch; None where they are none."""
    text = column.astype(str)
    if not text.head(20).str.contains(r"\d[:T-]\d", regex=True).mean() > 0.5:
        return None
    if text.head(20).str.fullmatch(_TIME_OF_DAY).mean() > 0.5:
        # Without a date it is the time since midnight, and no moment.
        passed = pd.to_timedelta(text.where(text.str.count(":") > 1, "0:" + text), errors="coerce")
        return np.asarray(passed.dt.total_seconds(), dtype=np.float64)
    moments = pd.to_datetime(text, errors="coerce", utc=True, format="mixed")
    if moments.isna().mean() > 0.5:
        return None
    seconds = moments.to_numpy(dtype="datetime64[ns]").astype(np.int64) / 1e9
    return np.where(moments.isna().to_numpy(), np.nan, seconds)
