"""The PDF of a report and pictures of its pages. Imported in the worker only: it is heavy."""

import subprocess
import tempfile
from pathlib import Path

from django.template.loader import render_to_string
from weasyprint import HTML

from yoke_server.derive.services import core_recipe, recipe_of
from yoke_server.derive.tension import curve_of
from yoke_server.report.contents import fields, result_rows
from yoke_server.report.figure import FONTS, stress_strain_svg
from yoke_server.report.models import Report

DPI = 120


def render(report: Report) -> bytes:
    """The PDF, computed anew from the run's raw blocks."""
    recipe = recipe_of(report.run)
    curve = curve_of(report.run, core_recipe(recipe))
    html = render_to_string(
        "report/tension.html",
        {
            **fields(report),
            "figure": stress_strain_svg(curve, recipe),
            "results": result_rows(curve.result, recipe),
            "notes": curve.result.notes,
        },
    )
    return bytes(HTML(string=html, base_url=FONTS.as_uri() + "/").write_pdf())


def pages(pdf: bytes) -> list[bytes]:
    """One PNG a page, by poppler."""
    with tempfile.TemporaryDirectory() as folder:
        file = Path(folder) / "report.pdf"
        file.write_bytes(pdf)
        subprocess.run(
            ["pdftoppm", "-r", str(DPI), "-png", str(file), str(Path(folder) / "page")], check=True
        )
        return [p.read_bytes() for p in sorted(Path(folder).glob("page*.png"))]
