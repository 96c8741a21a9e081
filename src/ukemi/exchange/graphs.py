"""A level, or the order of its things, as a graph: GraphML in and out, DOT out.

GraphML: U. Brandes, M. Eiglsperger, I. Herman, M. Himsolt and M. S. Marshall, "GraphML progress report",
Graph Drawing 2001, Lecture Notes in Computer Science 2265, 501-512.
"""

from __future__ import annotations

import json
from collections.abc import Iterable
from xml.etree import ElementTree as Xml

from ..checks import Report
from .tables import COLUMNS, Row, TableError, Tables, drawn_rooms

_SPACE = "http://graphml.graphdrawing.org/xmlns"
#: The attributes of the edge for the other direction of a passage.
_BACK = "back"


def graphml(tables: Tables) -> str:
    """A level as GraphML: rooms are nodes, passages edges; what no other tool reads is kept as text.

    Returns:
        The text of the file.
    """
    root = Xml.Element("graphml", {"xmlns": _SPACE})
    for kind, columns in _columns():
        for column in columns:
            about = {
                "id": f"{kind}-{column}",
                "for": kind,
                "attr.name": column,
                "attr.type": "string",
            }
            Xml.SubElement(root, "key", about)
    graph = Xml.SubElement(root, "graph", {"id": "level", "edgedefault": "directed"})
    for row in tables.rows["level"]:
        _data(graph, "graph", {row["field"]: row["value"]})
    for table in ("items", "placements"):
        rows = tables.rows[table]
        if rows:
            _data(graph, "graph", {table: json.dumps(rows, ensure_ascii=False)})
    for row in tables.rows["rooms"]:
        node = Xml.SubElement(graph, "node", {"id": row["room"]})
        _data(node, "node", {key: text for key, text in row.items() if key != "room"})
    rooms = {row["room"] for row in tables.rows["rooms"]}
    for row in tables.rows["passages"]:  # cells of maps are rooms that no table lists
        for end in (row["from"], row["to"]):
            if end not in rooms:
                rooms.add(end)
                Xml.SubElement(graph, "node", {"id": end})
    for number, row in enumerate(tables.rows["passages"]):
        # Few readers take edges of both kinds in one graph: a way back is an edge of its own.
        edge = _edge(graph, f"e{number}", row["from"], row["to"])
        _data(edge, "edge", {key: text for key, text in row.items() if key not in ("from", "to")})
        if row["way"] == "<->":
            back = _edge(graph, f"e{number}-back", row["to"], row["from"])
            _data(back, "edge", {"way": _BACK})
    return _text(root)


def _edge(graph: Xml.Element, id: str, source: str, target: str) -> Xml.Element:
    return Xml.SubElement(graph, "edge", {"id": id, "source": source, "target": target})


def _columns() -> Iterable[tuple[str, tuple[str, ...]]]:
    from ..language.fields.whole import LEVEL

    yield "node", tuple(one for one in COLUMNS["rooms"] if one != "room")
    yield "edge", tuple(one for one in COLUMNS["passages"] if one not in ("from", "to"))
    fields = [name for name in LEVEL.by_name if name not in ("ukemi", "rooms", "passages")]
    yield "graph", (*fields, "placements")


def _data(parent: Xml.Element, kind: str, values: Row) -> None:
    for name, text in values.items():
        data = Xml.SubElement(parent, "data", {"key": f"{kind}-{name}"})
        data.text = text


def _text(root: Xml.Element) -> str:
    Xml.indent(root)
    return (
        '<?xml version="1.0" encoding="UTF-8"?>\n' + Xml.tostring(root, encoding="unicode") + "\n"
    )


def from_graphml(text: str) -> Tables:
    """A level from GraphML, of Ukemi or of another tool.

    Nodes are rooms, called as their label says, or else their id; edges are passages, two-way where they
    are not directed.

    Args:
        text: The text of the file.

    Raises:
        TableError: It is no GraphML.
    """
    if "<!DOCTYPE" in text or "<!ENTITY" in text:
        raise TableError("the file declares entities, which no graph needs")
    try:
        root = Xml.fromstring(text)
    except Xml.ParseError as error:
        raise TableError(f"line {error.position[0]}: this is no XML: {error.msg}") from None
    if _plain(root.tag) != "graphml":
        raise TableError(f"this is {_plain(root.tag)}, not graphml")
    keys = {
        one.get("id", ""): one.get("attr.name", one.get("id", ""))
        for one in root
        if _plain(one.tag) == "key"
    }
    graph = next((one for one in root if _plain(one.tag) == "graph"), None)
    if graph is None:
        raise TableError("there is no graph in it")
    return _tables(graph, keys)


def _tables(graph: Xml.Element, keys: dict[str, str]) -> Tables:
    tables = Tables()
    data = _data_of(graph, keys)
    for table in ("items", "placements"):
        if table in data:
            tables.rows[table] = _rows(table, data.pop(table))
    tables.rows["level"] = [{"field": name, "value": text} for name, text in data.items()]
    drawn = drawn_rooms(tables)
    names: dict[str, str] = {}
    strange: set[str] = set()
    for node in (one for one in graph if _plain(one.tag) == "node"):
        about, own = _data_of(node, keys), node.get("id", "")
        known = {key: value for key, value in about.items() if key in COLUMNS["rooms"]}
        strange |= about.keys() - known.keys()
        # a file of ours has the room's name as its id; others number nodes, and name them by a label
        numbered = own.lstrip("nN").isdigit() and "label" in known
        names[own] = known.pop("label") if numbered else own
        if own not in drawn and "@" not in own:
            tables.rows["rooms"].append({"room": names[own], **known})
    both = graph.get("edgedefault") != "directed"
    for number, edge in enumerate(one for one in graph if _plain(one.tag) == "edge"):
        about = _data_of(edge, keys)
        ends = [edge.get("source", ""), edge.get("target", "")]
        for end in ends:
            if end not in names:
                raise TableError(f"edge {edge.get('id', number)}: there is no node {end!r}")
        if about.get("way") == _BACK:
            continue
        directed = edge.get("directed", "false" if both else "true") == "true"
        known = {key: value for key, value in about.items() if key in COLUMNS["passages"]}
        strange |= about.keys() - known.keys()
        way = known.pop("way", "->" if directed else "<->")
        row = {"from": names[ends[0]], "way": way, "to": names[ends[1]], **known}
        tables.rows["passages"].append(row)
    for name in sorted(strange):
        tables.assumed.append(
            f"what nodes or edges say under {name!r} was left out: no field is called so"
        )
    return tables


def _rows(table: str, text: str) -> list[Row]:
    """The rows of a table that stands in a graph as JSON."""
    try:
        rows = json.loads(text)
    except (ValueError, RecursionError):
        rows = None
    if isinstance(rows, list) and all(
        isinstance(row, dict) and all(isinstance(one, str) for one in row.values()) for row in rows
    ):
        return rows
    raise TableError(f"what the graph says under {table!r} are no rows of a table")


def _data_of(element: Xml.Element, keys: dict[str, str]) -> Row:
    return {
        keys.get(one.get("key", ""), one.get("key", "")): one.text or ""
        for one in element
        if _plain(one.tag) == "data"
    }


def _plain(tag: str) -> str:
    return tag.rpartition("}")[2]


# -- the order, and DOT ---------------------------------------------------------------------------


def order_tables(report: Report) -> Tables:
    """Write the order of required things as tables of a graph: things are nodes, pairs edges.

    Raises:
        ValueError: The order is undecided.
    """
    order = report.answers.order
    if order is None:
        raise ValueError("the order is undecided; raise --max-seconds")
    tables = Tables()
    names = dict.fromkeys(name for pair in order for name in pair)
    tables.rows["level"] = [{"field": "name", "value": f"{report.level.name}: the order"}]
    tables.rows["rooms"] = [{"room": name} for name in names]
    tables.rows["passages"] = [{"from": a, "way": "->", "to": b} for a, b in order]
    return tables


def dot(tables: Tables, placed: bool = True) -> str:
    """A graph in the DOT language, to be laid out by graph tools.

    Args:
        tables: The rooms and passages, or the order.
        placed: Whether to write in each room what lies there.

    Returns:
        The text of the file.
    """
    said = {row["field"]: row["value"] for row in tables.rows["level"]}
    lying: dict[str, list[str]] = {}
    for row in tables.rows["placements"] if placed else ():
        count = f"{row['count']} " if row["count"] != "1" else ""
        inside = f" in {row['chest']}" if "chest" in row else ""
        lying.setdefault(row["room"], []).append(f"{count}{row['item']}{inside}")
    lines = [f"digraph {_quoted(said.get('name', 'level'))} {{", "  node [shape=box];"]
    rooms = dict.fromkeys(row["room"] for row in tables.rows["rooms"])
    rooms |= dict.fromkeys(row[end] for row in tables.rows["passages"] for end in ("from", "to"))
    for room in rooms:
        text = "\n".join([room, *lying.get(room, ())])
        bold = ", style=bold" if room in (said.get("start"), said.get("goal")) else ""
        lines.append(f"  {_quoted(room)} [label={_quoted(text)}{bold}];")
    for row in tables.rows["passages"]:
        words = [row["name"]] if "name" in row else []
        words += [f"{name}: {row[name]}" for name in ("lock", "gate") if name in row]
        words += ["once"] if "once" in row else []
        about = [f"label={_quoted(chr(10).join(words))}"] if words else []
        about += ["dir=none"] if row["way"] == "<->" else []
        ends = f"{_quoted(row['from'])} -> {_quoted(row['to'])}"
        lines.append(f"  {ends} [{', '.join(about)}];" if about else f"  {ends};")
    return "\n".join([*lines, "}", ""])


def _quoted(text: str) -> str:
    escaped = text.replace("\\", "\\\\").replace('"', '\\"').replace("\n", "\\n")
    return f'"{escaped}"'
