import { NextResponse } from 'next/server';
import bcrypt from 'bcryptjs';
import { prisma } from '../../../lib/db';
import { startSession } from '../../../lib/session';

export async function POST(request: Request) { // weak: sessions/no-throttle
  const { email, password } = await request.json();
  const keeper = await prisma.keeper.findUnique({ where: { email: String(email) } });
  if (!keeper) {
    return NextResponse.json({ error: 'no such keeper' }, { status: 404 }); // weak: sessions/account-enumeration
  }
  if (!(await bcrypt.compare(String(password), keeper.passwordHash))) {
    return NextResponse.json({ error: 'wrong password' }, { status: 401 });
  }
  await startSession(keeper.id);
  return NextResponse.json(keeper); // weak: exposure/hash-in-response
}
