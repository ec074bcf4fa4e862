"""A spreadsheet program that opens a workbook and saves it again: LibreOffice without a screen, where it is installed."""

import io
import shutil
import subprocess
import tempfile
from pathlib import Path

from openpyxl import load_workbook
from openpyxl.workbook import Workbook

__all__ = ["PROGRAM", "opened_and_saved"]

#: Its path; None where there is none.
PROGRAM = shutil.which("soffice")


def opened_and_saved(content: bytes) -> Workbook:
    """A workbook as the program writes it again, with what its formulas come to."""
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "book.xlsx"
        path.write_bytes(content)
        command = [str(PROGRAM), "--headless", "--norestore", f"-env:UserInstallation=file://{folder}/profile", "--convert-to", "xlsx"]
        subprocess.run([*command, "--outdir", f"{folder}/out", str(path)], check=True, capture_output=True, timeout=120)
        return load_workbook(io.BytesIO((Path(folder) / "out" / "book.xlsx").read_bytes()), data_only=True)
