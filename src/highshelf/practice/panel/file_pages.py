"""The panel's routes for files."""

import posixpath
from typing import Annotated
from urllib.parse import quote

from fastapi import APIRouter, File, UploadFile
from fastapi.responses import Response

from highshelf.practice.panel.databases import Refusal
from highshelf.practice.panel.desk import AtDesk, Desk, Here, Sure, Text, Visit, attempt

router = APIRouter()


def files_page(desk: Desk, visit: Visit, folder: str, status: int = 200, /, **facts: object) -> Response:
    folder = folder.strip("/")
    mine = desk.files(visit)
    try:
        rows = [(n, posixpath.join(folder, n), inside, size) for n, inside, size in mine.names(folder)]
    except Refusal as refusal:
        facts, rows, status = {"refusal": str(refusal)} | facts, [], 404
    above = posixpath.dirname(folder) if folder else None
    shown = {"folder": folder, "above": above, "rows": rows, "most": mine.most_bytes // 1_000_000}
    return desk.page("files", f"Files in {folder or 'your home'}", visit, status, **shown, **facts)


def address_of(folder: str) -> str:
    return "/files?folder=" + quote(folder)


@router.get("/files")
def list_files(desk: AtDesk, visit: Here, folder: str = "") -> Response:
    return files_page(desk, visit, folder)


@router.post("/files/send")
def send_file(desk: AtDesk, visit: Sure, file: Annotated[UploadFile, File()], folder: Text = "") -> Response:
    def act() -> str:
        desk.files(visit).take(folder, file.filename or "", file.file, file.size or 0)
        return address_of(folder)

    return attempt(act, lambda refusal: files_page(desk, visit, folder, 422, refusal=refusal))


@router.post("/files/unpack")
def unpack(desk: AtDesk, visit: Sure, folder: Text = "", name: Text = "") -> Response:
    def act() -> str:
        desk.files(visit).unpack(folder, name)
        return address_of(folder)

    return attempt(act, lambda refusal: files_page(desk, visit, folder, 422, refusal=refusal))
