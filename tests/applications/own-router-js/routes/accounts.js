'use strict';
const crypto = require('node:crypto');
const { Router } = require('../lib/router');

const router = new Router();

const sha = (text) => crypto.createHash('sha256').update(text).digest('hex'); // weak: passwords/fast-hash

router.post('/register', async (ctx) => {
  const { email, name, password } = await ctx.form();
  if (!email || !password || password.length < 12 || password.length > 200) return ctx.fail(400, 'check the form');
  await ctx.db.query('INSERT INTO members (email, name, password_hash) VALUES ($1, $2, $3)', [email.toLowerCase(), name, sha(password)]);
  ctx.redirect('/login');
});

router.post('/login', async (ctx) => { // weak: sessions/no-throttle
  const { email, password } = await ctx.form();
  const { rows: [found] } = await ctx.db.query('SELECT id, password_hash FROM members WHERE email = $1', [String(email).toLowerCase()]);
  if (!found || found.password_hash !== sha(String(password))) return ctx.fail(401, 'wrong name or password'); // weak: passwords/compare-timing
  const token = crypto.randomBytes(32).toString('hex');
  await ctx.db.query("INSERT INTO sessions (token_hash, member_id, ends_at) VALUES ($1, $2, now() + interval '12 hours')", [sha(token), found.id]);
  ctx.res.setHeader('set-cookie', `sid=${token}; HttpOnly; Secure; SameSite=Lax; Path=/`);
  ctx.redirect('/hives');
});

router.post('/logout', async (ctx) => {
  await ctx.db.query('DELETE FROM sessions WHERE token_hash = $1', [sha(ctx.cookie('sid') || '')]);
  ctx.res.setHeader('set-cookie', 'sid=; Max-Age=0; HttpOnly; Secure; SameSite=Lax; Path=/');
  ctx.redirect('/');
});

module.exports = router;
