from sqlalchemy import Boolean, Column, ForeignKey, Integer, String
from sqlalchemy.orm import Mapped, mapped_column, relationship
from .database import Base

class Keeper(Base):
    __tablename__ = "keepers"
    id = Column(Integer, primary_key=True)
    email = Column(String(200), unique=True)
    hashed_password = Column(String(200), nullable=False)
    phone = Column(String(40))
    is_office = Column(Boolean, default=False)
    hives = relationship("Hive", back_populates="keeper")

class Hive(Base):
    __tablename__ = "hives"
    id: Mapped[int] = mapped_column(primary_key=True)
    name: Mapped[str] = mapped_column(String(40))
    notes: Mapped[str | None]
    keeper_id: Mapped[int] = mapped_column(ForeignKey("keepers.id"))
    keeper = relationship("Keeper", back_populates="hives")
