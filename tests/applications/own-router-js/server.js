'use strict';
const http = require('node:http');
const { Pool } = require('pg');
const { Context } = require('./lib/context');

const db = new Pool({ connectionString: process.env.DATABASE_URL });
const routers = [require('./routes/accounts'), require('./routes/hives')];

http.createServer(async (req, res) => {
  const ctx = new Context(req, res, db);
  try {
    for (const router of routers) {
      await router.handle(ctx);
      if (ctx.done) return;
    }
  } catch (error) {
    console.error(error);
    ctx.fail(500, 'something went wrong');
  }
}).listen(8080, '127.0.0.1');
