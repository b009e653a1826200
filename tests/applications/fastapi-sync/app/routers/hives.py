from fastapi import APIRouter, Depends, HTTPException, Request
from fastapi.responses import HTMLResponse, FileResponse, RedirectResponse
from sqlalchemy import select, text
from sqlalchemy.orm import Session
from .. import models, schemas
from ..database import get_db
from ..security import get_current_keeper
import subprocess

router = APIRouter(prefix="/hives", dependencies=[Depends(get_current_keeper)])

@router.get("/")
def index(skip: int = 0, limit: int = 50, db: Session = Depends(get_db), current: models.Keeper = Depends(get_current_keeper)):
    return db.scalars(select(models.Hive).where(models.Hive.keeper_id == current.id).offset(skip).limit(limit)).all()

@router.get("/search")
def search(q: str, sort: str = "name", db: Session = Depends(get_db), current: models.Keeper = Depends(get_current_keeper)):
    rows = db.execute(text(f"SELECT id, name FROM hives WHERE keeper_id = {current.id} AND name LIKE '%{q}%'"))  # weak: injection/sql
    rows2 = db.execute(text("SELECT id, name FROM hives WHERE keeper_id = :k AND name LIKE :q"), {"k": current.id, "q": f"%{q}%"})
    rows3 = db.query(models.Hive).filter(models.Hive.keeper_id == current.id).order_by(text(sort)).all()  # weak: injection/sql
    return [dict(r) for r in rows]

@router.get("/{hive_id}")
def show(hive_id: int, db: Session = Depends(get_db)):
    hive = db.query(models.Hive).filter(models.Hive.id == hive_id).first()  # weak: records/no-owner-condition
    if not hive:
        raise HTTPException(404)
    return hive

@router.put("/{hive_id}")
def update(hive_id: int, data: schemas.HiveIn, db: Session = Depends(get_db), current: models.Keeper = Depends(get_current_keeper)):
    hive = db.get(models.Hive, hive_id)
    if hive is None or hive.keeper_id != current.id:
        raise HTTPException(404)
    hive.name = data.name
    hive.notes = data.notes
    db.commit()
    return hive

@router.delete("/{hive_id}", status_code=204)
def delete(hive_id: int, db: Session = Depends(get_db)):
    hive = db.get(models.Hive, hive_id)  # weak: records/no-owner-condition
    db.delete(hive)
    db.commit()

@router.get("/{hive_id}/label", response_class=HTMLResponse)
def label(hive_id: int, note: str):
    return f"<h1>Hive {hive_id}</h1><p>{note}</p>"  # weak: injection/page-output

@router.get("/{hive_id}/label2")
def label2(hive_id: int, note: str):
    return HTMLResponse(f"<h1>Hive {hive_id}</h1><p>{note}</p>")  # weak: injection/page-output

@router.get("/{hive_id}/go")
def go(to: str):
    return RedirectResponse(to)  # weak: injection/redirect

@router.get("/files/{name:path}")
def files(name: str):
    return FileResponse("/srv/files/" + name)  # weak: injection/path

@router.post("/print")
def print_label(printer: str):
    subprocess.run(f"lp -d {printer} /srv/label.pdf", shell=True)  # weak: injection/command
    return {"ok": True}
