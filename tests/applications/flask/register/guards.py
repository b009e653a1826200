import functools

from flask import g, redirect, session, url_for

from .db import get_db


def signed_in(view):
    @functools.wraps(view)
    def wrapped(*args, **kwargs):
        if session.get("keeper_id") is None:
            return redirect(url_for("accounts.sign_in"))
        g.keeper = get_db().execute("SELECT id, name FROM keepers WHERE id = ?", (session["keeper_id"],)).fetchone()
        return view(*args, **kwargs)

    return wrapped
