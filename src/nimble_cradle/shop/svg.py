"""A drawing as SVG at true size: user units are millimetres."""

from __future__ import annotations

from html import escape

from nimble_cradle.shop.page import Circle, Drawing, Path

STYLE = {"CUT": "#1a1a1a", "MARK": "#2b6f8f", "FOLD": "#9a5b12", "NOTE": "#555555"}
DASH = {"FOLD": ' stroke-dasharray="4 2"', "MARK": ' stroke-dasharray="1.5 1"'}


def svg(drawing: Drawing, margin: float = 8.0) -> str:
    """The drawing as text; y is turned so that it stands upright. One group for each layer."""
    x0, y0, x1, y1 = drawing.extent()
    width, height = x1 - x0 + 2 * margin, y1 - y0 + 2 * margin
    out = [
        (
            f'<svg xmlns="http://www.w3.org/2000/svg" width="{width:.3f}mm" height="{height:.3f}mm" '
            f'viewBox="{x0 - margin:.3f} {-y1 - margin:.3f} {width:.3f} {height:.3f}">'
        ),
        f"<title>{escape(drawing.title, quote=False)}</title>",
    ]
    for layer in ("CUT", "FOLD", "MARK", "NOTE"):
        out.append(
            f'<g id="{layer.lower()}" fill="none" stroke="{STYLE[layer]}"'
            f' stroke-width="0.25"{DASH.get(layer, "")}>'
        )
        for mark in drawing.marks:
            if mark.layer != layer:
                continue
            if isinstance(mark, Path):
                points = " ".join(f"{x:.4f},{-y:.4f}" for x, y in mark.points)
                out.append(f'<{"polygon" if mark.closed else "polyline"} points="{points}"/>')
            elif isinstance(mark, Circle):
                out.append(
                    f'<circle cx="{mark.centre[0]:.4f}" cy="{-mark.centre[1]:.4f}" r="{mark.radius:.4f}"/>'
                )
            else:
                out.append(
                    f'<text x="{mark.at[0]:.3f}" y="{-mark.at[1]:.3f}" font-size="{mark.height}"'
                    f' fill="{STYLE[layer]}" stroke="none"'
                    f' font-family="sans-serif">{escape(mark.text, quote=False)}</text>'
                )
        out.append("</g>")
    return "\n".join([*out, "</svg>", ""])
