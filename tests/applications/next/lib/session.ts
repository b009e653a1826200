import { cookies } from 'next/headers';
import { jwtVerify, SignJWT } from 'jose';

const secret = new TextEncoder().encode(process.env.SESSION_SECRET);

export async function requireKeeper(): Promise<number> {
  const token = (await cookies()).get('session')?.value;
  if (!token) {
    throw new Error('sign in first');
  }
  const { payload } = await jwtVerify(token, secret, { algorithms: ['HS256'] });
  return Number(payload.sub);
}

export async function startSession(id: number) {
  const token = await new SignJWT({ sub: String(id) }).setProtectedHeader({ alg: 'HS256' }).setExpirationTime('30m').sign(secret);
  (await cookies()).set('session', token, { httpOnly: true, secure: true, sameSite: 'lax', path: '/' });
}
