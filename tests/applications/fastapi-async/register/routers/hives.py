from typing import Annotated

from fastapi import APIRouter, Depends, HTTPException, Query
from sqlalchemy import select, text

from ..db import Session
from ..models import Hive
from ..schemas import HiveIn, HiveSearch
from ..security import CurrentKeeper, current_admin

router = APIRouter(prefix="/hives", tags=["hives"])


@router.get("")
async def list_hives(keeper: CurrentKeeper, session: Session, search: Annotated[HiveSearch, Query()]):
    found = await session.execute(
        text(f"SELECT id, name FROM hives WHERE keeper_id = :keeper AND name LIKE :part ORDER BY {search.sort}"),
        {"keeper": keeper.id, "part": f"%{search.part}%"},
    )
    return [dict(row._mapping) for row in found]


@router.get("/sorted")
async def sorted_hives(keeper: CurrentKeeper, session: Session, search: Annotated[HiveSearch, Query()]):
    found = await session.execute(
        text(f"SELECT id, name FROM hives WHERE keeper_id = :keeper ORDER BY name {search.order}"),  # weak: injection/sql
        {"keeper": keeper.id},
    )
    return [dict(row._mapping) for row in found]


@router.post("", status_code=201)
async def add_hive(hive: HiveIn, keeper: CurrentKeeper, session: Session):
    made = Hive(**hive.model_dump(), keeper_id=keeper.id)
    session.add(made)
    await session.commit()
    return {"id": made.id}


@router.delete("/{number}", status_code=204)
async def remove_hive(number: int, keeper: CurrentKeeper, session: Session):
    hive = await session.scalar(select(Hive).where(Hive.id == number, Hive.keeper_id == keeper.id))
    if hive is None:
        raise HTTPException(404)
    await session.delete(hive)
    await session.commit()


@router.get("/all", dependencies=[Depends(current_admin)])
async def all_hives(session: Session):
    return (await session.scalars(select(Hive).order_by(Hive.name))).all()
