from fastapi import FastAPI

from .routers import accounts, hives

app = FastAPI()
app.include_router(accounts.router)
app.include_router(hives.router, prefix="/hives")
