"""Meshes in GLB."""

from __future__ import annotations

import json
import struct
from typing import Any

from nimble_cradle.geometry.mesh_limits import MOST_JSON, MOST_THINGS, MOST_TRIANGLES, Read, Told, too_many
from nimble_cradle.geometry.mesh_text import by_library

MOST_DEEP = 100
"""Parts within parts deeper than this are a circle."""
_GLB_SIZES = {5120: 1, 5121: 1, 5122: 2, 5123: 2, 5125: 4, 5126: 4}
_GLB_WIDE = {"SCALAR": 1, "VEC2": 2, "VEC3": 3, "VEC4": 4, "MAT2": 4, "MAT3": 9, "MAT4": 16}


def glb(data: bytes) -> Read:
    """GLB (glTF 2.0), its scene as it stands. Pictures, materials and movements are taken out before the
    library sees it, and what its parts come to is counted."""
    try:
        magic, version, _ = struct.unpack("<4sII", data[:12])
        size, kind = struct.unpack("<I4s", data[12:20])
        if magic != b"glTF" or version != 2 or kind != b"JSON" or size > MOST_JSON or 20 + size > len(data):
            raise ValueError
        tree = json.loads(data[20 : 20 + size])
        rest = data[20 + size :]
        room = len(rest) - 8
        _count_glb(tree, room)
    except (
        ValueError,
        KeyError,
        TypeError,
        IndexError,
        AttributeError,
        RecursionError,
        struct.error,
    ) as error:
        raise ValueError(str(error) if isinstance(error, Told) else "could not be read as GLB") from None
    for word in (
        "images",
        "textures",
        "materials",
        "samplers",
        "animations",
        "skins",
        "cameras",
        "extensions",
    ):
        tree.pop(word, None)
    for mesh in tree.get("meshes", []):
        for part in mesh["primitives"]:
            part.pop("material", None)
            part.pop("targets", None)
            part["attributes"] = {"POSITION": part["attributes"]["POSITION"]}
    text = json.dumps(tree).encode()
    text += b" " * (-len(text) % 4)
    whole = struct.pack("<4sII", b"glTF", 2, 20 + len(text) + len(rest))
    return by_library("glb", whole + struct.pack("<I4s", len(text), b"JSON") + text + rest)


def _count_glb(tree: dict[str, Any], room: int) -> None:
    """Refuse a GLB whose parts claim more than the file holds, or come to more than is read. Raises what a
    tree of another build raises."""
    _count_arrays(tree, room)
    if any("KHR_draco" in str(e) or "meshopt" in str(e) for e in tree.get("extensionsRequired", [])):
        raise Told("is packed in a way that is not read; write it without compression")
    nodes, costs = tree.get("nodes", []), [_cost(tree, mesh) for mesh in tree.get("meshes", [])]
    if any(k < 0 for node in nodes for k in node.get("children", [])):
        raise Told("could not be read as GLB")
    if len(nodes) > MOST_THINGS or len(costs) > MOST_THINGS:
        raise Told("has more parts than are read")
    total = _in_all(nodes, costs)
    if max(total, sum(costs)) > MOST_TRIANGLES + len(nodes) + len(costs):
        raise too_many(max(total, sum(costs)))


def _count_arrays(tree: dict[str, Any], room: int) -> None:
    """Raises Told where points or numbers lie outside the file, or in a way that is not read."""
    views = tree.get("bufferViews", [])
    if len(tree.get("buffers", [])) > 1 or "uri" in tree.get("buffers", [{}])[0]:
        raise Told("keeps its points in another file; only what is in the GLB itself is read")
    for view in views:
        if not 0 <= int(view.get("byteOffset", 0)) + int(view["byteLength"]) <= room:
            raise Told("is cut off: it says that it holds more than it does")
    for a in tree.get("accessors", []):
        long = int(a["count"]) * _GLB_SIZES[a["componentType"]] * _GLB_WIDE[a["type"]]
        if "sparse" in a or "bufferView" not in a:
            raise Told("has points that are written in a way that is not read (sparse)")
        if not 0 <= long <= int(views[a["bufferView"]]["byteLength"]):
            raise Told("is cut off: it says that it holds more than it does")


def _cost(tree: dict[str, Any], mesh: dict[str, Any]) -> int:
    """Triangles that a mesh comes to. Raises Told for one of too many parts."""
    if len(mesh["primitives"]) > MOST_THINGS:
        raise Told("has more parts than are read")
    sources = (part.get("indices", part["attributes"]["POSITION"]) for part in mesh["primitives"])
    return sum(int(tree["accessors"][source]["count"]) // 3 + 1 for source in sources)


def _in_all(nodes: list[dict[str, Any]], costs: list[int]) -> int:
    """Triangles of all nodes, a mesh as often as it is shown. Raises Told for nodes in a circle."""
    known: dict[int, int] = {}

    def cost_of(k: int, depth: int) -> int:
        """Triangles that a node comes to, those under it counted in."""
        if depth > MOST_DEEP:
            raise Told("has parts within parts without end")
        if k not in known:
            node = nodes[k]
            below = sum(cost_of(int(c), depth + 1) for c in node.get("children", []))
            known[k] = 1 + below + (costs[int(node["mesh"])] if "mesh" in node else 0)
        return known[k]

    below = {c for node in nodes for c in node.get("children", [])}
    return sum(cost_of(k, 0) for k in range(len(nodes)) if k not in below)
