"""Plain line drawings of curves as SVG, for the validation page."""

from __future__ import annotations

import math
from collections.abc import Sequence
from pathlib import Path

Curve = tuple[str, Sequence[tuple[float, float]], str]
WIDTH, HEIGHT, LEFT, BOTTOM, TOP, RIGHT = 560, 300, 62, 40, 14, 150


def _ticks(low: float, high: float, logarithmic: bool) -> list[float]:
    if logarithmic:
        return [10.0**k for k in range(math.floor(low), math.ceil(high) + 1) if low <= k <= high]
    step = 10 ** math.floor(math.log10(max(high - low, 1e-9)))
    step = next(s for s in (step / 5, step / 2, step, 2 * step) if (high - low) / s <= 8)
    return [step * k for k in range(math.ceil(low / step), math.floor(high / step) + 1)]


def draw(file: Path, x: str, y: str, curves: Sequence[Curve], logarithmic: bool = False) -> None:
    """Write curves (name, points, style "line" or "dots") over named axes; ``logarithmic`` upwards."""

    def height(v: float) -> float:
        return math.log10(max(v, 1e-12)) if logarithmic else v

    points = [p for _, ps, _ in curves for p in ps]
    x0, x1 = min(p[0] for p in points), max(p[0] for p in points)
    y0, y1 = min(height(p[1]) for p in points), max(height(p[1]) for p in points)
    pad = 0.05 * (y1 - y0)
    y0, y1 = y0 - pad, y1 + pad

    def at(px: float, py: float) -> tuple[float, float]:
        return (
            LEFT + (px - x0) / (x1 - x0) * (WIDTH - LEFT - RIGHT),
            HEIGHT - BOTTOM - (height(py) - y0) / (y1 - y0) * (HEIGHT - BOTTOM - TOP),
        )

    out = [
        f'<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 {WIDTH} {HEIGHT}" '
        'font-family="sans-serif" font-size="11" fill="#333">',
        f'<rect width="{WIDTH}" height="{HEIGHT}" fill="#fff"/>',
    ]
    for t in _ticks(x0, x1, False):
        px = at(t, 1)[0]
        out.append(f'<path d="M{px:.1f} {TOP}V{HEIGHT - BOTTOM}" stroke="#ddd"/>'
                   f'<text x="{px:.1f}" y="{HEIGHT - BOTTOM + 14}" text-anchor="middle">{t:g}</text>')  # fmt: skip
    for t in _ticks(y0, y1, logarithmic):
        py = at(x0, t)[1]
        out.append(f'<path d="M{LEFT} {py:.1f}H{WIDTH - RIGHT}" stroke="#ddd"/>'
                   f'<text x="{LEFT - 5}" y="{py + 4:.1f}" text-anchor="end">{t:g}</text>')  # fmt: skip
    out.append(
        f'<text x="{(LEFT + WIDTH - RIGHT) / 2}" y="{HEIGHT - 6}" text-anchor="middle">{x}</text>'
    )
    out.append(
        f'<text transform="translate(13 {HEIGHT / 2}) rotate(-90)" text-anchor="middle">{y}</text>'
    )
    for k, (name, ps, style) in enumerate(curves):
        grey = ["#111", "#c77a10", "#2b5f8a", "#888", "#7a3b8f"][k % 5]
        placed = [at(*p) for p in ps]
        if style == "dots":
            out += [f'<circle cx="{a:.1f}" cy="{b:.1f}" r="3" fill="none" stroke="{grey}"/>'
                    for a, b in placed]  # fmt: skip
        else:
            line = "L".join(f"{a:.1f} {b:.1f}" for a, b in placed)
            out.append(f'<path d="M{line}" fill="none" stroke="{grey}" stroke-width="1.5"/>')
        out.append(
            f'<text x="{WIDTH - RIGHT + 8}" y="{TOP + 14 + 16 * k}" fill="{grey}">{name}</text>'
        )
    file.write_text("\n".join([*out, "</svg>\n"]))
