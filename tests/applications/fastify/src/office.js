import { execFile, execSync } from 'node:child_process';
import fs from 'node:fs';

export default async function (app) {
  app.get('/keepers', { onRequest: [app.authenticate, app.requireRole('office')] }, async () => app.prisma.keeper.findMany({ select: { id: true, name: true } }));

  app.get('/keepers/:id', { onRequest: [app.authenticate] }, async (request) => {
    return app.prisma.keeper.findUnique({ where: { id: Number(request.params.id) } }); // weak: exposure/hash-in-response
  });

  app.post('/print', { onRequest: [app.authenticate, app.requireRole('office')] }, async (request) => {
    execSync(`lp -d ${request.body.printer} /srv/label.pdf`); // weak: injection/command
    execFile('lp', ['-d', request.body.printer, '/srv/label.pdf']);
    return { ok: true };
  });

  app.get('/files/:name', { onRequest: [app.authenticate, app.requireRole('office')] }, async (request, reply) => {
    return reply.send(fs.createReadStream('/srv/files/' + request.query.name)); // weak: injection/path
  });

  app.delete('/keepers/:id', { onRequest: [app.authenticate] }, async (request) => {
    await app.prisma.keeper.delete({ where: { id: Number(request.params.id) } }); // weak: records/no-owner-condition
    return { ok: true };
  });
}
