import os
from datetime import datetime, timedelta, timezone

import jwt
from fastapi import Depends, HTTPException
from fastapi.security import OAuth2PasswordBearer
from passlib.context import CryptContext
from sqlalchemy.orm import Session

from .database import get_db
from .models import Keeper

oauth2 = OAuth2PasswordBearer(tokenUrl="token")
passwords = CryptContext(schemes=["bcrypt"])
SECRET = os.environ["JWT_SECRET"]


def make_token(keeper: Keeper) -> str:
    return jwt.encode({"sub": str(keeper.id), "exp": datetime.now(timezone.utc) + timedelta(minutes=30)}, SECRET, algorithm="HS256")


def current_keeper(token: str = Depends(oauth2), db: Session = Depends(get_db)) -> Keeper:
    try:
        claims = jwt.decode(token, SECRET, algorithms=["HS256"])
    except jwt.PyJWTError:
        raise HTTPException(401, "sign in first")
    keeper = db.get(Keeper, int(claims["sub"]))
    if keeper is None:
        raise HTTPException(401, "sign in first")
    return keeper
