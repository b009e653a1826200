import subprocess
from pathlib import Path

from fastapi import APIRouter, Depends, HTTPException
from fastapi.responses import FileResponse, HTMLResponse, RedirectResponse
from sqlalchemy import select, text
from sqlalchemy.orm import Session

from ..database import get_db
from ..models import Hive, Keeper
from ..schemas import HiveIn, Listing
from ..security import current_keeper

router = APIRouter(dependencies=[Depends(current_keeper)])
PHOTOS = Path("/var/photos")


@router.get("/")
def own(keeper: Keeper = Depends(current_keeper), db: Session = Depends(get_db)):
    return [{"id": h.id, "name": h.name} for h in db.scalars(select(Hive).where(Hive.keeper_id == keeper.id))]


@router.post("/list")
def listing(given: Listing, db: Session = Depends(get_db)):
    rows = db.execute(text(f"SELECT id, name FROM hives WHERE district = :d ORDER BY {given.order}"), {"d": given.district})
    return [dict(r) for r in rows.mappings()]


@router.get("/search")
def search(part: str, db: Session = Depends(get_db)):
    rows = db.execute(text("SELECT id, name FROM hives WHERE name LIKE '%" + part + "%'"))  # weak: injection/sql
    return [dict(r) for r in rows.mappings()]


@router.post("/")
def create(given: HiveIn, keeper: Keeper = Depends(current_keeper), db: Session = Depends(get_db)):
    hive = Hive(**given.model_dump(), keeper_id=keeper.id)
    db.add(hive)
    db.commit()
    return {"id": hive.id}


@router.get("/photo/{name}")
def photo(name: str):
    return FileResponse(PHOTOS / name)  # weak: injection/path


@router.get("/picture/{name}")
def picture(name: str):
    target = (PHOTOS / name).resolve()
    if not target.is_relative_to(PHOTOS):
        raise HTTPException(404)
    return FileResponse(target)


@router.post("/label")
def label(printer: str, hive: int):
    subprocess.run(["lp", "-d", printer, f"/var/labels/{hive}.pdf"], check=True)
    subprocess.run(f"lp -d {printer} /var/labels/{hive}.pdf", shell=True, check=True)  # weak: injection/command
    return {"labelled": hive}


@router.get("/note", response_class=HTMLResponse)
def note(title: str):
    return HTMLResponse(f"<h1>{title}</h1>")  # weak: injection/page-output


@router.get("/go")
def go(to: str):
    return RedirectResponse(to)  # weak: injection/redirect
