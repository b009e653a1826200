from fastapi import FastAPI

from .routers import accounts, hives

app = FastAPI(title="Register")
app.include_router(accounts.router)
app.include_router(hives.router)


@app.get("/health")
async def health():
    return {"ok": True}
