"""The PDF of a report and pictures of its pages. Imported in the worker only: it is heavy."""

import subprocess
import tempfile
from pathlib import Path
from typing import Any
from urllib.parse import unquote, urlsplit

from django.template.loader import render_to_string
from weasyprint import HTML
from weasyprint.urls import URLFetcher

from yoke_server.common.tasks.worker import goes_on
from yoke_server.derive.figures.style import FONTS
from yoke_server.record.queries import document_of
from yoke_server.report.models import Report

DPI = 120
VARIANT = "pdf/ua-1"


class OwnFonts(URLFetcher):
    """Fetch the fonts that ship with the application; refuse every other address."""

    def __init__(self) -> None:
        super().__init__(allowed_protocols=["file"], allow_redirects=False)

    def fetch(self, url: str, headers: dict[str, str] | None = None) -> Any:
        file = Path(unquote(urlsplit(url).path)).resolve()
        if file.parent != FONTS or file.suffix != ".ttf":
            raise ValueError(f"a report fetches nothing from elsewhere: {url[:80]}")
        return super().fetch(url, headers)


def html_of(report: Report) -> str:
    """The report's pages as HTML."""
    blocks = [block.html() for block in report.blocks]
    context = {
        "report": report,
        "project": report.project,
        "blocks": blocks,
        "bench": document_of(report.run).bench,
    }
    return render_to_string("report/report.html", context)


def render(report: Report) -> bytes:
    """The PDF, tagged so that it can be read aloud (PDF/UA-1)."""
    return pdf_of(html_of(report))


def pdf_of(*parts: str) -> bytes:
    """Pages of HTML as a PDF with our own fonts and nothing else from elsewhere.

    parts : of a long document, each laid out by itself; the pages of each are counted anew
    """
    laid_out = []
    for text in parts:
        html = HTML(string=text, base_url=FONTS.as_uri() + "/", url_fetcher=OwnFonts())
        laid_out.append(html.render(pdf_variant=VARIANT))
        goes_on()
    whole = laid_out[0].copy([page for part in laid_out for page in part.pages])
    return bytes(whole.write_pdf(pdf_variant=VARIANT))


def pages(pdf: bytes) -> list[bytes]:
    """One PNG a page, by poppler."""
    with tempfile.TemporaryDirectory() as folder:
        file = Path(folder) / "report.pdf"
        file.write_bytes(pdf)
        subprocess.run(
            ["pdftoppm", "-r", str(DPI), "-png", str(file), str(Path(folder) / "page")], check=True
        )
        return [p.read_bytes() for p in sorted(Path(folder).glob("page*.png"))]
