import { NextResponse } from 'next/server';
import bcrypt from 'bcryptjs';
import { z } from 'zod';
import { prisma } from '../../../lib/db';
import { startSession } from '../../../lib/session';

const shape = z.object({
  email: z.string().email().toLowerCase(),
  name: z.string().max(120),
  password: z.string().min(12).max(72),
});

export async function POST(request: Request) {
  const given = shape.parse(await request.json());
  const keeper = await prisma.keeper.create({
    data: { email: given.email, name: given.name, passwordHash: await bcrypt.hash(given.password, 12) },
  });
  await startSession(keeper.id);
  return NextResponse.json({ id: keeper.id }, { status: 201 });
}
