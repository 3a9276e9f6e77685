"""What `pack.mjs` has Python do: the core and what it stands on, compiled by the very Python that will run it."""

import compileall
import io
import os
import pathlib
import shutil
import zipfile

WHEELS, PROJECT = pathlib.Path("/wheels"), pathlib.Path("/project")
SHIPPED = (".pyc", ".so")
LEFT_OUT = ("mypy.pyc", "v1", "deprecated", "_hypothesis_plugin.pyc")
"""Modules of pydantic that nothing in a browser asks for."""


def archives() -> dict[str, bytes | str]:
    """The archives by name: `site`, what the core stands on, and `wary`; the native library; an empty one."""
    site, core = pathlib.Path("/packed/site"), pathlib.Path("/packed/core")
    for wheel in sorted(WHEELS.glob("*.whl")):
        zipfile.ZipFile(wheel).extractall(site)
    shutil.copytree(PROJECT / "wary", core / "wary", ignore=shutil.ignore_patterns("__pycache__", "*.pyc"))
    packed = {"site": _archive(site), "wary": _archive(core)}
    library = next(site.rglob("*.so"))
    with zipfile.ZipFile(empty := io.BytesIO(), "w"):
        pass
    return packed | {
        "library": library.read_bytes(),
        "library_path": str(library.relative_to(site)),
        "nothing": empty.getvalue(),
    }


def _archive(folder: pathlib.Path) -> bytes:
    # The same sources come to the same bytes: a traceback names a file by where it stood, and no time is kept.
    os.environ["SOURCE_DATE_EPOCH"] = "0"
    compileall.compile_dir(folder, quiet=2, legacy=True, stripdir=str(folder), optimize=0)
    held = io.BytesIO()
    with zipfile.ZipFile(held, "w") as archive:
        for file in sorted(folder.rglob("*")):
            path = file.relative_to(folder)
            wanted = file.suffix in SHIPPED or (path.parts[0].endswith(".dist-info") and file.name == "METADATA")
            if file.is_file() and wanted and not set(path.parts) & set(LEFT_OUT):
                archive.writestr(zipfile.ZipInfo(str(path)), file.read_bytes(), zipfile.ZIP_DEFLATED, 9)
    return held.getvalue()
