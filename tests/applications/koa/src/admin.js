const Router = require('@koa/router');
const { exec } = require('child_process');
const fs = require('fs/promises');
const path = require('path');
const { hasRole } = require('./guards');
const router = new Router({ prefix: '/admin' });

router.get('/keepers', hasRole('inspector', 'office'), async (ctx) => {
  ctx.body = await ctx.db('keepers').select('id', 'name', 'district');
});

router.get('/export', async (ctx) => {
  ctx.body = await ctx.db('keepers').select('id', 'name', 'phone', 'email');
});

router.post('/keepers/:id/role', hasRole('office'), async (ctx) => {
  await ctx.db('keepers').where({ id: ctx.params.id }).update({ role: ctx.request.body.role });
  ctx.status = 204;
});

router.post('/backup', hasRole('office'), async (ctx) => {
  exec('tar czf /var/backups/' + ctx.request.body.name + '.tgz /srv/hives'); // weak: injection/command
  ctx.status = 202;
});

router.get('/report/:file', hasRole('office'), async (ctx) => {
  ctx.body = await fs.readFile(path.join('/srv/reports', ctx.query.file)); // weak: injection/path
});

router.get('/sheet/:file', hasRole('office'), async (ctx) => {
  ctx.body = await fs.readFile(path.join('/srv/reports', path.basename(ctx.params.file)));
});

module.exports = router;
