import os
import pickle

from flask import Blueprint, abort, g, jsonify, render_template, render_template_string, request, send_file, send_from_directory
from markupsafe import Markup, escape

from .db import get_db
from .guards import signed_in

bp = Blueprint("hives", __name__)
EXPORTS = "/var/exports"


@bp.route("/")
@signed_in
def index():
    order = request.args.get("order")
    if order not in ("name", "frames"):
        order = "name"
    rows = get_db().execute(f"SELECT id, name FROM hives WHERE keeper_id = ? ORDER BY {order}", (g.keeper["id"],)).fetchall()
    return render_template("hives.html", rows=rows, note=request.args.get("note", ""))


@bp.route("/search")
@signed_in
def search():
    part = request.args["part"]
    rows = get_db().execute("SELECT id, name FROM hives WHERE name LIKE '%" + part + "%'").fetchall()  # weak: injection/sql
    return jsonify([dict(r) for r in rows])


@bp.route("/hello")
def hello():
    name = request.args.get("name", "")
    if request.args.get("safe"):
        return Markup("<h1>%s</h1>") % name
    if request.args.get("plain"):
        return "<h1>" + escape(name) + "</h1>"
    return "<h1>" + name + "</h1>"  # weak: injection/page-output


@bp.route("/card")
def card():
    return render_template_string("<p>" + request.args["text"] + "</p>")  # weak: injection/template


@bp.route("/export/<path:name>")
@signed_in
def export(name):
    if request.args.get("old"):
        return send_file(os.path.join(EXPORTS, name))  # weak: injection/path
    return send_from_directory(EXPORTS, name)


@bp.route("/import", methods=["POST"])
@signed_in
def bring():
    hives = pickle.loads(request.get_data())  # weak: injection/deserialise
    if not isinstance(hives, list):
        abort(400)
    os.system("logger imported " + str(len(hives)))
    return jsonify(count=len(hives))
