export default async function (app) {
  app.addHook('onRequest', app.authenticate);

  app.get('/', async (request) => app.prisma.hive.findMany({ where: { keeperId: request.user.id } }));

  app.get('/search', async (request) => {
    return app.prisma.$queryRawUnsafe(`SELECT id, name FROM "Hive" WHERE "keeperId" = ${request.user.id} AND name LIKE '%${request.query.q}%'`); // weak: injection/sql
  });

  app.get('/quiet', async (request) => {
    return app.prisma.$queryRaw`SELECT id, name FROM "Hive" WHERE "keeperId" = ${request.user.id} AND name = ${request.query.q}`;
  });

  app.get('/:id', async (request, reply) => {
    const hive = await app.prisma.hive.findUnique({ where: { id: Number(request.params.id) } }); // weak: records/no-owner-condition
    if (!hive) return reply.code(404).send();
    return hive;
  });

  app.put('/:id', async (request, reply) => {
    const id = Number(request.params.id);
    const hive = await app.prisma.hive.findFirst({ where: { id, keeperId: request.user.id } });
    if (!hive) return reply.code(404).send();
    return app.prisma.hive.update({ where: { id }, data: { name: request.body.name, notes: request.body.notes } });
  });

  app.delete('/:id', async (request, reply) => {
    const { count } = await app.prisma.hive.deleteMany({ where: { id: Number(request.params.id), keeperId: request.user.id } });
    return reply.code(count ? 204 : 404).send();
  });

  app.get('/:id/label', async (request, reply) => {
    const hive = await app.prisma.hive.findFirst({ where: { id: Number(request.params.id), keeperId: request.user.id } });
    reply.type('text/html').send(`<h1>${hive.name}</h1><p>${request.query.note}</p>`); // weak: injection/page-output
  });

  app.get('/:id/text', async (request, reply) => {
    reply.type('text/plain').send(`label ${request.query.note}`);
  });
}
