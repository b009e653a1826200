from fastapi import FastAPI
from fastapi.middleware.cors import CORSMiddleware
from .routers import accounts, hives, office

app = FastAPI(debug=True)  # weak: exposure/debug-left-on
app.include_router(accounts.router)
app.include_router(hives.router)
app.include_router(office.router, prefix="/office")
