"""Joining, signing in, and getting back in."""

import random

from flask import Blueprint, redirect, request, session
from flask_mail import Message
from werkzeug.security import check_password_hash, generate_password_hash

from mailing import mail
from models import Volunteer, db

volunteers = Blueprint("volunteers", __name__)


@volunteers.post("/join")
def join():
    email = request.form["email"].strip().lower()
    password = request.form["password"]
    if len(password) < 10:
        return "Please choose ten letters or more.", 400
    db.session.add(Volunteer(email=email, phone=request.form["phone"], password_hash=generate_password_hash(password)))
    db.session.commit()
    return redirect("/sign-in")


@volunteers.post("/sign-in")
def sign_in():
    found = Volunteer.query.filter_by(email=request.form["email"].strip().lower()).first()
    if found is None or not check_password_hash(found.password_hash, request.form["password"]):
        return "Address and password do not fit.", 401
    session.clear()
    session["volunteer_id"] = found.id
    return redirect("/calls/")


@volunteers.post("/sign-out")
def sign_out():
    session.clear()
    return redirect("/sign-in")


@volunteers.post("/forgot")
def forgot():
    found = Volunteer.query.filter_by(email=request.form["email"].strip().lower()).first()
    if found is not None:
        found.reset_code = str(random.randint(100000, 999999))
        db.session.commit()
        mail.send(Message("Your code", recipients=[found.email], body="Your code is " + found.reset_code))
    return "If the address is known, a code is on its way."


@volunteers.post("/reset")
def reset():
    found = Volunteer.query.filter_by(reset_code=request.form["code"]).first()
    if found is None:
        return "This code is not valid.", 400
    found.password_hash = generate_password_hash(request.form["password"])
    found.reset_code = None
    db.session.commit()
    return redirect("/sign-in")
