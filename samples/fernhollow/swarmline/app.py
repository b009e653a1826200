"""The swarm line: volunteers take calls and collect swarms."""

import os

from flask import Flask

from calls import calls
from volunteers import volunteers

app = Flask(__name__)
app.secret_key = os.environ["SWARMLINE_KEY"]
app.register_blueprint(volunteers)
app.register_blueprint(calls, url_prefix="/calls")
