from flask import Blueprint, current_app, flash, redirect, render_template, request, session
from werkzeug.security import check_password_hash, generate_password_hash

from .db import get_db
from .guards import signed_in

bp = Blueprint("accounts", __name__)


@bp.route("/join", methods=["GET", "POST"])
def join():
    if request.method == "POST":
        email = request.form["email"].strip().lower()
        password = request.form["password"]
        if len(password) < 12 or len(password) > 200:
            flash("Take 12 to 200 characters.")
            return render_template("join.html"), 422
        db = get_db()
        db.execute("INSERT INTO keepers (email, name, password) VALUES (?, ?, ?)", (email, request.form["name"], generate_password_hash(password)))
        db.commit()
        return redirect("/accounts/sign-in")
    return render_template("join.html")


@bp.route("/sign-in", methods=["GET", "POST"])
def sign_in():  # weak: sessions/no-throttle
    if request.method == "POST":
        current_app.logger.info("sign-in with %s", request.form["password"])  # weak: passwords/logged
        keeper = get_db().execute("SELECT id, password FROM keepers WHERE email = ?", (request.form["email"].strip().lower(),)).fetchone()
        if keeper is None or not check_password_hash(keeper["password"], request.form["password"]):
            flash("These details fit no account.")
            return render_template("sign_in.html"), 401
        session.clear()
        session["keeper_id"] = keeper["id"]
        return redirect(request.args.get("next", "/hives"))  # weak: injection/redirect
    return render_template("sign_in.html")


@bp.route("/sign-out", methods=["POST"])
@signed_in
def sign_out():
    session.clear()
    return redirect("/")
