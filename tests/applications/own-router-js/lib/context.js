'use strict';
const { parse } = require('node:querystring');

class Context {
  constructor(req, res, db) {
    this.req = req;
    this.res = res;
    this.db = db;
    const url = new URL(req.url, 'http://localhost');
    this.method = req.method;
    this.path = url.pathname;
    this.query = url.searchParams;
    this.done = false;
  }

  async form() {
    const chunks = [];
    for await (const chunk of this.req) chunks.push(chunk);
    return parse(Buffer.concat(chunks).toString('utf8'));
  }

  cookie(name) {
    const header = this.req.headers.cookie || '';
    const found = header.split('; ').find((c) => c.startsWith(name + '='));
    return found && decodeURIComponent(found.slice(name.length + 1));
  }

  json(value, status = 200) {
    this.done = true;
    this.res.writeHead(status, { 'content-type': 'application/json' });
    this.res.end(JSON.stringify(value));
  }

  html(text) {
    this.done = true;
    this.res.writeHead(200, { 'content-type': 'text/html; charset=utf-8' });
    this.res.end(text); // weak: injection/page-output
  }

  redirect(to) {
    this.done = true;
    this.res.writeHead(303, { location: to });
    this.res.end();
  }

  fail(status, message) {
    this.json({ error: message }, status);
  }
}

module.exports = { Context };
