"""What is measured on a piece: its shape, its holes, its score lines, what hangs over."""

from __future__ import annotations

import re
from dataclasses import replace

from zester.core.cutlist.lines import Written
from zester.core.errors import CutListError, NotInForm, sure
from zester.core.geometry import Window
from zester.core.lengths import SIZE, Ruler, parse_length, parse_size, plain, show_size, with_unit
from zester.core.pieces import NO_EDGES, Edges, Known, Outline, Score, Tool

_AXIS = re.compile(r"\b(?P<axis>across|down)\b", re.IGNORECASE)
_AXES = {"across": "x", "down": "y"}


def shape_of(written: Written, tool: Tool | None, ruler: Ruler) -> Outline | None:
    """The outline a line asks for; without a width it fills its piece."""
    if tool and tool.sizes and tool.kind != "folder":
        return _of_tool(tool, written.tool_number)
    said = written.rule("shape")
    if not said:
        return None
    kind = _kind(said["shape"])
    if kind == "oval" and said["size"] and not re.fullmatch(SIZE, plain(said["size"]).strip(), re.IGNORECASE):
        raise NotInForm("How large is the oval the other way?", mend="Write both measures, like: oval 2½ x 2")
    if not said["size"]:
        return Outline(kind=kind, width=0, height=0)
    return _outline(kind, _one_or_two(said["size"], ruler))


def _of_tool(tool: Tool, number: int) -> Outline:
    """The shape of a tool's number; a tool of one size needs none."""
    if number > len(tool.sizes) or (not number and len(tool.sizes) > 1):
        raise CutListError(
            f"{tool.name} has the numbers 1 to {len(tool.sizes)}", mend=f"Write one of them: {tool.name} 1"
        )
    return _outline(tool.shape, tool.sizes[(number or 1) - 1])


def _outline(kind: str, size: tuple[int, int], x: int = 0, y: int = 0) -> Outline:
    return Outline(kind=kind, width=size[0], height=size[1], x=x, y=y)


def _one_or_two(text: str, ruler: Ruler) -> tuple[int, int]:
    """``2¼`` both ways, or a whole size."""
    if re.fullmatch(SIZE, plain(text).strip(), re.IGNORECASE):
        return parse_size(text, ruler)
    side = parse_length(text, ruler)
    return side, side


def filled(shape: Outline, width: int, height: int) -> Outline:
    """A shape as large as its piece; round ones as large as fits."""
    if shape.kind in ("circle", "square", "scallop"):
        side = min(width, height)
        return replace(shape, width=side, height=side)
    return replace(shape, width=width, height=height)


def overhang_of(found: re.Match[str] | None, width: int, height: int, ruler: Ruler) -> Edges:
    """So much longer at both ends of the longer side, or at the edges that are named."""
    if not found:
        return NO_EDGES
    length = parse_length(found["length"], ruler)
    edges = re.findall(r"left|right|top|bottom|all", found["edges"].lower())
    if "all" in edges:
        edges = ["left", "right", "top", "bottom"]
    if not edges:
        edges = ["left", "right"] if width >= height else ["top", "bottom"]
    return Edges(**dict.fromkeys(edges, length))


def _inner(
    found: re.Match[str], size: tuple[int, int], room: tuple[int, int], what: str, ruler: Ruler
) -> tuple[int, int]:
    """The left and upper edge of a part inside a piece; in the centre unless it is said."""
    x = parse_length(found["x"], ruler) if found["x"] else (room[0] - size[0]) // 2
    y = parse_length(found["y"], ruler) if found["y"] else (room[1] - size[1]) // 2
    if x < 0 or y < 0 or x + size[0] > room[0] or y + size[1] > room[1]:
        raise CutListError(
            f"The {what}, {show_size(*size, ruler.unit)}, reaches beyond the piece",
            mend=f"The piece is {show_size(*room, ruler.unit)}; leave a rim for the glue",
        )
    return x, y


def middle_of(found: re.Match[str] | None, width: int, height: int, ruler: Ruler) -> Window | None:
    if not found:
        return None
    size = parse_size(found["size"], ruler)
    return Window(*_inner(found, size, (width, height), "middle", ruler), *size)


def window_of(written: Written, room: tuple[int, int], known: Known, ruler: Ruler) -> Outline | None:
    """The hole in a piece: by its size, round if it is called a hole, or by a tool's number."""
    by_tool, window, hole = written.holes.get("window"), written.rule("window"), written.rule("hole")
    if (by_tool is not None) + (window is not None) + (hole is not None) > 1:
        raise CutListError("Two holes in one piece", mend="Write one of them; the other goes into a piece of its own")
    if by_tool:
        shape = _hole_of_tool(by_tool, known)
        x, y = (room[0] - shape.width) // 2, (room[1] - shape.height) // 2
        if x < 0 or y < 0:
            raise CutListError(
                f"The hole, {show_size(shape.width, shape.height, ruler.unit)}, is larger than its piece",
                mend=f"The piece is {show_size(*room, ruler.unit)}",
            )
        return replace(shape, x=x, y=y)
    found = window or hole
    if not found:
        return None
    size = _one_or_two(found["size"], ruler)
    x, y = _inner(found, size, room, "window" if window else "hole", ruler)
    if hole and (hole["where"] or "").lower() == "top":
        y = min(size[1], y)
    return _outline(_kind(found["shape"] or ("rectangle" if window else "circle")), size, x, y)


def _hole_of_tool(found: re.Match[str], known: Known) -> Outline:
    name = re.sub(r"\s+", " ", found["name"]).casefold()
    tool = next(tool for tool in known.tools if tool.name.casefold() == name)
    if not tool.sizes or tool.kind == "folder":
        raise CutListError(f"{tool.name} cuts no hole", mend="Name a die or a punch")
    return _of_tool(tool, int(found["number"] or 0))


def notch_of(written: Written, room: tuple[int, int], known: Known, ruler: Ruler) -> Outline | None:
    """Half a hole over an edge, the middle of which it sits on; the upper edge if none is named."""
    by_tool, found = written.holes.get("notch"), written.rule("notch")
    if by_tool:
        shape = _hole_of_tool(by_tool, known)
    elif found:
        side = parse_length(found["size"], ruler)
        shape = _outline(_kind(found["shape"] or "circle"), (side, side))
    else:
        return None
    edge = (sure(by_tool or found)["edge"] or "top").lower()
    across = edge in ("top", "bottom")
    along, size = (room[0], shape.width) if across else (room[1], shape.height)
    deep = room[1] if across else room[0]
    if size > along or (shape.height if across else shape.width) // 2 >= deep:
        raise CutListError(
            f"A notch of {show_size(shape.width, shape.height, ruler.unit)} leaves nothing of the piece",
            mend=f"The piece is {show_size(*room, ruler.unit)}",
        )
    x = (
        (room[0] - shape.width) // 2
        if across
        else (-shape.width // 2 if edge == "left" else room[0] - shape.width // 2)
    )
    y = (
        (-shape.height // 2 if edge == "top" else room[1] - shape.height // 2)
        if across
        else (room[1] - shape.height) // 2
    )
    return replace(shape, x=x, y=y)


def _kind(word: str) -> str:
    """A banner is called a fishtail, too."""
    return word.lower().replace("fishtail", "banner")


def score_of(found: re.Match[str] | None, width: int, height: int, ruler: Ruler) -> Score | None:
    if found is None:
        return None
    said = _scores_each_way(found["rest"])
    if len(said) == 2:
        (axis, first), (other, second) = said.items()
        one = _score_places(first, axis, width, height, ruler)
        return Score(axis, one, _score_places(second, other, width, height, ruler))
    axis, text = next(iter(said.items()))
    axis = axis or ("y" if height > width else "x")
    return Score(axis, _score_places(text, axis, width, height, ruler))


def _scores_each_way(text: str) -> dict[str, str]:
    """The places by their axis: ``4¼ across, 5½ down``, or with the word in front; without one the axis is open."""
    words = list(_AXIS.finditer(text))
    if len(words) < 2 or words[0]["axis"].lower() == words[1]["axis"].lower():
        return {_AXES[words[0]["axis"].lower()] if words else "": _AXIS.sub(" ", text)}
    first, second = words[:2]
    in_front = not text[: first.start()].strip(" ,;")
    cut = second.start() if in_front else first.end()
    parts = text[:cut], text[cut:]
    return {
        _AXES[word["axis"].lower()]: _AXIS.sub(" ", part) for word, part in zip((first, second), parts, strict=True)
    }


def _score_places(text: str, axis: str, width: int, height: int, ruler: Ruler) -> tuple[int, ...]:
    places = tuple(
        sorted(parse_length(part, ruler) for part in re.split(r",\s|,$|\band\b|&|;", text) if part.strip(" ,"))
    )
    if not places:
        raise CutListError("No place to score", mend="Write where, like: score 4¼")
    side = width if axis == "x" else height
    for place in places:
        if place >= side:
            raise CutListError(
                f"The score at {with_unit(place, ruler.unit)} is off the piece",
                mend=f"It is {with_unit(side, ruler.unit)} {'wide' if axis == 'x' else 'high'}",
            )
    return places
