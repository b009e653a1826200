from typing import Literal

from pydantic import BaseModel, EmailStr, Field


class JoinIn(BaseModel):
    email: EmailStr
    name: str = Field(max_length=120)
    password: str = Field(min_length=12, max_length=72)


class KeeperOut(BaseModel):
    id: int
    name: str


class HiveIn(BaseModel):
    name: str = Field(max_length=80)
    frames: int = Field(ge=1, le=40)


class Listing(BaseModel):
    order: Literal["name", "frames"] = "name"
    district: str
