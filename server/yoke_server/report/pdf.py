"""The PDF of a report and pictures of its pages. Imported in the worker only: it is heavy."""

import subprocess
import tempfile
from pathlib import Path
from typing import Any
from urllib.parse import unquote, urlsplit

from django.template.loader import render_to_string
from weasyprint import HTML
from weasyprint.urls import URLFetcher

from yoke_server.derive.kinds.tension import curve_of, values_of
from yoke_server.derive.queries import tension_of
from yoke_server.report.contents import fields, result_rows
from yoke_server.report.figure import FONTS, stress_strain_svg
from yoke_server.report.models import Report

DPI = 120


class OwnFonts(URLFetcher):
    """Fetches fonts of ours and nothing else, whatever a text in a report says."""

    def __init__(self) -> None:
        super().__init__(allowed_protocols=["file"], allow_redirects=False)

    def fetch(self, url: str, headers: dict[str, str] | None = None) -> Any:
        file = Path(unquote(urlsplit(url).path)).resolve()
        if file.parent != FONTS or file.suffix != ".ttf":
            raise ValueError(f"a report fetches nothing from elsewhere: {url[:80]}")
        return super().fetch(url, headers)


def render(report: Report) -> bytes:
    """The PDF, computed anew from the run's raw blocks."""
    recipe = tension_of(report.run)
    curve = curve_of(report.run, recipe)
    html = render_to_string(
        "report/tension.html",
        {
            **fields(report),
            "figure": stress_strain_svg(curve, recipe),
            "results": result_rows(values_of(curve.result, recipe)),
            "notes": curve.result.notes,
        },
    )
    base = FONTS.as_uri() + "/"
    return bytes(HTML(string=html, base_url=base, url_fetcher=OwnFonts()).write_pdf())


def pages(pdf: bytes) -> list[bytes]:
    """One PNG a page, by poppler."""
    with tempfile.TemporaryDirectory() as folder:
        file = Path(folder) / "report.pdf"
        file.write_bytes(pdf)
        subprocess.run(
            ["pdftoppm", "-r", str(DPI), "-png", str(file), str(Path(folder) / "page")], check=True
        )
        return [p.read_bytes() for p in sorted(Path(folder).glob("page*.png"))]
