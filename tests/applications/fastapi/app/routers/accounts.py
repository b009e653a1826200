from fastapi import APIRouter, Depends, HTTPException
from fastapi.security import OAuth2PasswordRequestForm
from sqlalchemy.orm import Session

from ..database import get_db
from ..models import Keeper
from ..schemas import JoinIn, KeeperOut
from ..security import current_keeper, make_token, passwords

router = APIRouter()


@router.post("/join", response_model=KeeperOut)
def join(given: JoinIn, db: Session = Depends(get_db)):
    keeper = Keeper(email=given.email.lower(), name=given.name, hashed_password=passwords.hash(given.password))
    db.add(keeper)
    db.commit()
    return keeper


@router.post("/token")
def token(form: OAuth2PasswordRequestForm = Depends(), db: Session = Depends(get_db)):  # weak: sessions/no-throttle
    keeper = db.query(Keeper).filter(Keeper.email == form.username.lower()).first()
    if not keeper:
        raise HTTPException(404, "no such keeper")  # weak: sessions/account-enumeration
    if not passwords.verify(form.password, keeper.hashed_password):
        raise HTTPException(401, "wrong password")
    return {"access_token": make_token(keeper), "token_type": "bearer"}


@router.get("/me", response_model=KeeperOut)
def me(keeper: Keeper = Depends(current_keeper)):
    return keeper
