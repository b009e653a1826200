from pydantic import BaseModel, ConfigDict, EmailStr, Field

class KeeperIn(BaseModel):
    email: EmailStr
    password: str = Field(min_length=10, max_length=64)
    phone: str | None = None

class KeeperOut(BaseModel):
    model_config = ConfigDict(from_attributes=True)
    id: int
    email: str

class KeeperPatch(BaseModel):
    phone: str | None = None
    is_office: bool | None = None

class HiveIn(BaseModel):
    name: str
    notes: str | None = None
