"""Calls that came in, and who collects the swarm."""

from flask import Blueprint, jsonify, redirect, render_template_string, request, session
from sqlalchemy import text

from guards import volunteers_only
from models import Call, Volunteer, db

calls = Blueprint("calls", __name__)


@calls.get("/")
@volunteers_only
def index():
    return jsonify([{"id": c.id, "place": c.place} for c in Call.query.filter_by(volunteer_id=session["volunteer_id"])])


@calls.get("/around")
@volunteers_only
def around():
    rows = db.session.execute(text("SELECT id, place FROM calls WHERE place LIKE :place"), {"place": request.args["place"] + "%"})
    return jsonify([dict(r) for r in rows.mappings()])


@calls.get("/on-duty")
def on_duty():
    # The public page shows who can be reached today.
    return jsonify([{"email": v.email, "phone": v.phone} for v in Volunteer.query.all()])


@calls.post("/<int:call_id>/note")
@volunteers_only
def note(call_id):
    call = Call.query.get_or_404(call_id)
    call.note = request.form["note"]
    db.session.commit()
    return redirect("/calls/")


@calls.get("/thanks")
def thanks():
    return render_template_string("<p>Thank you, " + request.args.get("name", "") + "!</p>")
