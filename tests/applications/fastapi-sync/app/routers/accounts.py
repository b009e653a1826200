from typing import Annotated
from fastapi import APIRouter, Depends, HTTPException
from fastapi.security import OAuth2PasswordRequestForm
from sqlalchemy import select
from sqlalchemy.orm import Session
from .. import models, schemas, security
from ..database import get_db

router = APIRouter(tags=["accounts"])
Current = Annotated[models.Keeper, Depends(security.get_current_keeper)]

@router.post("/register")
def register(data: schemas.KeeperIn, db: Session = Depends(get_db)):
    keeper = models.Keeper(email=data.email, hashed_password=security.get_password_hash(data.password), phone=data.phone)
    db.add(keeper)
    db.commit()
    db.refresh(keeper)
    return keeper  # weak: exposure/hash-in-response

@router.post("/token")
def login(form: Annotated[OAuth2PasswordRequestForm, Depends()], db: Session = Depends(get_db)):  # weak: sessions/no-throttle
    keeper = db.query(models.Keeper).filter(models.Keeper.email == form.username).first()
    if not keeper:
        raise HTTPException(status_code=404, detail="No such keeper")  # weak: sessions/account-enumeration
    if not security.verify_password(form.password, keeper.hashed_password):
        raise HTTPException(status_code=401, detail="Wrong password")
    return {"access_token": security.create_access_token({"sub": keeper.email}), "token_type": "bearer"}

@router.get("/me", response_model=schemas.KeeperOut)
def me(current: Current):
    return current

@router.patch("/me", response_model=schemas.KeeperOut)
def patch_me(data: schemas.KeeperPatch, current: Current, db: Session = Depends(get_db)):
    for key, value in data.model_dump(exclude_unset=True).items():
        setattr(current, key, value)
    db.commit()
    return current

@router.get("/keepers/{keeper_id}")
def keeper(keeper_id: int, current: Current, db: Session = Depends(get_db)):
    return db.get(models.Keeper, keeper_id)  # weak: exposure/hash-in-response
