const Koa = require('koa');
const bodyParser = require('koa-bodyparser');
const session = require('koa-session');
const db = require('./db');
const accounts = require('./accounts');
const hives = require('./hives');
const admin = require('./admin');

const app = new Koa();
app.keys = ['bee-secret']; // weak: sessions/secret-in-code
app.use(session({ key: 'hive.sid', httpOnly: false, secure: true, sameSite: 'lax' }, app)); // weak: sessions/cookie-readable
app.use(bodyParser());
app.context.db = db;

app.use(async (ctx, next) => {
  try {
    await next();
  } catch (err) {
    ctx.status = err.status || 500;
    ctx.body = { error: err.message, stack: err.stack }; // weak: exposure/error-details
  }
});

app.use(async (ctx, next) => {
  ctx.state.keeper = ctx.session.keeperId ? await ctx.db('keepers').where({ id: ctx.session.keeperId }).first() : null;
  await next();
});

app.use(accounts.routes());
app.use(hives.routes()).use(hives.allowedMethods());
app.use(admin.routes());
app.listen(3000);
