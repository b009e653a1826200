import { NextResponse } from 'next/server';
import { z } from 'zod';
import { prisma } from '../../../../lib/db';
import { requireKeeper } from '../../../../lib/session';

const shape = z.object({ name: z.string().max(80), frames: z.number().int() });

export async function GET(request: Request, { params }: { params: { id: string } }) {
  const keeperId = await requireKeeper();
  const hive = await prisma.hive.findFirst({ where: { id: Number(params.id), keeperId } });
  return hive ? NextResponse.json(hive) : new NextResponse(null, { status: 404 });
}

export async function PUT(request: Request, { params }: { params: { id: string } }) {
  const keeperId = await requireKeeper();
  await prisma.hive.updateMany({ where: { id: Number(params.id), keeperId }, data: shape.parse(await request.json()) });
  return new NextResponse(null, { status: 204 });
}

export async function PATCH(request: Request, { params }: { params: { id: string } }) {
  await requireKeeper();
  await prisma.hive.update({ where: { id: Number(params.id) }, data: await request.json() }); // weak: injection/mass-assignment, records/no-owner-condition
  return new NextResponse(null, { status: 204 });
}
