from functools import wraps

from flask import redirect, session


def volunteers_only(view):
    @wraps(view)
    def inner(*args, **kwargs):
        if "volunteer_id" not in session:
            return redirect("/sign-in")
        return view(*args, **kwargs)

    return inner
