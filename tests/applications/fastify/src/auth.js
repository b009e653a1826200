import argon2 from 'argon2';

export default async function (app) {
  app.post('/register', {
    schema: { body: { type: 'object', required: ['email', 'password', 'name'], properties: { email: { type: 'string', format: 'email' }, password: { type: 'string', minLength: 12, maxLength: 128 }, name: { type: 'string' } } } },
  }, async (request, reply) => {
    const { email, password, name } = request.body;
    const keeper = await app.prisma.keeper.create({ data: { email, name, passwordHash: await argon2.hash(password) } });
    return reply.code(201).send(keeper); // weak: exposure/hash-in-response
  });

  app.post('/login', async (request, reply) => { // weak: sessions/no-throttle
    const { email, password } = request.body;
    const keeper = await app.prisma.keeper.findUnique({ where: { email } });
    if (!keeper || !(await argon2.verify(keeper.passwordHash, password))) {
      return reply.code(401).send({ error: 'wrong address or password' });
    }
    const token = app.jwt.sign({ id: keeper.id, role: keeper.role });
    reply.setCookie('token', token, { path: '/', httpOnly: true }); // weak: sessions/cookie-not-secure
    return { token };
  });

  app.get('/me', { onRequest: [app.authenticate] }, async (request) => {
    return app.prisma.keeper.findUnique({ where: { id: request.user.id }, select: { id: true, name: true, email: true } });
  });

  app.patch('/me', { preHandler: [app.authenticate] }, async (request) => {
    return app.prisma.keeper.update({ where: { id: request.user.id }, data: request.body, select: { id: true } }); // weak: injection/mass-assignment
  });
}
