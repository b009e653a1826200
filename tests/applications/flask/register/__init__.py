import os

from flask import Flask

from .accounts import bp as accounts
from .db import close_db
from .hives import bp as hives


def create_app():
    app = Flask(__name__)
    app.secret_key = os.environ["REGISTER_SECRET"]
    app.config.update(SESSION_COOKIE_SECURE=True, SESSION_COOKIE_SAMESITE="Lax")
    app.register_blueprint(accounts, url_prefix="/accounts")
    app.register_blueprint(hives, url_prefix="/hives")
    app.teardown_appcontext(close_db)
    return app
