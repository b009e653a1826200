from sqlalchemy import Boolean, Column, ForeignKey, Integer, String
from sqlalchemy.orm import relationship

from .database import Base


class Keeper(Base):
    __tablename__ = "keepers"

    id = Column(Integer, primary_key=True)
    email = Column(String(160), unique=True, index=True)
    name = Column(String(120))
    hashed_password = Column(String(100))
    is_office = Column(Boolean, default=False)
    hives = relationship("Hive", back_populates="keeper")


class Hive(Base):
    __tablename__ = "hives"

    id = Column(Integer, primary_key=True)
    name = Column(String(80))
    frames = Column(Integer)
    keeper_id = Column(Integer, ForeignKey("keepers.id"))
    keeper = relationship("Keeper", back_populates="hives")
