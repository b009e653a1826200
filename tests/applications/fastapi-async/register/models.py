from datetime import datetime
from sqlalchemy import ForeignKey, String, func
from sqlalchemy.orm import DeclarativeBase, Mapped, mapped_column, relationship


class Base(DeclarativeBase):
    pass


class Keeper(Base):
    __tablename__ = "keepers"

    id: Mapped[int] = mapped_column(primary_key=True)
    email: Mapped[str] = mapped_column(String(254), unique=True, index=True)
    name: Mapped[str] = mapped_column(String(80))
    password_hash: Mapped[str] = mapped_column(String(120))
    is_admin: Mapped[bool] = mapped_column(default=False)
    joined_at: Mapped[datetime] = mapped_column(server_default=func.now())
    hives: Mapped[list["Hive"]] = relationship(back_populates="keeper")


class Hive(Base):
    __tablename__ = "hives"

    id: Mapped[int] = mapped_column(primary_key=True)
    name: Mapped[str] = mapped_column(String(80))
    note: Mapped[str | None]
    keeper_id: Mapped[int] = mapped_column(ForeignKey("keepers.id"), index=True)
    keeper: Mapped[Keeper] = relationship(back_populates="hives")
