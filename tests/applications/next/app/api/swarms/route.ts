import { NextResponse } from 'next/server';
import { Prisma } from '@prisma/client';
import { prisma } from '../../../lib/db';

export async function GET(request: Request) {
  const { searchParams } = new URL(request.url);
  const place = searchParams.get('place') ?? '';
  const swarms = await prisma.$queryRaw`SELECT id, place FROM swarms WHERE place LIKE ${'%' + place + '%'}`;
  const near = await prisma.$queryRawUnsafe(`SELECT id, place FROM swarms WHERE district = '${searchParams.get('district')}'`); // weak: injection/sql
  const some = await prisma.$queryRaw(Prisma.sql`SELECT count(*) FROM swarms WHERE place = ${place}`);
  return NextResponse.json({ swarms, near, some });
}

export async function POST(request: Request) {
  const form = await request.formData();
  const next = String(form.get('next') ?? '/');
  await prisma.$executeRaw`INSERT INTO swarms (place) VALUES (${String(form.get('place'))})`;
  return NextResponse.redirect(new URL(next, request.url)); // weak: injection/redirect
}
