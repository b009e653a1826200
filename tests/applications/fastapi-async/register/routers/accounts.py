from typing import Annotated

from fastapi import APIRouter, Depends, HTTPException, status
from fastapi.security import OAuth2PasswordRequestForm
from sqlalchemy import select
from sqlalchemy.exc import IntegrityError

from ..db import Session
from ..models import Keeper
from ..schemas import Joining, KeeperOut, ProfileChange
from ..security import CurrentKeeper, hasher, matches, token_for

router = APIRouter(tags=["accounts"])


@router.post("/join", response_model=KeeperOut, status_code=status.HTTP_201_CREATED)
async def join(joining: Joining, session: Session):
    keeper = Keeper(email=joining.email, name=joining.name, password_hash=hasher.hash(joining.password))
    session.add(keeper)
    try:
        await session.commit()
    except IntegrityError:
        raise HTTPException(status.HTTP_409_CONFLICT, "This address cannot be used.")
    return keeper


@router.post("/sign-in")
async def sign_in(form: Annotated[OAuth2PasswordRequestForm, Depends()], session: Session):  # weak: sessions/no-throttle
    keeper = await session.scalar(select(Keeper).where(Keeper.email == form.username.lower()))
    if keeper is None or not matches(form.password, keeper.password_hash):
        raise HTTPException(status.HTTP_400_BAD_REQUEST, "These details fit no account.")
    return {"access_token": token_for(keeper), "token_type": "bearer"}


@router.get("/me", response_model=KeeperOut)
async def me(keeper: CurrentKeeper):
    return keeper


@router.get("/me/all")
async def me_whole(keeper: CurrentKeeper):
    return keeper  # weak: exposure/hash-in-response


@router.patch("/me", response_model=KeeperOut)
async def change_me(change: ProfileChange, keeper: CurrentKeeper, session: Session):
    for name, value in change.model_dump(exclude_unset=True).items():
        setattr(keeper, name, value)  # weak: injection/mass-assignment
    await session.commit()
    return keeper
