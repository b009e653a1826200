const Router = require('@koa/router');
const { signedIn } = require('./guards');
const router = new Router();

router.use('/hives', signedIn);

router.get('/hives', async (ctx) => {
  const sort = ctx.query.sort || 'name';
  ctx.body = await ctx.db('hives').where('keeper_id', ctx.state.keeper.id).orderByRaw(sort); // weak: injection/sql
});

router.get('/hives/search', async (ctx) => {
  ctx.body = await ctx.db('hives').where({ keeper_id: ctx.state.keeper.id }).whereRaw(`name ILIKE '%${ctx.query.q}%'`); // weak: injection/sql
});

router.get('/hives/:id', async (ctx) => {
  const hive = await ctx.db('hives').where({ id: ctx.params.id }).first(); // weak: records/no-owner-condition
  ctx.assert(hive, 404);
  ctx.body = hive;
});

router.put('/hives/:id', async (ctx) => {
  const hive = await ctx.db('hives').where({ id: ctx.params.id, keeper_id: ctx.state.keeper.id }).first();
  if (!hive) return ctx.throw(404);
  await ctx.db('hives').where({ id: hive.id }).update(ctx.request.body); // weak: injection/mass-assignment
  ctx.status = 204;
});

router.delete('/hives/:id', async (ctx) => {
  const gone = await ctx.db('hives').where({ id: ctx.params.id }).andWhere({ keeper_id: ctx.state.keeper.id }).del();
  ctx.status = gone ? 204 : 404;
});

router.post('/hives/:id/inspections', async (ctx) => {
  const hive = await ctx.db('hives').where({ id: ctx.params.id }).first();
  if (!hive || hive.keeper_id !== ctx.state.keeper.id) {
    ctx.status = 404;
    return;
  }
  const { notes, queen_seen } = ctx.request.body;
  await ctx.db('inspections').insert({ hive_id: hive.id, notes, queen_seen });
  ctx.status = 201;
});

router.get('/swarms', async (ctx) => {
  ctx.body = await ctx.db.select('id', 'place', 'seen_on').from('swarms').orderBy('seen_on', 'desc').limit(50);
});

router.get('/swarms/:id/page', async (ctx) => {
  const swarm = await ctx.db('swarms').where({ id: ctx.params.id }).first();
  ctx.type = 'html';
  ctx.body = `<h1>${swarm.place}</h1><p>asked by ${ctx.query.from}</p>`; // weak: injection/page-output
});

router.get('/go', async (ctx) => {
  ctx.redirect(ctx.query.to); // weak: injection/redirect
});

module.exports = router;
