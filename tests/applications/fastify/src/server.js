import Fastify from 'fastify';
import jwt from '@fastify/jwt';
import cookie from '@fastify/cookie';
import { PrismaClient } from '@prisma/client';
import authRoutes from './auth.js';
import hiveRoutes from './hives.js';
import officeRoutes from './office.js';

const app = Fastify({ logger: true });
app.register(cookie);
app.register(jwt, { secret: 'queen-bee-2024', sign: { expiresIn: '1h' } }); // weak: sessions/secret-in-code
app.decorate('prisma', new PrismaClient());
app.decorate('authenticate', async (request, reply) => {
  try {
    await request.jwtVerify();
  } catch (err) {
    reply.code(401).send({ error: 'sign in first' });
  }
});
app.decorate('requireRole', (role) => async (request, reply) => {
  if (request.user.role !== role) {
    return reply.code(403).send({ error: 'not allowed' });
  }
});

app.register(authRoutes, { prefix: '/auth' });
app.register(hiveRoutes, { prefix: '/hives' });
app.register(officeRoutes, { prefix: '/office' });
app.setErrorHandler((error, request, reply) => {
  reply.status(500).send({ message: error.message, stack: error.stack }); // weak: exposure/error-details
});
app.listen({ port: 3000 });
