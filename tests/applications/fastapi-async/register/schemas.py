from typing import Annotated, Literal
from pydantic import BaseModel, ConfigDict, EmailStr, Field, SecretStr, field_validator

NewPassword = Annotated[str, Field(min_length=12, max_length=72)]


class Joining(BaseModel):
    email: EmailStr
    name: Annotated[str, Field(min_length=2, max_length=80)]
    password: Annotated[str, Field(min_length=12, max_length=72)]

    @field_validator("email")
    @classmethod
    def lowered(cls, value: str) -> str:
        return value.lower()


class KeeperOut(BaseModel):
    model_config = ConfigDict(from_attributes=True)

    id: int
    email: EmailStr
    name: str


class ProfileChange(BaseModel):
    name: str | None = None
    is_admin: bool | None = None


class HiveIn(BaseModel):
    name: Annotated[str, Field(max_length=80)]
    note: str | None = None


class HiveSearch(BaseModel):
    part: str = ""
    sort: Literal["name", "id"] = "name"
    order: str = "asc"
