'use strict';
const { Router } = require('../lib/router');
const { member, only } = require('../lib/guards');

const router = new Router();

router.get('/hives', member, async (ctx) => {
  const { rows } = await ctx.db.query('SELECT id, name, apiary FROM hives WHERE keeper_id = $1', [ctx.member.id]);
  ctx.json(rows);
});

router.get('/hives/:id', member, async (ctx) => {
  const { rows } = await ctx.db.query('SELECT * FROM hives WHERE id = $1', [ctx.params.id]); // weak: records/no-owner-condition
  if (!rows[0]) return ctx.fail(404, 'no such hive');
  ctx.json(rows[0]);
});

router.post('/hives', member, async (ctx) => {
  const form = await ctx.form();
  await ctx.db.query('INSERT INTO hives (name, apiary, keeper_id) VALUES ($1, $2, $3)', [form.name, form.apiary, ctx.member.id]);
  ctx.redirect('/hives');
});

router.del('/hives/:id', member, async (ctx) => {
  await ctx.db.query('DELETE FROM hives WHERE id = $1 AND keeper_id = $2', [ctx.params.id, ctx.member.id]);
  ctx.redirect('/hives');
});

router.get('/search', async (ctx) => {
  const term = ctx.query.get('q') || '';
  const { rows } = await ctx.db.query(`SELECT id, headline FROM swarm_reports WHERE headline ILIKE '%${term}%'`); // weak: injection/sql
  ctx.html(`<h1>Reports about ${term}</h1><ul>${rows.map((r) => `<li>${r.id}</li>`).join('')}</ul>`);
});

router.get('/office/members', member, only('office'), async (ctx) => {
  const { rows } = await ctx.db.query('SELECT id, name, email FROM members ORDER BY name');
  ctx.json(rows);
});

module.exports = router;
