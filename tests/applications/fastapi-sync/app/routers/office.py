from typing import Annotated
from fastapi import APIRouter, Depends
from sqlalchemy.orm import Session
from .. import models, schemas
from ..database import get_db
from ..security import get_current_keeper, require_office

router = APIRouter()

@router.get("/keepers", response_model=list[schemas.KeeperOut], dependencies=[Depends(require_office)])
def keepers(db: Session = Depends(get_db)):
    return db.query(models.Keeper).all()

@router.delete("/keepers/{keeper_id}")
def remove(keeper_id: int, office: Annotated[models.Keeper, Depends(require_office)], db: Session = Depends(get_db)):
    db.query(models.Keeper).filter_by(id=keeper_id).delete()
    db.commit()

@router.post("/keepers/{keeper_id}/office")
def make_office(keeper_id: int, db: Session = Depends(get_db), current: models.Keeper = Depends(get_current_keeper)):
    keeper = db.get(models.Keeper, keeper_id)
    keeper.is_office = True
    db.commit()  # weak: records/no-owner-condition

@router.get("/export")
def export(db: Session = Depends(get_db)):
    return db.query(models.Hive).all()  # weak: records/no-sign-in
