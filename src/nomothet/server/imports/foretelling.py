"""What a file will be as a pass, told before it is stored."""

from pathlib import Path
from typing import Any

from nomothet.core.errors import MethodError
from nomothet.core.notes import note
from nomothet.formats.column_maps import ColumnMap, ColumnUse
from nomothet.formats.column_proposals import ROWS_LOOKED_AT
from nomothet.formats.errors import FormatError
from nomothet.formats.recordings import read_recording
from nomothet.words import say, says


def map_of(item: dict[str, Any]) -> ColumnMap:
    """The column map that was chosen for a file of an import."""
    fields = ("column", "role", "name", "unit")
    uses = [ColumnUse(**{field: one[field] for field in fields}) for one in item["columns"]]
    return ColumnMap(uses, item.get("every_s"))


def foretell(item: dict[str, Any], path: Path) -> None:
    """Note what would be stored, what is lost or odd, and why it cannot be read so; the first rows are read."""
    item["remarks"], item["refusal"] = [], ""
    try:
        found = read_recording(path, map_of(item), most_rows=ROWS_LOOKED_AT)
    except (FormatError, MethodError) as error:
        item["refusal"] = str(error)
        return
    frames = 0 if found.frame_times_ms is None else len(found.frame_times_ms)
    first = say(note("lasts", duration_s=found.duration_s, frames=frames))
    # A long file is not read to its end only to be looked at.
    first = f"the first {found.rows:,} rows: {first}" if found.rows >= ROWS_LOOKED_AT else first
    item["remarks"] = [first, *says(found.remarks)]
