from datetime import datetime, timedelta, timezone
import os
from typing import Annotated

import jwt
from argon2 import PasswordHasher
from argon2.exceptions import VerifyMismatchError
from fastapi import Depends, HTTPException, status
from fastapi.security import OAuth2PasswordBearer
from sqlalchemy import select

from .db import Session
from .models import Keeper

hasher = PasswordHasher()
scheme = OAuth2PasswordBearer(tokenUrl="sign-in")
KEY = os.environ["TOKEN_KEY"]


def matches(password: str, kept: str) -> bool:
    try:
        return hasher.verify(kept, password)
    except VerifyMismatchError:
        return False


def token_for(keeper: Keeper) -> str:
    ends = datetime.now(timezone.utc) + timedelta(minutes=20)
    return jwt.encode({"sub": str(keeper.id), "exp": ends}, KEY, algorithm="HS256")


async def current_keeper(token: Annotated[str, Depends(scheme)], session: Session) -> Keeper:
    try:
        claims = jwt.decode(token, KEY, algorithms=["HS256"])
    except jwt.PyJWTError:
        raise HTTPException(status.HTTP_401_UNAUTHORIZED)
    keeper = await session.get(Keeper, int(claims["sub"]))
    if keeper is None:
        raise HTTPException(status.HTTP_401_UNAUTHORIZED)
    return keeper


async def current_admin(keeper: Annotated[Keeper, Depends(current_keeper)]) -> Keeper:
    if not keeper.is_admin:
        raise HTTPException(status.HTTP_403_FORBIDDEN)
    return keeper

CurrentKeeper = Annotated[Keeper, Depends(current_keeper)]
