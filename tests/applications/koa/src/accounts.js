const Router = require('@koa/router');
const bcrypt = require('bcryptjs');
const crypto = require('crypto');
const { signedIn } = require('./guards');
const router = new Router({ prefix: '/accounts' });

router.post('/join', async (ctx) => {
  const { email, password, name } = ctx.request.body;
  if (!email || !password || password.length < 10 || password.length > 72) ctx.throw(400, 'check the form');
  const taken = await ctx.db('keepers').where('email', email).first();
  if (taken) {
    ctx.status = 409;
    ctx.body = { error: 'this address has an account' };
    return;
  }
  const [keeper] = await ctx.db('keepers').insert({ ...ctx.request.body, password: await bcrypt.hash(password, 12) }).returning('*'); // weak: injection/mass-assignment
  ctx.session.keeperId = keeper.id;
  ctx.body = keeper; // weak: exposure/hash-in-response
});

router.post('/sign-in', async (ctx) => { // weak: sessions/no-throttle
  const { email, password } = ctx.request.body;
  const keeper = await ctx.db('keepers').where({ email }).first();
  if (!keeper) return ctx.throw(404, 'no such keeper'); // weak: sessions/account-enumeration
  if (!(await bcrypt.compare(password, keeper.password))) return ctx.throw(401, 'wrong password');
  ctx.session.keeperId = keeper.id;
  ctx.body = { id: keeper.id, name: keeper.name };
});

router.post('/sign-out', signedIn, async (ctx) => {
  ctx.session = null;
  ctx.status = 204;
});

router.post('/forgot', async (ctx) => {
  const code = Math.floor(Math.random() * 1000000).toString(); // weak: passwords/reset-token-predictable
  await ctx.db('keepers').where({ email: ctx.request.body.email }).update({ reset_code: code }); // weak: passwords/reset-token-kept-plain
  ctx.body = { ok: true };
});

router.post('/reset', async (ctx) => { // weak: passwords/reset-token-lasting
  const { code, password } = ctx.request.body;
  const keeper = await ctx.db('keepers').where({ reset_code: code }).first();
  if (!keeper) ctx.throw(400);
  const hash = crypto.createHash('sha256').update(password).digest('hex'); // weak: passwords/fast-hash
  await ctx.db('keepers').where({ id: keeper.id }).update({ password: hash });
  ctx.body = { ok: true };
});

router.patch('/me', signedIn, async (ctx) => {
  const { name, phone } = ctx.request.body;
  await ctx.db('keepers').where({ id: ctx.state.keeper.id }).update({ name, phone });
  ctx.status = 204;
});

module.exports = router;
